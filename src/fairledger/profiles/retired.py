"""Fields that drafts and profiles had once: they are read on, and it is told what to write."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct


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
        return dict.fromkeys(self.to, value) if self.to else self.values.get(value) if isinstance(value, str) else None


class _Table(Struct, frozen=True):
    name: tuple[Retired, ...]


@cache
def retired_names() -> dict[str, Retired]:
    """All of them, by their old names."""
    import tomllib

    text = (Path(__file__).parent / "retired.toml").read_text(encoding="utf-8")
    return {one.old: one for one in msgspec.convert(tomllib.loads(text), _Table).name}
