"""The value lists for people: looked up by plain words, with what each installer wants to read.

Names of languages and regions are CLDR's, offsets those of the time-zone database; both are packaged apart from the
lists themselves, since checks do not need them.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Iterator
from functools import cache, lru_cache, partial
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.offers import offers
from fairledger.catalog.packaged import lined, read_packaged
from fairledger.catalog.spoken import spoken_in
from fairledger.catalog.values import DATA, values
from fairledger.model.suggest import nearest

INDEX = Path(__file__).parent / "index" / "names.json"


class Names(Struct, frozen=True):
    """What people call the values."""

    languages: dict[str, str]
    regions: dict[str, str]
    offsets: dict[str, str]
    """Standard offsets of time zones, by their name in Windows."""
    places: dict[str, str]
    """The regions in which time zones lie, by their IANA name."""
    people: dict[str, str]
    """The region that an adjective or another name means."""
    keyboard: dict[str, tuple[str, ...]]
    """Keyboards by how their letters lie."""


class ListedValue(Struct, frozen=True):
    """One value."""

    name: str
    """What people call it."""
    windows: str
    """What Windows setup wants; empty if it has no such value."""
    linux: str
    """What a Linux installer wants; empty if nothing is known."""
    more: str = ""
    words: str = ""
    """Further words by which it is found."""
    regions: tuple[str, ...] = ()
    """Where it is used, by ISO codes, the main one first."""


def build() -> bytes:
    """The packaged form of the lists that ``tools/cldr_lists.py`` writes."""
    import tomllib

    names = tomllib.loads((DATA / "names.toml").read_text(encoding="utf-8"))
    offsets = tomllib.loads((DATA / "zones.toml").read_text(encoding="utf-8"))
    places, said = (tomllib.loads((DATA / f"{name}.toml").read_text(encoding="utf-8")) for name in ("places", "said"))
    return lined(msgspec.convert({**names, "offsets": offsets, "places": places, **said}, Names), 2)


@cache
def _names() -> Names:
    found: Names = read_packaged(INDEX, Names, "the names of values")
    return found


def _time_zones() -> Iterator[ListedValue]:
    cities: dict[str, list[str]] = {}
    for iana, windows in values().windows_zones.items():
        cities.setdefault(windows, []).append(iana)
    names = _names()
    for windows, first in values().iana_zones.items():
        others = sorted(one for one in cities.get(windows, ()) if one != first)
        regions = tuple(dict.fromkeys(names.places[one] for one in (first, *others) if one in names.places))
        told = f"UTC{names.offsets.get(windows, '')}"
        yield ListedValue(told, windows, first, ", ".join(others), " ".join(others), regions)
    for windows in values().only_windows_zones:
        yield ListedValue("kept for old systems", windows, "")


def _languages() -> Iterator[ListedValue]:
    names = _names().languages
    spoken = spoken_in("windows")
    for tag, row in values().languages.items():
        more = f"{row.number}; keyboard {row.keyboard}" if row.keyboard else row.number
        full = "; setup speaks it" if tag in spoken else ""
        linux = tag.replace("-", "_") + ".UTF-8" if re.fullmatch("[a-z]{2,3}-[A-Z]{2}", tag) else ""
        yield ListedValue(names.get(tag, tag), tag, linux, more + full, "", (tag.rpartition("-")[2],))
    for tag in values().other_languages:
        yield ListedValue(names.get(tag, tag), tag, "")


def _keyboards() -> Iterator[ListedValue]:
    for name, row in values().keyboards.items():
        console = f"console map {row.console}" if row.console else ""
        number = values().languages[row.language].number
        typed = f"{number}:{row.service}" if row.service else f"{row.layout[4:]}:{row.layout}"
        lies = " ".join(word for word, keyboards in _names().keyboard.items() if name in keyboards)
        yield ListedValue(row.name, typed, name, console, f"{row.language} {lies}".strip())
    for layout, name in values().layout_names.items():
        yield ListedValue(name, f"{layout[4:]}:{layout}", "")


def _regions() -> Iterator[ListedValue]:
    names = _names().regions
    for code, number in values().regions.items():
        yield ListedValue(names.get(code, code), str(number), "", f"ISO code {code}", code, (code,))


def _offers(kind: str) -> Iterator[ListedValue]:
    for one in offers().lists[kind]:
        spans = [f"since {', '.join(one.since)}"] if one.since else []
        spans += [f"until {', '.join(one.until)}"] if one.until else []
        spans += ["; ".join(f"{line}s only" for line in one.lines)] if one.lines else []
        spans += [f"not in the image from {', '.join(one.fetched)} on"] if one.fetched else []
        yield ListedValue(one.name, one.value, "", "; ".join(spans))


KEYBOARDS, LANGUAGES = "keyboard", "language"
LISTS: dict[str, Callable[[], Iterator[ListedValue]]] = {
    "time-zone": _time_zones,
    LANGUAGES: _languages,
    KEYBOARDS: _keyboards,
    "region": _regions,
    "firewall-group": partial(_offers, "firewall-group"),
    "feature": partial(_offers, "feature"),
    "capability": partial(_offers, "capability"),
    "power-plan": partial(_offers, "power-plan"),
}
"""By what is listed."""
OFFERED = ("firewall-group", "feature", "capability", "power-plan")
"""The lists of what a system offers, which have a value for one installer and a few words about it."""


def look_up(kind: str, words: str) -> tuple[ListedValue, ...]:
    """The rows of a list in which every word occurs, best first; the nearest ones if none has them all.

    >>> look_up("time-zone", "lisbon")[0].windows
    'GMT Standard Time'
    """
    rows = tuple(LISTS[kind]())
    asked = _plain(words).split()
    if not asked:
        return rows
    offset = _OFFSET.fullmatch(words.strip().casefold())
    if kind == "time-zone" and offset is not None:
        told = f"UTC{offset[1]}{int(offset[2]):02}:{offset[3] or '00'}"
        return tuple(sorted((row for row in rows if row.name == told), key=lambda row: -len(row.words)))
    texts = [(row, _plain(f"{row.name} {row.windows} {row.linux} {row.words}")) for row in rows]
    found = [(row, text) for row, text in texts if all(word in text for word in asked)]
    region = _region_of(" ".join(asked))
    meant = [(row, text) for row, text in texts if region and region in row.regions]
    if meant and kind == "region":
        found = meant
    elif not found and not meant:
        vocabulary = {piece for _, text in texts for piece in text.split()}
        close = {word: nearest(word, vocabulary, 2, alike=0.75) for word in asked}
        found = [(row, text) for row, text in texts if all(any(one in text for one in close[word]) for word in asked)]
    whole = set(asked)
    found.sort(
        key=lambda pair: (
            not whole <= set(pair[1].split()),
            not pair[1].startswith(asked[0]),
            not pair[0].linux,
            not pair[0].more,
        )
    )
    places = [row for row, _ in sorted(meant, key=lambda pair: (pair[0].regions[0] != region, not pair[0].linux))]
    begin = any(_plain(row.name.partition(" (")[0]) == " ".join(asked) for row, _ in found)
    ranked = [*places, *(row for row, _ in found)] if not begin else [*(row for row, _ in found), *places]
    return tuple(_with_city(row, asked, region) if kind == "time-zone" else row for row in dict.fromkeys(ranked))


_OFFSET = re.compile(r"(?:utc|gmt)? ?([+-])(\d{1,2})(?::?(\d\d))?")
"""An offset from universal time, as people say it; the zones Etc/GMT+1 have the other sign."""


def _region_of(words: str) -> str:
    """The region that somebody names, or whose people; empty if it is none."""
    names = _names()
    named = (code for code, name in names.regions.items() if _plain(name) == words)
    return names.people.get(words) or next(named, "")


@lru_cache(maxsize=200)
def by_meaning(kind: str, word: str) -> tuple[ListedValue, ...]:
    """The rows of a list that somebody may mean who does not know what its values are called; at most three.

    >>> [row.linux for row in by_meaning("keyboard", "swiss")]
    ['ch', 'ch(fr)']
    >>> [row.linux for row in by_meaning("keyboard", "sv")]
    ['se']
    """
    asked = _plain(word).split()
    rows = [(row, _plain(row.name).split(), row.words.partition("-")[0]) for row in LISTS[kind]()]
    whole = [row for row, name, _ in rows if name == asked]
    begun = [row for row, name, _ in rows if asked and name[: len(asked)] == asked and name != asked]
    inside = [row for row, name, _ in rows if asked and set(asked) <= set(name)]
    code = [row for row, _, language in rows if kind == KEYBOARDS and asked == [language.lower()]]
    spoken = spoken_in("windows") if kind == LANGUAGES else ()
    found = [*whole, *code, *sorted((*begun, *inside), key=lambda row: (row.windows not in spoken, not row.linux))]
    return tuple(dict.fromkeys(found))[:3]


def _with_city(row: ListedValue, asked: list[str], region: str) -> ListedValue:
    """A time zone under the name that was asked for, if one of its names is that, or lies in that region."""
    zones = (row.linux, *row.words.split())
    best = next((one for one in zones if all(word in _plain(one) for word in asked)), row.linux)
    if region:
        best = next((one for one in zones if _names().places.get(one) == region), best)
    others = [one for one in zones if one != best]
    return ListedValue(row.name, row.windows, best, ", ".join(others), row.words, row.regions)


def _plain(text: str) -> str:
    """Small letters without accents; what joins words becomes a space."""
    bare = unicodedata.normalize("NFKD", text.casefold())
    return "".join(" " if char in "_/-(),;." else char for char in bare if not unicodedata.combining(char))
