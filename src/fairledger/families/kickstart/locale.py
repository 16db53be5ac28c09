"""Languages, keyboards and clock in the words of kickstart."""

from __future__ import annotations

import tomllib
from functools import cache
from pathlib import Path
from typing import Any

from fairledger.catalog.catalog import Catalog
from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.lines import has
from fairledger.families.unix.locales import (
    UTF8,
    bare_layout,
    bare_zone,
    console_of,
    is_layout,
    language_of,
    layouts_of,
    locale_name,
    zone_of,
)
from fairledger.intent.locale import Locale
from fairledger.model.finding import Severity
from fairledger.model.values import Template, Text, form, formed, join, split, takes, unformed


@cache
def _all_names() -> dict[str, dict[str, str]]:
    return tomllib.loads((Path(__file__).parent / "keyboards.toml").read_text(encoding="utf-8"))


def _names(catalog: Catalog) -> dict[str, str]:
    """The keyboards of a hypervisor: those of which the catalog lists the names, or the old one's."""
    known = catalog.setting("keyboard", "layout")
    return _all_names()[_HYPERVISOR if known is not None and known.choices else _CLASSIC]


def canonical(value: Locale, words: Words) -> Locale | None:
    """What the commands of the target's line can hold."""
    layouts = layouts_of(value)
    linux = has(words, "lang")
    console: Text | None = None
    if not linux:
        layouts = tuple(one for one in layouts[:1] if _hypervisor_name(one, words.catalog) is not None)
    elif layouts or value.console_keyboard:
        console = value.console_keyboard if value.console_keyboard != console_of(layouts) else None
    zone = value.time_zone if has(words, "timezone") else None
    language = value.language if linux else None
    made = Locale(
        language=language,
        languages=tuple(one for one in value.languages) if language is not None else (),
        encoding=value.encoding if language is not None and value.encoding != UTF8 else None,
        keyboards=tuple(bare_layout(one) for one in layouts),
        console_keyboard=console,
        keyboard_switch=value.keyboard_switch if _switches(words, layouts, console) else (),
        time_zone=bare_zone(zone_of(zone)) if zone is not None else None,
        utc_clock=value.utc_clock if zone is not None and value.utc_clock else None,
    )
    return made if made != Locale() else None


def _switches(words: Words, layouts: tuple[Text, ...], console: Text | None) -> bool:
    """Whether the keyboard's command stands, and has an option for switching."""
    return bool(layouts or console) and has(words, "keyboard", _SWITCH)


def translate(value: Locale, words: Words) -> None:
    """Language, keyboards and time zone; the rest is left out aloud."""
    why = "its installer has nothing of the kind"
    words.leave_out(("locale",), value, ("fallback", "formats", "system", "setup_language", "region"), why)
    if has(words, "lang"):
        _translate_language(value, words)
    else:
        words.leave_out(("locale",), value, ("language", "languages", "encoding"), why)
    layouts = layouts_of(value)
    if layouts or value.console_keyboard:
        _translate_keyboards(value, layouts, words)
    if value.time_zone is None:
        return
    if not has(words, "timezone"):
        words.leave_out(("locale",), value, ("time_zone", "utc_clock"), "its clock always runs in UTC")
        return
    origin = words.origin("locale", "time_zone")
    block = words.out.block("setup", "timezone", origin)
    block.put("timezone", zone_of(value.time_zone), origin)
    if value.utc_clock:
        block.put("--utc", "true", words.origin("locale", "utc_clock"))


def _translate_language(value: Locale, words: Words) -> None:
    if value.language is None:
        return
    origin = words.origin("locale", "language")
    block = words.out.block("setup", "lang", origin)
    encoding = value.encoding or UTF8
    block.put("language", locale_name(value.language, encoding), origin)
    if value.languages:
        names = tuple(locale_name(one, encoding) for one in value.languages)
        block.put("--addsupport", join(names, ","), words.origin("locale", "languages"))


