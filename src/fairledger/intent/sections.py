"""The portable sections, in the order in which setup asks."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import Any

from fairledger.intent.fields import fields_of
from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.intent.tabled import section_from, tables

SECTION_NAMES = (
    "installer",
    "source",
    "locale",
    "licence",
    "image",
    "drivers",
    "disk",
    "volume",
    "boot",
    "identity",
    "join",
    "network",
    "account",
    "access",
    "firewall",
    "bypass",
    "start",
    "services",
    "privacy",
    "apps",
    "desktop",
    "power",
    "protection",
    "updates",
    "remote",
    "input",
    "own",
    "subscription",
    "packages",
    "features",
    "addition",
    "branding",
    "file",
    "command",
    "finish",
)
"""A section is a module of this package with its `Section` under its name in capitals, or a file in ``data/``."""


@cache
def section(name: str) -> Section[Any]:
    """The section of that name."""
    row = tables().get(name)
    if row is not None:
        return section_from(name, row)
    module = import_module(f"fairledger.intent.{name}")
    found: Section[Any] = getattr(module, name.upper())
    return found


def sections() -> tuple[Section[Any], ...]:
    """All of them."""
    return tuple(section(name) for name in SECTION_NAMES)


def items_at(names: tuple[str, ...]) -> type[Part] | None:
    """The table of the items of the list at a path of names, from a section's on; None if there is no such list."""
    if names[0] not in SECTION_NAMES:
        return None
    found = section(names[0])
    table, listed = found.table, found.many
    for name in names[1:]:
        kind = fields_of(table).get(name)
        if kind is None or kind.inner is None:
            return None
        table, listed = kind.inner, kind.item is not None
    return table if listed else None
