"""Names of locales, layouts of keyboards and their console maps, as the systems themselves write them.

Names of locales follow the GNU C library (``en_GB.UTF-8``), layouts those of X (``gb``, ``ch(fr)``).
"""

from __future__ import annotations

from msgspec.structs import replace

from fairledger.catalog.values import find_language, iana_zone, keyboard_of, values
from fairledger.families.keyboards import keyboards_of
from fairledger.intent.locale import Locale
from fairledger.model.pattern import pattern
from fairledger.model.values import Template, Text, concat, form, formed, takes, unformed

_NAME = pattern(r"([A-Za-z]{2,3}(?:_[A-Z]{2})?)(?:\.([A-Za-z0-9-]+))?")
_PAIR = pattern(r"[0-9a-fA-F]{4}:([0-9a-fA-F]{8})")
UTF8 = "UTF-8"
"""The encoding where nothing is said."""


def locale_name(language: Text, encoding: Text) -> Text:
    """A language with its encoding: ``en-GB`` and ``UTF-8`` are ``en_GB.UTF-8``."""
    return concat(formed(language, _UNDERSCORED), ".", encoding)


_UNDERSCORED = "unix-language"


@form(_UNDERSCORED)
def _underscored(tag: str) -> str:
    return tag.replace("-", "_")


def language_of(name: Text | None) -> tuple[Text | None, Text]:
    """Language tag and encoding of a locale's name; UTF-8 where it says none, no language where it is no such name."""
    if isinstance(name, Template):
        *front, last = name.parts
        if isinstance(last, str) and last.startswith(".") and front:
            open_ = replace(name, parts=tuple(front))
            return (unformed(open_, _UNDERSCORED), last[1:]) if takes(open_, _UNDERSCORED) else (None, UTF8)
        return None, UTF8
    match = _NAME.fullmatch(name.strip()) if name else None
    return (match[1].replace("_", "-"), match[2] or UTF8) if match else (None, UTF8)


def layouts_of(value: Locale) -> tuple[Text, ...]:
    """The keyboards of a locale by their X names, whatever spelling they have; else the one that its language has."""
    return tuple(dict.fromkeys(_layout(one) for one in keyboards_of(value)))


def _layout(name: Text) -> Text:
    return formed(name, _LAYOUT)


_LAYOUT = "x-layout"


@form(_LAYOUT)
def _plain_layout(name: str) -> str:
    pair = _PAIR.fullmatch(name)
    if pair:
        return keyboard_of(pair[1]) or name
    language = find_language(name)
    if language and values().languages[language].keyboard:
        return values().languages[language].keyboard
    bare = name.rpartition(":")[2]
    return bare if bare in values().keyboards else name


def console_of(layouts: tuple[Text, ...]) -> Text | None:
    """The key map of the text console that goes with the first layout; None where nobody knows."""
    if layouts and isinstance(layouts[0], Template):
        return formed(_layout(bare_layout(layouts[0])), _CONSOLE)
    return (_console(layouts[0]) or None) if layouts and isinstance(layouts[0], str) else None


_CONSOLE = "console-map"


@form(_CONSOLE)
def _console(layout: str) -> str:
    row = values().keyboards.get(layout)
    return row.console if row else ""


def is_layout(layout: Text) -> bool:
    """Whether it can be a draft's: a placeholder that is filled in the installer's words is not."""
    return takes(layout, _LAYOUT)


def bare_layout(layout: Text) -> Text:
    """A layout as somebody's file has it, without quotes and blanks; a placeholder as it was."""
    return layout.strip("'\" ").replace(" ", "") if isinstance(layout, str) else unformed(layout, _LAYOUT)


def zone_of(zone: Text) -> Text:
    """An IANA zone; another installer's own name of a zone becomes one."""
    return formed(zone, _ZONE)


def bare_zone(zone: Text | None) -> Text | None:
    """A zone as a draft says it: a placeholder as it was; None for one that is filled in the installer's words."""
    return unformed(zone, _ZONE) if zone is not None and takes(zone, _ZONE) else None


_ZONE = "iana-zone"


@form(_ZONE)
def _plain_zone(zone: str) -> str:
    return iana_zone(zone) or zone
