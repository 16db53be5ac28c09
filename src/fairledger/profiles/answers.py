"""Direct answers: read from tables, laid over a sheet, ordinals numbered last."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.setting import Component, Setting
from fairledger.model.kinds import MOST_DIGITS
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin
from fairledger.model.sheet import NOTHING, REAL, TEXT, TRUTH, VALUE_KEY, WHOLE, Block, Node, Sheet, is_mark
from fairledger.model.values import Scalar, SecretRef, SecretSource, Template, parse_text
from fairledger.profiles.decode import Decoder
from fairledger.profiles.raw import Array, Leaf, Raw, Real, Table

OWN_VALUE = "@value"
"""The key of a value in the table that holds it with its attributes."""


_USE = pattern(r"(.+)\[#([1-9][0-9]{0,3})\]")
"""A component with the place of the use to which answers are added."""
NO_VALUE = "@nothing"
"""The key by which an answer says that it is there and has no value, where files tell that from its absence."""


class Laying(Decoder):
    """Reads direct answers; problems gather."""

    typed: bool = False
    """Whether the family's files tell kinds of scalars apart, so that those of the draft are kept."""


def lay(sheet: Sheet, layer: Table, catalog: Catalog, pass_order: tuple[str, ...], decoder: Laying) -> Sheet:
    """Lays one layer of direct answers over a sheet; what cannot be read is a problem in the decoder."""
    laid = _Laid(sheet.blocks)
    for pass_, components in layer.entries.items():
        if not isinstance(components, Table):
            decoder.problem(components.origin, f"answers.{pass_} must be a table of components")
            continue
        for named, raw in components.entries.items():
            whole, _, variant = named.partition("@")
            match = _USE.fullmatch(whole)
            component, use = (match[1], int(match[2])) if match else (whole, 0)
            known = catalog.anywhere(component)
            laid.begin(one_each=isinstance(raw, Array) and len(raw.items) > 1)
            for table in raw.items if isinstance(raw, Array) else (raw,):
                if not isinstance(table, Table):
                    decoder.problem(table.origin, f"answers.{pass_}.{named} must be a table of settings")
                    continue
                nodes = _nodes(table, known, "", decoder)
                new = Block(pass_, component, variant, nodes, table.origin)
                if not use:
                    laid.lay(new, known)
                elif not laid.lay_at(new, known, use):
                    hint = "name one that the profiles and sections bring, or leave the brackets out for one of its own"
                    decoder.problem(table.origin, f"nothing brings {component}[#{use}] in the pass {pass_}", hint)
    order = {name: at for at, name in enumerate(pass_order)}
    blocks = sorted(laid.blocks, key=lambda block: order.get(block.pass_, len(order)))
    return replace(sheet, blocks=tuple(blocks))


_Kind = tuple[str, str, str]


