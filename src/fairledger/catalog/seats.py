"""A sheet seen with its catalog: every node with its setting, and its path as a user would type it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.setting import Component, Setting
from fairledger.model.places import Place
from fairledger.model.sheet import Block, Node, Sheet, visible
from fairledger.model.values import Scalar


class Seat:
    """A node of a sheet, or (with an empty path) a whole block."""

    __slots__ = ("_shown", "block", "children", "component", "node", "parent", "path", "setting", "text", "value")

    def __init__(self, block: Block, node: Node, parent: Seat | None, component: Component | None) -> None:
        self.block = block
        self.node = node
        self.parent = parent
        self.component = component
        """The component as the target knows it; None if it does not."""
        self.path: str = "" if parent is None else f"{parent.path}/{node.name}" if parent.path else node.name
        self.setting: Setting | None = component.setting(self.path) if component and self.path else None
        self._shown: str | None = None
        self.value: Scalar | None = node.value
        self.text: str | None = node.value if isinstance(node.value, str) else None
        """The value if it is plain text."""
        self.children: list[Seat] = []

    @property
    def place(self) -> Place:
        """Where it stands."""
        return Place(self.block.pass_, self.block.component, self.shown or None, self.node.origin)

    @property
    def shown(self) -> str:
        """The path with items in brackets; made when somebody asks, which few do."""
        if self._shown is None:
            if self.parent is None:
                self._shown = ""
            else:
                self.parent.show_children()
        return self._shown or ""

    def show_children(self) -> None:
        """Works out how the seats directly below are called."""
        by_name: dict[str, list[Seat]] = {}
        for child in self.children:
            by_name.setdefault(child.node.name, []).append(child)
        lead = f"{self.shown}/" if self.shown else ""
        for alike in by_name.values():
            for place, child in enumerate(alike, 1):
                step = _step(child.node, child.setting, place)
                if len(alike) > 1 and not step.endswith("]"):  # siblings that the catalog does not call a list
                    step += f"[{place}]"
                child._shown = lead + step  # noqa: SLF001 - a seat of its own class

    @property
    def way(self) -> tuple[Node, ...]:
        """The nodes from the block down to this one."""
        above = self.parent.way if self.parent is not None else ()
        return (*above, self.node) if self.parent is not None else ()

    def child(self, path: str) -> Seat | None:
        """The first seat at a path below this one."""
        return next(self.all(path), None)

    def all(self, path: str) -> Iterator[Seat]:
        """Every seat at a path below this one, in order."""
        name, _, rest = path.partition("/")
        for child in self.children:
            if child.node.name == name:
                if rest:
                    yield from child.all(rest)
                else:
                    yield child

    def walk(self) -> Iterator[Seat]:
        """This seat and all below it."""
        yield self
        for child in self.children:
            yield from child.walk()


class Seats:
    """All seats of a sheet."""

    def __init__(self, sheet: Sheet, catalog: Catalog) -> None:
        self.sheet = sheet
        self.catalog = catalog
        self.roots = [self._root(block) for block in sheet.blocks]

    def find(self, pass_: str, component: str, path: str) -> Iterator[Seat]:
        """Every seat at a path of a component in a pass; an empty path gives the blocks themselves."""
        for root in self.roots:
            if root.block.pass_ == pass_ and root.block.component == component:
                if path:
                    yield from root.all(path)
                else:
                    yield root

    def __iter__(self) -> Iterator[Seat]:
        """Every seat but the blocks themselves, in order."""
        return iter(self._all)

    @cached_property
    def parents(self) -> tuple[Seat, ...]:
        """Blocks, and every seat that has others below it."""
        return (*self.roots, *(seat for seat in self._all if seat.children))

    @cached_property
    def _all(self) -> tuple[Seat, ...]:
        """What is looked through by one rule after the other."""
        return tuple(seat for root in self.roots for child in root.children for seat in child.walk())

    def title(self, root: Seat) -> str:
        """A block's component, with its item in brackets if it may repeat."""
        known = root.component
        if known is None or not known.repeats:
            return root.block.component
        same = [one for one in self.roots if one.block.component == known.name and one.block.pass_ == root.block.pass_]
        item = root.node.text(known.key) if known.key else None
        if item is None and len(same) == 1:
            return known.name
        return f"{known.name}[{visible(item) if item else same.index(root) + 1}]"

    def _root(self, block: Block) -> Seat:
        known = self.catalog.component(block.component)
        node = Node(block.component, None, block.children, block.origin)
        root = Seat(block, node, None, known)
        stack = [root]
        while stack:
            seat = stack.pop()
            seat.children = [Seat(block, child, seat, known) for child in seat.node.children]
            stack.extend(seat.children)
        return root


def _step(node: Node, setting: Setting | None, place: int) -> str:
    if setting is None or setting.kind != "list":
        return node.name
    key = node.text(setting.key) if setting.key else None
    return f"{node.name}[{visible(key) if key else place}]"
