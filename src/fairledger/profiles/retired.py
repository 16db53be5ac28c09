"""Fields that drafts and profiles had once: they are read on, and it is told what to write."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any, Protocol

import msgspec
from msgspec import Struct

from fairledger.model.places import Origin
from fairledger.profiles.raw import Array, Leaf, Table


class Retired(Struct, frozen=True):
    """A field that is gone."""

    old: str
    """As it was written: ``section.field``."""
    since: str
    """Year and month."""
    say: str
    """What to write instead."""
    to: tuple[str, ...] = ()
    """Fields of the same table that take the old value."""
    values: dict[str, dict[str, bool | int | str]] = {}
    """For each old value the fields that are read in its place."""

    def instead(self, value: Any) -> dict[str, Any] | None:
        """The fields that say what the old one said; None for a value that it never had."""
        if self.to:
            return dict.fromkeys(self.to, value)
        word = str(value).lower() if isinstance(value, bool) else value
        return self.values.get(word) if isinstance(word, str) else None

    format: int | None = None
    """The last format in which it was a name; None for one that every format reads."""


class _Table(Struct, frozen=True):
    name: tuple[Retired, ...]


@cache
def retired_names() -> dict[str, Retired]:
    """All of them, by their old names."""
    import tomllib

    text = (Path(__file__).parent / "retired.toml").read_text(encoding="utf-8")
    return {one.old: one for one in msgspec.convert(tomllib.loads(text), _Table).name}


class Teller(Protocol):
    """Who notes what only has to be said."""

    def tell(self, origin: Origin, message: str, hint: str, rule: str) -> None:
        """Notes it."""


def modernised(raw: Table, format_: int, teller: Teller) -> Table:
    """A file of an older format as the newest says it; each name that has changed since is told."""
    rows = [row for row in retired_names().values() if row.format is not None and format_ <= row.format]
    for row in rows:
        *way, name = row.old.split(".")
        raw = _without_old(raw, way, name, row, teller)
    return raw


def _without_old(table: Table, way: list[str], name: str, row: Retired, teller: Teller) -> Table:
    if way:
        below = table.entries.get(way[0])
        if isinstance(below, Table):
            return Table({**table.entries, way[0]: _without_old(below, way[1:], name, row, teller)}, table.origin)
        if isinstance(below, Array):
            items = [
                _without_old(one, way[1:], name, row, teller) if isinstance(one, Table) else one for one in below.items
            ]
            return Table({**table.entries, way[0]: Array(tuple(items), below.origin)}, table.origin)
        return table
    old = table.entries.get(name)
    new = row.instead(old.value) if isinstance(old, Leaf) else None
    if old is None or new is None:
        return table
    teller.tell(old.origin, f"{row.old} is a name of an older format", row.say, "name-retired")
    kept = {key: one for key, one in table.entries.items() if key != name}
    return Table({**{key: Leaf(one, old.origin) for key, one in new.items()}, **kept}, table.origin)