class _Laid:
    """The blocks of a sheet, found by what they are, onto which others are laid."""

    def __init__(self, blocks: Iterable[Block]) -> None:
        self.blocks: list[Block] = []
        self._uses: dict[_Kind, list[int]] = {}
        self._items: dict[tuple[_Kind, str, Scalar], list[int]] = {}
        """Where blocks are that hold a value at a setting by which items are told apart."""
        self._indexed: dict[tuple[_Kind, str], int] = {}
        """How many uses of a kind are in there already, by that setting."""
        self._open: dict[_Kind, Iterator[int]] | None = None
        self._taken: set[int] = set()
        self._end = 0
        for one in blocks:
            self._append(one)

    def begin(self, *, one_each: bool) -> None:
        """Begins a component's tables. With ``one_each`` no two are laid over one use, nor over each other:
        what stands side by side in one layer are uses of their own, whatever they share."""
        self._open = {} if one_each else None
        self._taken = set()
        self._end = len(self.blocks)

    def lay(self, new: Block, known: Component | None) -> None:
        """Adds a block, or lays it over the one that it is more of."""
        at = self._below(new, known)
        if at is None:
            self._append(new)
            return
        self._taken.add(at)
        self._over(at, new, known)

    def lay_at(self, new: Block, known: Component | None, use: int) -> bool:
        """Lays a block over the use of its component at a place; False if there is none."""
        uses = self._uses.get(_kind(new), [])
        if use > len(uses):
            return False
        self._over(uses[use - 1], new, known)
        return True

    def _over(self, at: int, new: Block, known: Component | None) -> None:
        old = self.blocks[at]
        self.blocks[at] = replace(old, children=_merged(old.children, new.children, known, ""))

    def _append(self, block: Block) -> None:
        self._uses.setdefault(_kind(block), []).append(len(self.blocks))
        self.blocks.append(block)

    def _below(self, new: Block, known: Component | None) -> int | None:
        kind = _kind(new)
        if known is not None and known.repeats:
            value = _value_at(new.children, known.key)
            if not known.key or value is None:
                return None
            uses = self._items_of(kind, known.key).get((kind, known.key, value), [])
            if self._open is None:
                return uses[0] if uses else None
            return next((at for at in uses if at < self._end and at not in self._taken), None)
        uses = self._uses.get(kind, [])
        if self._open is None:
            return uses[0] if uses else None
        # an iterator of its own, since the list grows meanwhile
        left = self._open.setdefault(kind, iter([at for at in uses if at < self._end]))
        return next(left, None)

    def _items_of(self, kind: _Kind, key: str) -> dict[tuple[_Kind, str, Scalar], list[int]]:
        uses = self._uses.get(kind, [])
        for at in uses[self._indexed.get((kind, key), 0) :]:
            value = _value_at(self.blocks[at].children, key)
            if value is not None:
                self._items.setdefault((kind, key, value), []).append(at)
        self._indexed[kind, key] = len(uses)
        return self._items


def _kind(block: Block) -> _Kind:
    return block.pass_, block.component, block.variant


def _same_item(old: Iterable[Node], new: Iterable[Node], key: str) -> bool:
    return bool(key) and _value_at(old, key) is not None and _value_at(old, key) == _value_at(new, key)


def _value_at(nodes: Iterable[Node], key: str) -> Scalar | None:
    return next((node.value for node in nodes if node.name == key), None)


def _nodes(table: Table, known: Component | None, path: str, decoder: Laying) -> tuple[Node, ...]:
    out: list[Node] = []
    for name, raw in table.entries.items():
        below = f"{path}/{name}" if path else name
        setting = known.setting(below) if known else None
        items = raw.items if isinstance(raw, Array) else (raw,)
        for item in items:
            node = _node(name, item, setting, known, below, decoder)
            if node is not None:
                out.append(node)
    return tuple(out)


def _node(
    name: str, raw: Raw, setting: Setting | None, known: Component | None, path: str, decoder: Laying
) -> Node | None:
    if isinstance(raw, Table):
        if decoder.typed and raw.entries.keys() == {NO_VALUE}:
            return Node(name, "", (), raw.origin, NOTHING)
        held, inner = raw.entries.get(OWN_VALUE), dict(raw.entries)
        inner.pop(OWN_VALUE, None)
        if setting is not None and setting.secret:
            # without a value of its own, the reference to the secret stands among the attributes
            source = {key: one for key, one in raw.entries.items() if key == OWN_VALUE or not is_mark(key)}
            inner = {key: one for key, one in inner.items() if key not in source}
            held = held if source.keys() == {OWN_VALUE} else Table(source, raw.origin)
            if isinstance(held, Table):
                secret = decoder.secret(held, (path,))
                children = _nodes(Table(inner, raw.origin), known, path, decoder)
                return Node(name, secret, children, raw.origin) if secret else None
        node = _node(name, held, setting, known, path, decoder) if held is not None else Node(name, None, ())
        children = _nodes(Table(inner, raw.origin), known, path, decoder)
        return replace(node, children=children, origin=raw.origin) if node else None
    if isinstance(raw, Array):
        decoder.problem(raw.origin, f"{path} holds a list inside a list")
        return None
    # a mark says something of what it stands beside, and is text for all files
    value, kind = _scalar(raw, typed=decoder.typed and not is_mark(name))
    if value is None:
        decoder.problem(raw.origin, f"{path} must be text, a whole number, true or false")
        return None
    if setting is not None and setting.secret and isinstance(value, Template):
        value = SecretRef((SecretSource("value", value),))
    return Node(name, value, (), raw.origin, kind)


