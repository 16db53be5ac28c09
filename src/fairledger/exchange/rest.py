"""What is left of a sheet when some of it is taken as said: each part with what tells it apart."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog
from fairledger.model.sheet import Block, Node, Sheet

_NOWHERE: Mapping[int, int] = {}
Taken = Callable[[Node | Block], bool]


def rest_of(sheet: Sheet, catalog: Catalog, taken: Taken, places: Mapping[int, int] = _NOWHERE) -> Sheet:
    """A sheet without the answers that are taken; what is left of an item or a use of a command keeps its key.

    What is left of a use that nothing names says the place of the use to which it belongs: ``places`` has it by the
    identities of the blocks.
    """

    def with_key(block: Block, path: str, node: Node, children: tuple[Node, ...]) -> tuple[Node, ...]:
        known = catalog.anywhere(block.component)
        setting = known.setting(path) if known else None
        key = node.get(setting.key) if setting is not None and setting.kind == "list" and setting.key else None
        return children if key is None or any(one.name == key.name for one in children) else (key, *children)

    left = []
    for block in sheet.blocks:
        kept = Sheet((block,)).without(taken, with_key).blocks
        left += [replace(_with_own_key(one, block, catalog), use=places.get(id(block), 0)) for one in kept]
    return replace(sheet, blocks=tuple(left))


def _with_own_key(left: Block, whole: Block, catalog: Catalog) -> Block:
    key = _key_of_uses(whole, catalog)
    node = next((one for one in whole.children if one.name == key), None) if key else None
    there = node is None or any(one.name == key for one in left.children)
    return left if there or node is None else replace(left, children=(node, *left.children))


def _key_of_uses(block: Block, catalog: Catalog) -> str:
    known = catalog.anywhere(block.component)
    return known.key if known is not None and known.repeats else ""
