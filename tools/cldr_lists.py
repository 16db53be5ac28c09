"""Writes the value lists that CLDR and the time-zone database know: names of languages and regions, offsets of zones.

Run it when a new CLDR is wanted, and read what changed: ``pip install babel``, then this script, then ``make index``.
"""

from __future__ import annotations

import tomllib
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from babel import Locale
from babel.core import get_global
from tzlocal.windows_tz import tz_win, win_tz

from fairledger.catalog.values import DATA

_ENGLISH = Locale("en")


def name_of(tag: str) -> str:
    """The English name of a language tag; empty if CLDR has none."""
    plain = tag.partition("_")[0]
    try:
        return Locale.parse(plain, sep="-").get_display_name("en") or ""
    except (ValueError, LookupError):
        parts = plain.split("-")
        language = _ENGLISH.languages.get(parts[0])
        rest = [_ENGLISH.territories.get(part) or _ENGLISH.scripts.get(part) or part for part in parts[1:]]
        return f"{language} ({', '.join(rest)})" if language and rest else language or ""


def offset_of(zone: str) -> str:
    """The standard offset of a zone from universal time, as in ``+01:00``."""
    year = 2026
    moments = [datetime(year, month, 1, 12, tzinfo=ZoneInfo(zone)) for month in range(1, 13)]
    offsets = [moment.utcoffset() or timedelta(0) for moment in moments]
    minutes = int(min(offsets).total_seconds() // 60)
    return f"{'-' if minutes < 0 else '+'}{abs(minutes) // 60:02}:{abs(minutes) % 60:02}"


def main() -> None:
    """Writes ``names.toml``, ``zones.toml`` and ``places.toml``."""
    languages = tomllib.loads((DATA / "languages.toml").read_text(encoding="utf-8"))
    regions = tomllib.loads((DATA / "regions.toml").read_text(encoding="utf-8"))
    tags = [*languages["languages"], *languages["others"]["tags"]]
    lines = ["# English names of languages and regions, from CLDR: written by tools/cldr_lists.py.", "", "[languages]"]
    lines += [f'"{tag}" = "{name}"' for tag in sorted(tags) if (name := name_of(tag))]
    lines += ["", "[regions]"]
    lines += [f'{code} = "{_ENGLISH.territories[code]}"' for code in sorted(regions) if code in _ENGLISH.territories]
    (DATA / "names.toml").write_text("\n".join(lines) + "\n", encoding="utf-8")
    first = {windows: iana for windows, iana in win_tz.items() if iana in tz_win}
    lines = [
        "# Standard offsets from universal time, by the zone's name in Windows: written by tools/cldr_lists.py.",
        "",
    ]
    lines += [f'"{windows}" = "{offset_of(iana)}"' for windows, iana in sorted(first.items())]
    (DATA / "zones.toml").write_text("\n".join(lines) + "\n", encoding="utf-8")
    places = get_global("zone_territories")
    there = {zone: place for zone in sorted(tz_win) if len(place := places.get(zone, "")) == 2 and place != "ZZ"}
    lines = ["# The regions in which time zones lie, from CLDR: written by tools/cldr_lists.py.", ""]
    lines += [f'"{zone}" = "{place}"' for zone, place in there.items()]
    (DATA / "places.toml").write_text("\n".join(lines) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