def _translate_keyboards(value: Locale, layouts: tuple[Text, ...], words: Words) -> None:
    origin = words.origin("locale", "keyboards" if value.keyboards else "language")
    if not has(words, "keyboard", "--vckeymap"):
        name = _hypervisor_name(layouts[0], words.catalog) if layouts else None
        if name is None:
            why = "its installer has no keyboard of that kind"
            words.cannot(
                ("locale", "keyboards"), "locale.keyboards", why, "leave it out, or name another", Severity.WARNING
            )
        else:
            words.out.block("setup", "keyboard", origin).put("layout", name, origin)
        return
    block = words.out.block("setup", "keyboard", origin)
    console = value.console_keyboard or console_of(layouts)
    if console is not None:
        block.put("--vckeymap", console, origin)
    if layouts:
        block.put("--xlayouts", join(layouts, ","), origin)
    if value.keyboard_switch:
        block.put(_SWITCH, join(value.keyboard_switch, ","), words.origin("locale", "keyboard_switch"))


def recognise(reader: Reader) -> Locale | None:
    """Language, keyboards and time zone."""
    fields: dict[str, Any] = {}
    seat = reader.first("setup", "lang", "language")
    language, encoding = language_of(text_of(seat))
    if language is not None:
        fields["language"] = language
        if encoding != UTF8:
            fields["encoding"] = encoding
        reader.take(seat, "locale", "language")
        more = reader.first("setup", "lang", "--addsupport")
        names = tuple(language_of(one)[0] for one in split(text_of(more) or "", ","))
        if more is not None and all(names):
            fields["languages"] = names
            reader.take(more, "locale", "languages")
    _recognise_keyboards(reader, fields)
    zone = reader.first("setup", "timezone", "timezone")
    told = bare_zone(text_of(zone))
    if told:
        fields["time_zone"] = told
        reader.take(zone, "locale", "time_zone")
        for name in ("--utc", "--isUtc"):
            clock = reader.first("setup", "timezone", name)
            if clock is not None and clock.text == "true":
                fields["utc_clock"] = True
                reader.take(clock, "locale", "utc_clock")
    return Locale(**fields) if fields else None


def _recognise_keyboards(reader: Reader, fields: dict[str, Any]) -> None:
    hypervisor = reader.first("setup", "keyboard", "layout")
    if hypervisor is not None:
        typed = text_of(hypervisor)
        name: Text | None = next((one for one, told in _names(reader.catalog).items() if told == typed), None)
        if isinstance(typed, Template) and takes(typed, _FORM):
            name = bare_layout(unformed(typed, _FORM))
        if name is not None:
            fields["keyboards"] = (name,)
            reader.take(hypervisor, "locale", "keyboards")
        return
    seat = reader.first("setup", "keyboard", "--xlayouts")
    listed = split(text_of(seat) or "", ",")
    layouts = tuple(bare_layout(one) for one in listed) if all(is_layout(one) for one in listed) else ()
    if layouts:
        fields["keyboards"] = layouts
        reader.take(seat, "locale", "keyboards")
    console = reader.first("setup", "keyboard", "--vckeymap")
    if text_of(console):
        reader.take(console, "locale", "console_keyboard")
        if text_of(console) != console_of(layouts):
            fields["console_keyboard"] = text_of(console)
    switch = reader.first("setup", "keyboard", _SWITCH)
    if text_of(switch) and (layouts or text_of(console)):
        fields["keyboard_switch"] = split(text_of(switch) or "", ",")
        reader.take(switch, "locale", "keyboard_switch")


def _hypervisor_name(layout: Text, catalog: Catalog) -> Text | None:
    names = _names(catalog)
    if isinstance(layout, str):
        return names.get(layout)
    return formed(layout, _FORM) if names is _all_names()[_HYPERVISOR] else None


_SWITCH = "--switch"
_HYPERVISOR, _CLASSIC = "esxi", "esx"
_FORM = "hypervisor-keyboard"


@form(_FORM)
def _typed(layout: str) -> str:
    return _all_names()[_HYPERVISOR].get(layout, layout)
