"""The passes of each family, in the order in which setup goes through them."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import msgspec

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.model.target import SetupPass

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "passes.json"


@cache
def _all() -> dict[str, tuple[SetupPass, ...]]:
    found: dict[str, tuple[SetupPass, ...]] = read_packaged(
        INDEX, dict[str, tuple[SetupPass, ...]], "the table of passes"
    )
    return found


def build() -> bytes:
    """The packaged form of the authored table."""
    import tomllib

    rows = tomllib.loads((DATA / "passes.toml").read_text(encoding="utf-8"))
    return lined(msgspec.convert(rows, dict[str, tuple[SetupPass, ...]]), 2)


def passes_of(family: str) -> tuple[SetupPass, ...]:
    """The family's passes with what they are for."""
    return _all()[family]


@cache
def pass_names(family: str) -> tuple[str, ...]:
    """Their names."""
    return tuple(one.name for one in passes_of(family))
