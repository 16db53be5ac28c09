"""How answer files reach installers: names, places, and what is typed there, by line of releases.

From the vendors' public installation references.
"""

from __future__ import annotations

from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.model.target import Target

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "routes.json"


class Route(Struct, frozen=True, kw_only=True):
    """A way for the file to reach the installer."""

    name: str
    lines: tuple[str, ...]
    file: str
    """The name that the installer looks for, with folders below the output folder."""
    goes: str
    """Where the file must lie."""
    typed: str = ""
    """The command or boot parameter that is typed there, if any."""
    beside: str = ""
    """Where scripts that belong to the file must lie, with their folder."""
    scripts_in: tuple[str, ...] = ()
    """The passes in which scripts that lie there can still be found; empty means in all."""
    passes: tuple[str, ...] = ()
    """The passes through which it goes; empty means all."""


@cache
def _all() -> tuple[Route, ...]:
    found: tuple[Route, ...] = read_packaged(INDEX, tuple[Route, ...], "the table of routes")
    return found


def routes_of(target: Target) -> tuple[Route, ...]:
    """The ways to a target's installer, the usual one first."""
    return tuple(one for one in _all() if target.line in one.lines)


def route_names() -> tuple[str, ...]:
    """What the ways of all targets are called."""
    return tuple(dict.fromkeys(one.name for one in _all()))


def build() -> bytes:
    """The packaged form of the authored table."""
    import tomllib

    rows = tomllib.loads((DATA / "routes.toml").read_text(encoding="utf-8"))["route"]
    return lined([msgspec.convert(row, Route) for row in rows])
