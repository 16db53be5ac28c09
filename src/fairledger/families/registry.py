"""The families by name, imported when they are used."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from pathlib import Path

from fairledger.families.interface import Family
from fairledger.storage.looking import is_file

FAMILIES = ("windows", "kickstart")
"""Each is a package of this room that holds ``FAMILY``."""


def has_rules(name: str) -> bool:
    """Whether a family has rules on its own syntax, in its module ``rules``."""
    return is_file(Path(__file__).parent / name / "rules.py")


@cache
def family_named(name: str) -> Family:
    """The family of that word."""
    found: Family = import_module(f"fairledger.families.{name}").FAMILY
    return found


def family_of_file(data: bytes, file_name: str) -> str:
    """The family whose file this probably is, by its first characters, else by its name."""
    return _best(data, file_name)[1]


def family_surely(data: bytes, file_name: str) -> str:
    """The family whose file this is beyond doubt; empty where it may be of any."""
    score, name = _best(data, file_name)
    return name if score == _SURE else ""


_SURE = 3


def _best(data: bytes, file_name: str) -> tuple[int, str]:
    """Each family's module ``sniff`` has ``score(data, file_name) -> int`` of 0 to 3; the highest wins."""
    scores = [
        (import_module(f"fairledger.families.{name}.sniff").score(data, file_name), -at, name)
        for at, name in enumerate(FAMILIES)
    ]
    score, _, name = max(scores)
    return score, name
