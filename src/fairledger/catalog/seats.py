"""A sheet seen with its catalog: every node with its setting, and its path as a user would type it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from typing import Any

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.common import Common
from fairledger.catalog.setting import Component, Setting
from fairledger.model.items import labels
from fairledger.model.places import Place
from fairledger.model.sheet import VALUE_KEY, Block, Companion, Node, Sheet, is_mark
from fairledger.model.trace import Trace
from fairledger.model.values import Scalar, SecretRef, blanks_of


class Seat:
    """A node of a sheet, or (with an empty path) a whole block."""

    __slots__ = (
        "_shown",
        "block",
        "children",
        "component",
        "holds_open",
        "name",
        "node",
        "parent",
        "path",
        "setting",
        "text",
        "value",
    )

    def __init__(
        self,
        block: Block,
        node: Node,
        parent: Seat | None,
        component: Component | None,
        path: str = "",
        setting: Setting | None = None,
    ) -> None:
        self.block = block
        self.node = node
        self.name = node.name
        self.parent = parent
        self.component = component
        """The component as the target knows it; None if it does not."""
        self.path = path
        self.setting = setting
        self._shown: str | None = None
        value = node.value
        self.value: Scalar | None = value
        self.text: str | None = value if isinstance(value, str) else None
        """The value if it is plain text."""
        self.children: Sequence[Seat] = ()
        self.holds_open: bool | None = None  # whether a value directly below is, once somebody asked

    @property
    def place(self) -> Place:
        """Where it stands."""
        return Place(self.block.pass_, self.block.component, self.shown or None, self.node.origin)

    @property
    def shown(self) -> str:
        """The path with items in brackets; made when somebody asks, which few do."""
        if self._shown is not None:
            return self._shown
        if self.parent is None:
            self._shown = ""
            return ""
        return self.parent.show_children()[self.parent.children.index(self)]

    def show_children(self) -> list[str]:
        """How the seats directly below are called."""
        by_name: dict[str, list[Seat]] = {}
        for child in self.children:
            by_name.setdefault(child.name, []).append(child)
        above = self.shown
        lead = f"{above}/" if above else ""
        names: dict[int, str] = {}
        for name, alike in by_name.items():
            listed = len(alike) > 1 or alike[0].is_item
            steps = [f"{name}[{one}]" for one in labels([identity_of(one) for one in alike])] if listed else [name]
            # a name with an open placeholder is worked out anew for everybody, so that it is noted who saw that
            lasting = self._shown is not None and not (listed and any(map(_is_open, alike)))
            for child, step in zip(alike, steps, strict=True):
                names[id(child)] = lead + step
                child._shown = lead + step if lasting else None  # noqa: SLF001
        return [names[id(child)] for child in self.children]

    @property
    def is_item(self) -> bool:
        """Whether it is one of a list, even where it is the only one."""
        return self.setting is not None and self.setting.kind == "list"

    @property
    def way(self) -> tuple[Node, ...]:
        """The nodes from the block down to this one; with them goes all that stands in them."""
        if self.parent is None:
            return ()
        above = self.parent
        if above.holds_open is None:
            above.holds_open = any(isinstance(one, OpenSeat) for one in above.children)
        for beside in above.children if above.holds_open else ():
            beside.look()
        return (*self.parent.way, self.node)

    @property
    def is_mark(self) -> bool:
        """Whether it says something of the seat above it, instead of standing in it."""
        return is_mark(self.name)

    @property
    def reference(self) -> SecretRef | None:
        """What refers to a secret, if that stands there: which no placeholder changes."""
        return self.node.value if isinstance(self.node.value, SecretRef) else None

    def look(self) -> None:
        """Notes that somebody saw the value, if that is still open."""

    def having(self, trait: str) -> Seat | None:
        """The first seat below, or this one, whose setting has a trait."""
        return next((one for one in self.walk() if one.setting is not None and trait in one.setting.traits), None)

    def says(self, name: str) -> str | None:
        """The plain text of the first seat of that name directly below; None where there is none or it is not plain."""
        child = self.child(name)
        return child.text if child is not None else None

    def child(self, path: str) -> Seat | None:
        """The first seat at a path below this one."""
        if "/" in path:
            return next(self.all(path), None)
        for child in self.children:
            if child.name == path:
                return child
        return None

    def all(self, path: str) -> Iterator[Seat]:
        """Every seat at a path below this one, in order."""
        name, _, rest = path.partition("/")
        for child in self.children:
            if child.name == name:
                if rest:
                    yield from child.all(rest)
                else:
                    yield child

    def walk(self) -> list[Seat]:
        """This seat and all below it, in order."""
        found, waiting = [], [self]
        while waiting:
            seat = waiting.pop()
            found.append(seat)
            if seat.children:
                waiting.extend(reversed(seat.children))
        return found


class OpenSeat(Seat):
    """A seat whose value has an open placeholder in it: it notes who sees that."""

    __slots__ = ("trace",)

    def __init__(self, *told: Any, trace: Trace) -> None:
        self.trace = trace
        super().__init__(*told)
        trace.handed = False

    def look(self) -> None:
        """Notes that somebody saw the value."""
        self.trace.handed = True

    @property
    def value(self) -> Scalar | None:
        """The node's value."""
        self.trace.handed = True
        return self.node.value

    @value.setter
    def value(self, value: Scalar | None) -> None:
        """The node is what holds it."""

    @property
    def text(self) -> str | None:
        """The value if it is plain text, as it is once it is filled."""
        self.trace.handed = True
        value = self.node.value
        return value if isinstance(value, str) else None

    @text.setter
    def text(self, text: str | None) -> None:
        """The node is what holds it."""


