"""The families by name, imported when they are used."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from pathlib import Path

from fairledger.families.interface import Family

FAMILIES = ("windows", "kickstart")
"""Each is a package of this room that holds ``FAMILY``."""


def has_rules(name: str) -> bool:
    """Whether a family has rules on its own syntax, in its module ``rules``."""
    return (Path(__file__).parent / name / "rules.py").is_file()


@cache
def family_named(name: str) -> Family:
    """The family of that word."""
    found: Family = import_module(f"fairledger.families.{name}").FAMILY
    return found


def family_of_file(data: bytes, file_name: str) -> str:
    """The family whose file this probably is, by its first characters, else by its name.

    Each family's module ``sniff`` has ``score(data, file_name) -> int``; the highest wins.
    """
    scores = [
        (import_module(f"fairledger.families.{name}.sniff").score(data, file_name), -at, name)
        for at, name in enumerate(FAMILIES)
    ]
    return max(scores)[2]