def _scalar(leaf: Leaf, *, typed: bool) -> tuple[Scalar | None, str]:
    """The value and, where that counts, its kind."""
    value = leaf.value
    if not typed:
        return spelled(leaf), ""
    if isinstance(value, Real):
        return value.text, REAL
    return spelled(leaf), TRUTH if isinstance(value, bool) else WHOLE if isinstance(value, int) else TEXT


def spelled(leaf: Leaf) -> Scalar | None:
    """A TOML value as the text of an answer; None for kinds of value that no answer has."""
    value = leaf.value
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int):
        return str(value)
    return parse_text(value) if isinstance(value, str) else None


def _merged(old: tuple[Node, ...], new: tuple[Node, ...], known: Component | None, path: str) -> tuple[Node, ...]:
    """Lays new nodes over old ones of the same parent."""
    out = list(old)
    earlier = {id(node) for node in old}
    replaced: set[str] = set()
    for node in new:
        below = f"{path}/{node.name}" if path else node.name
        setting = known.setting(below) if known else None
        if setting is not None and setting.kind == "list" and not setting.repeats:
            at = next((at for at, one in enumerate(out) if id(one) in earlier and _one(one, node, setting)), None)
        elif (setting is not None and setting.repeats) or (node.name in replaced):
            if node.name not in replaced:
                out = [one for one in out if one.name != node.name]
                replaced.add(node.name)
            at = None
        else:
            replaced.add(node.name)
            at = next((at for at, one in enumerate(out) if one.name == node.name), None)
        if at is None:
            out.append(node)
        else:
            out[at] = _over(out[at], node, known, below)
    return tuple(out)


def _one(old: Node, new: Node, setting: Setting) -> bool:
    return old.name == new.name and _same_item(old.children, new.children, setting.key)


def _over(old: Node, new: Node, known: Component | None, path: str) -> Node:
    if old.value is None and new.value is None:
        return replace(old, children=_merged(old.children, new.children, known, path))
    return replace(new, origin=_overriding(old.origin, new.origin))


def _overriding(old: Origin, new: Origin) -> Origin:
    return replace(new, overrode=(replace(old, overrode=()), *old.overrode))


def number(sheet: Sheet, catalog: Catalog) -> Sheet:
    """Numbers the items of every list that has pure ordinals, where nobody gave them: after the given ones."""
    return replace(
        sheet,
        blocks=tuple(
            replace(block, children=_numbered(block.children, catalog.anywhere(block.component), ""))
            for block in sheet.blocks
        ),
    )


def _numbered(nodes: tuple[Node, ...], known: Component | None, path: str) -> tuple[Node, ...]:
    if known is None:
        return nodes
    taken: dict[str, set[int]] = {}
    ordinals: dict[str, str] = {}
    for node in nodes:
        ordinal = _ordinal_of(f"{path}/{node.name}" if path else node.name, known)
        if ordinal:
            ordinals[node.name] = ordinal
            given = node.text(ordinal)
            if given is not None and given.strip().isdecimal() and len(given.strip()) <= MOST_DIGITS:
                taken.setdefault(node.name, set()).add(int(given))
    out = []
    for node in nodes:
        below = f"{path}/{node.name}" if path else node.name
        children = _numbered(node.children, known, below)
        found = ordinals.get(node.name)
        if found is not None and all(child.name != found for child in children):
            used = taken.setdefault(node.name, set())
            free = max(used, default=0) + 1
            used.add(free)
            children = (Node(found, str(free), (), node.origin), *children)
        out.append(replace(node, children=children))
    return tuple(out)


def _ordinal_of(path: str, known: Component) -> str:
    """What numbers the items of a list: a child that is a pure ordinal, or the attribute that tells values apart."""
    setting = known.setting(path)
    if setting is None or setting.kind != "list" or not setting.key:
        return ""
    if setting.key == VALUE_KEY:
        return setting.key
    ordinal = known.ordinal_of(path)
    return ordinal.name if ordinal is not None else ""