class Seats:
    """All seats of a sheet; with ``common`` they are those of other sheets too where the blocks are the same."""

    def __init__(self, sheet: Sheet, catalog: Catalog, common: Common | None = None) -> None:
        self._sheet = sheet
        self.catalog = catalog
        self.common = common
        self.trace = Trace()
        """Notes whoever sees an open placeholder."""
        self.open: list[OpenSeat] = []
        """The seats whose values are still open."""
        self.below: list[Seat] = []
        """Every seat but the blocks themselves, in order."""
        self.rows: dict[tuple[str, str], dict[str, list[Seat]]] = {}
        """By pass and component: the seats at each path."""
        self._looked_at: tuple[Sheet | None, bool] = (None, False)
        self._titled: dict[tuple[str, str], tuple[dict[int, str], bool]] = {}
        self.roots = [self._root(block) for block in sheet.blocks]

    @property
    def sheet(self) -> Sheet:
        """The sheet itself, with all that is open in it."""
        self.trace.handed = True
        return self._sheet

    @property
    def companions(self) -> tuple[Companion, ...]:
        """The scripts beside the answer file."""
        if self._looked_at[0] is not self._sheet:
            self._looked_at = self._sheet, any(blanks_of(one.body) for one in self._sheet.companions)
        self.trace.handed = self.trace.handed or self._looked_at[1]
        return self._sheet.companions

    @cached_property
    def _first(self) -> tuple[Sheet, list[Node]]:
        """The sheet and the blocks' nodes as they were at the beginning."""
        return self._sheet, [root.node for root in self.roots]

    def refill(self, sheet: Sheet) -> Mapping[int, int]:
        """Puts a sheet in that differs in values of open seats only.

        Gives the identities of the nodes that differ from those at the beginning, with what they are now.
        """
        changed: dict[int, int] = {}
        first, nodes = self._first
        for root, begun, node, block in zip(self.roots, first.blocks, nodes, sheet.blocks, strict=True):
            if block is not begun or block is not root.block:
                # a block that is as at the beginning gets its first node back: identities count
                now = node if block is begun else Node(block.component, None, block.children, block.origin)
                changed[id(begun)] = id(block)
                _refilled(root, node, now, block, changed)
        self._sheet = sheet
        self._titled = {}
        return changed

    def find(self, pass_: str, component: str, path: str) -> list[Seat]:
        """Every seat at a path of a component in a pass; an empty path gives the blocks themselves."""
        rows = self.rows.get((pass_, component))
        return rows.get(path, []) if rows is not None else []

    def __iter__(self) -> Iterator[Seat]:
        """Every seat but the blocks themselves, in order."""
        return iter(self.below)

    def let_go(self) -> None:
        """Undoes the circles of parents and children, so that what one file took serves the next at once."""
        for seat in self.parents if self.common is None else ():
            seat.children = ()

    @cached_property
    def parents(self) -> tuple[Seat, ...]:
        """Blocks, and every seat that has others below it."""
        return (*self.roots, *(seat for seat in self.below if seat.children))

    @cached_property
    def unknown(self) -> tuple[Seat, ...]:
        """The seats of no setting."""
        return tuple(seat for seat in self.below if seat.setting is None)

    @cached_property
    def by_setting(self) -> tuple[tuple[Setting, list[Seat]], ...]:
        """The seats of each setting, groups before what is in them."""
        found: dict[int, tuple[Setting, list[Seat]]] = {}
        for rows in self.rows.values():
            for seats in rows.values():
                setting = seats[0].setting
                if setting is not None:
                    there = found.get(id(setting))
                    found[id(setting)] = (setting, seats if there is None else there[1] + seats)
        return tuple(found.values())

    def title(self, root: Seat) -> str:
        """A block's component, with its item in brackets if it may repeat."""
        known = root.component
        if known is None or not known.repeats:
            return root.block.component
        return self._titles(root.block.pass_, known)[id(root)]

    def _titles(self, pass_: str, known: Component) -> dict[int, str]:
        """How the uses of a component that may repeat are called, by the identities of their seats."""
        kept = self._titled.get((pass_, known.name))
        if kept is None:
            same = [one for one in self.roots if one.block.component == known.name and one.block.pass_ == pass_]
            keys = [one.child(known.key) if known.key else None for one in same]
            named = labels([key.text if key is not None else None for key in keys])
            alone = len(same) == 1 and named[0].startswith("#")
            told = [known.name] if alone else [f"{known.name}[{one}]" for one in named]
            titles = {id(one): title for one, title in zip(same, told, strict=True)}
            kept = titles, any(isinstance(key, OpenSeat) for key in keys)
            self._titled[pass_, known.name] = kept
        self.trace.handed = self.trace.handed or kept[1]
        return kept[0]

    def _root(self, block: Block) -> Seat:
        if self.common is not None:
            return self._shared(block, self.common)
        known = self.catalog.component(block.component)
        root = Seat(block, Node(block.component, None, block.children, block.origin), None, known)
        rows = self.rows.setdefault((block.pass_, block.component), {})
        rows.setdefault("", []).append(root)
        self._seat_children(root, known, rows)
        return root

    def _shared(self, block: Block, common: Common) -> Seat:
        """The same, by seats that are kept for other sheets and therefore never added to."""
        alone = common.seated(block, self.catalog, lambda: Seats(Sheet((block,)), self.catalog))
        self.below += alone.below
        here = (block.pass_, block.component)
        rows, before = alone.rows[here], self.rows.get(here)
        if before is not None:
            rows = {path: before.get(path, []) + rows.get(path, []) for path in (*before, *rows)}
        self.rows[here] = rows
        return alone.roots[0]

    def _seat_children(self, above: Seat, known: Component | None, rows: dict[str, list[Seat]]) -> None:
        block, path, row = above.block, above.path, []
        inside = known.inside(path) if known is not None else {}
        for node in above.node.children:
            name = node.name
            setting = inside.get(name)
            way = setting.path if setting is not None else f"{path}/{name}" if path else name
            value = node.value
            if value is None or isinstance(value, str) or not blanks_of(value):
                seat = Seat(block, node, above, known, way, setting)
            else:
                seat = OpenSeat(block, node, above, known, way, setting, trace=self.trace)
                self.open.append(seat)
            row.append(seat)
            self.below.append(seat)
            alike = rows.get(way)
            if alike is None:
                rows[way] = [seat]
            else:
                alike.append(seat)
            if node.children:
                self._seat_children(seat, known, rows)
        above.children = row


def _refilled(seat: Seat, begun: Node, node: Node, block: Block, changed: dict[int, int]) -> None:
    """Puts a node of the same shape into a seat, and what is in it into the seats below."""
    if node is not begun:
        changed[id(begun)] = id(node)
    seat.node, seat.block = node, block
    seat._shown = None  # noqa: SLF001 - a seat of its own module; its item may be called otherwise now
    for child, first, inner in zip(seat.children, begun.children, node.children, strict=True):
        _refilled(child, first, inner, block, changed)


def identity_of(item: Seat) -> str | None:
    """What tells an item of a list apart: its key, or of plain values that repeat the value; None without one.

    A number that only keeps the order tells nothing apart.
    """
    setting = item.setting
    if setting is None or setting.kind != "list" or setting.secret:
        return None
    key = item.child(setting.key) if setting.key else None
    if key is not None and not (key.setting is not None and key.setting.ordinal):
        said = key.text
        if said is None or not (key.name == VALUE_KEY and said.strip().isdecimal()):
            return said
    return item.text if setting.repeats else None


def _is_open(item: Seat) -> bool:
    key = item.setting.key if item.setting is not None else ""
    return isinstance(item.child(key) if key else item, OpenSeat)
