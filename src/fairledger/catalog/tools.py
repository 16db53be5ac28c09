"""Programs and commands that scripts call, with the releases that have them. From the vendors' public references."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.catalog.targets import covers
from fairledger.model.target import Target

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "tools.json"


class Tool(Struct, frozen=True, kw_only=True):
    """Some commands that came, and went, together."""

    names: tuple[str, ...]
    lines: tuple[str, ...]
    since: tuple[str, ...] = ()
    until: tuple[str, ...] = ()
    not_in: tuple[str, ...] = ()
    """The passes in which another system runs, which lacks them."""
    why: str

    def lacking(self, target: Target, pass_: str) -> bool:
        """Whether a release, as it is delivered, does not have it in a pass."""
        if target.line not in self.lines:
            return False
        return pass_ in self.not_in or not covers(target, self.since, self.until)


@cache
def tools() -> dict[str, Tool]:
    """By the name of each command, in lower case."""
    found: tuple[Tool, ...] = read_packaged(INDEX, tuple[Tool, ...], "the table of tools")
    return {name.casefold(): one for one in found for name in one.names}


def build() -> bytes:
    """The packaged form of the authored table."""
    import tomllib

    rows = tomllib.loads((DATA / "tools.toml").read_text(encoding="utf-8"))["tool"]
    return lined([msgspec.convert(row, Tool) for row in rows])
