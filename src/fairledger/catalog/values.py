"""Everyday value lists: languages, keyboards, home regions, time zones.

The first three are authored in ``data/values``, time zones are CLDR's; all are packaged in the index. Numbers of
languages, layouts and regions are those of Windows' public reference tables.
"""

# annotations are kept as types here, not as texts: decoding would compile every one of them at each start

from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged

DATA = Path(__file__).parent / "data" / "values"
INDEX = Path(__file__).parent / "index" / "values.json"


class Language(Struct, frozen=True):
    """A language in a region."""

    number: str
    """Four hexadecimal digits."""
    keyboard: str = ""
    """The keyboard that goes with it, by its X name."""
    layout: str = ""
    """The layout's number in Windows where that keyboard is typed in this language; empty where it is the usual."""


class Keyboard(Struct, frozen=True):
    """A keyboard layout."""

    layout: str
    """Eight hexadecimal digits."""
    console: str
    language: str
    name: str
    service: str = ""
    """Class and profile of the text service with which people type; empty where they type with the layout alone."""
    since: str = ""
    """The first build of Windows that knows the layout, or the service."""
    earlier: str = ""
    """The layout of builds before that; empty means the usual input of the language."""


class Values(Struct, frozen=True):
    """All lists."""

    languages: dict[str, Language]
    near_languages: dict[str, str]
    """By language or region: the language of several regions that people of another one understand best."""
    region_codes: dict[str, str]
    """Codes that people write for regions which have another one."""
    other_languages: tuple[str, ...]
    """Further tags that exist (CLDR), of which nothing else is known here."""
    keyboards: dict[str, Keyboard]
    layout_names: dict[str, str]
    """Layouts that have no X name here, by number."""
    regions: dict[str, int]
    key_maps: tuple[str, ...]
    """What names of the console's own key maps begin with, beside those of the keyboards."""
    windows_zones: dict[str, str] = {}
    """Windows' names of time zones, by IANA name."""
    iana_zones: dict[str, str] = {}
    """The first IANA name, by Windows' name."""
    only_windows_zones: tuple[str, ...] = ()
    """Windows' zones that have no IANA name."""
    zones_since: dict[str, tuple[str, ...]] = {}
    """The first releases whose media know a zone; none means newer than all. Zones that are left out are in all."""


def build() -> bytes:
    """The packaged form of the authored lists, and of CLDR's time zones as the library tzlocal carries them."""
    import tomllib

    from tzlocal.windows_tz import tz_win, win_tz

    def table(name: str) -> dict[str, object]:
        return tomllib.loads((DATA / f"{name}.toml").read_text(encoding="utf-8"))

    keyboards = table("keyboards")
    spoken = table("languages")
    others, console = spoken["others"], keyboards.pop("console")
    assert isinstance(others, dict)
    assert isinstance(console, dict)
    own_zones: Any = table("own_zones")
    lists = {
        "languages": spoken["languages"],
        "near_languages": spoken["near"],
        "region_codes": spoken["region-codes"],
        "other_languages": others["tags"],
        "layout_names": keyboards.pop("numbers"),
        "key_maps": console["begin"],
        "keyboards": keyboards,
        "regions": table("regions"),
        "windows_zones": tz_win,
        "iana_zones": win_tz,
        "only_windows_zones": own_zones["only"],
        "zones_since": {zone: row["releases"] for row in own_zones["since"] for zone in row["zones"]},
    }
    return lined(msgspec.convert(lists, Values), 2)


@cache
def values() -> Values:
    """The lists. Raises `CatalogError` if the package is damaged."""
    found: Values = read_packaged(INDEX, Values, "the value lists")
    return found


def windows_zone(iana: str) -> str | None:
    """CLDR's Windows name of an IANA time zone; None if it has none.

    >>> windows_zone("Europe/Lisbon")
    'GMT Standard Time'
    """
    return values().windows_zones.get(iana)


def iana_zone(windows: str) -> str | None:
    """CLDR's first IANA time zone for a Windows name; None if there is no such name."""
    return values().iana_zones.get(windows)


@cache
def windows_zones() -> tuple[str, ...]:
    """All Windows names of time zones, sorted."""
    return tuple(sorted((*values().iana_zones, *values().only_windows_zones)))


@cache
def iana_zones() -> tuple[str, ...]:
    """All IANA names that have a Windows name, sorted."""
    return tuple(sorted(values().windows_zones))


def language_number(tag: str) -> str | None:
    """The number of a language, four hexadecimal digits; case of the tag is ignored."""
    found = find_language(tag)
    return values().languages[found].number if found else None


@lru_cache(maxsize=1000)
def find_language(tag: str) -> str | None:
    """The language as this list spells it; None if it is not listed."""
    if tag in values().languages:
        return tag
    return next((name for name in values().languages if name.casefold() == tag.casefold()), None)


@lru_cache(maxsize=1000)
def known_language(tag: str) -> bool:
    """Whether there is such a language in such a region."""
    folded = tag.casefold()
    return find_language(tag) is not None or any(name.casefold() == folded for name in values().other_languages)


def meant_languages(tag: str) -> tuple[str, ...]:
    """The languages that a tag may mean which is none, since a region or a language goes by another code.

    >>> meant_languages("en-UK"), meant_languages("jp-JP")
    (('en-GB',), ('ja-JP',))
    """
    language, _, region = tag.lower().partition("-")
    called = values().region_codes
    wanted = (region.upper() or language.upper(), called.get(region.upper(), ""), called.get(language.upper(), ""))
    there = [one for one in values().languages if one.rpartition("-")[2] in wanted]
    own = tuple(one for one in there if one.partition("-")[0] == language)
    known = any(one.partition("-")[0] == language for one in values().languages)
    return own if known else tuple(there[:3])


def nearest_language(tag: str, spoken: tuple[str, ...]) -> str:
    """The language among those that are spoken which comes nearest to one; that itself where nobody says."""
    if not spoken or tag in spoken:
        return tag
    own = tag.partition("-")[0]
    near = values().near_languages
    alike = [one for one in spoken if one.partition("-")[0] == own]
    wanted = [one for one in (near.get(tag), near.get(own)) if one in spoken]
    return next(iter((*wanted, *alike)), "en-US" if "en-US" in spoken else tag)


@lru_cache(maxsize=1000)
def language_of(number: str) -> str | None:
    """The language that has this number."""
    folded = number.casefold()
    return next((tag for tag, row in values().languages.items() if row.number == folded), None)


@lru_cache(maxsize=1000)
def region_of(number: int) -> str | None:
    """The home region that has this number."""
    return next((name for name, one in values().regions.items() if one == number), None)


def keyboard_of(layout: str) -> str | None:
    """The X name of a layout given by its number, or of the text service with which people type."""
    folded = layout.casefold()
    rows = values().keyboards.items()
    found = next((name for name, row in rows if folded in (row.layout, row.service.casefold())), None)
    others = (row.keyboard for row in values().languages.values() if row.layout == folded)
    return found or next(others, None)


def known_layout(layout: str) -> bool:
    """Whether a layout's number is in the lists."""
    return keyboard_of(layout) is not None or layout.casefold() in values().layout_names
