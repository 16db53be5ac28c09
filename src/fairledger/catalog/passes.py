"""The passes of each family, in the order in which setup goes through them."""

from __future__ import annotations

import tomllib
from functools import cache
from pathlib import Path

import msgspec

from fairledger.model.target import SetupPass

DATA = Path(__file__).parent / "data"


@cache
def _all() -> dict[str, tuple[SetupPass, ...]]:
    rows = tomllib.loads((DATA / "passes.toml").read_text(encoding="utf-8"))
    return {family: msgspec.convert(passes, tuple[SetupPass, ...]) for family, passes in rows.items()}


def passes_of(family: str) -> tuple[SetupPass, ...]:
    """The family's passes with what they are for."""
    return _all()[family]


def pass_names(family: str) -> tuple[str, ...]:
    """Their names."""
    return tuple(one.name for one in passes_of(family))
