"""The portable sections, in the order in which setup asks."""

from __future__ import annotations

from functools import cache
from importlib import import_module
from typing import Any

from fairledger.profiles.intent import Section

SECTION_NAMES = (
    "installer",
    "source",
    "locale",
    "licence",
    "image",
    "drivers",
    "disk",
    "volume",
    "identity",
    "join",
    "network",
    "account",
    "access",
    "firewall",
    "services",
    "bypass",
    "start",
    "privacy",
    "subscription",
    "packages",
    "features",
    "branding",
    "command",
    "finish",
)
"""A section is a module of this package that defines its `Section` under its name in capitals."""


@cache
def section(name: str) -> Section[Any]:
    """The section of that name."""
    module = import_module(f"fairledger.profiles.{name}")
    found: Section[Any] = getattr(module, name.upper())
    return found


def sections() -> tuple[Section[Any], ...]:
    """All of them."""
    return tuple(section(name) for name in SECTION_NAMES)


def list_key(path: tuple[str, ...]) -> str | None:
    """What tells apart the items of the list of tables at a path of field names; None if there is no such list.

    ``+`` means that nothing does: items are appended.
    """
    from fairledger.profiles.decode import fields_of

    if path[0] not in SECTION_NAMES:
        return None
    found = section(path[0])
    if len(path) == 1:
        return found.many_by or None
    table = found.table
    for name in path[1:]:
        kind = fields_of(table).get(name)
        item = kind.item if kind and kind.item else kind
        if item is None or item.struct is None:
            return None
        last = kind
        table = item.struct
    return getattr(table, "KEY", None) if last and last.item else None
