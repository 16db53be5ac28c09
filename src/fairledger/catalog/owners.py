"""Whose a secret is, by what the catalog says of it."""

from __future__ import annotations

from fairledger.catalog.setting import Component
from fairledger.model.sheet import Block, Node


def owner_of(known: Component | None, block: Block, way: tuple[Node, ...]) -> str:
    """The account whose password the last node of ``way`` holds; empty where nobody can tell."""
    names = [node.name for node in way]
    for end in range(len(way), 0, -1):
        setting = known.setting("/".join(names[:end])) if known is not None else None
        if setting is not None and setting.whose:
            beside = way[end - 2].children if end > 1 else block.children
            told = next((one.value for one in beside if one.name == setting.whose), None)
            return told if isinstance(told, str) else ""
    return ""
