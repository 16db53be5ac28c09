"""The answer sheet: all answers for one machine, in memory, ordered.

A sheet is a row of blocks. A block is a component in a pass (in families whose commands repeat, one
command); below it stand nodes: groups, list items (siblings of one name) and values. Names that begin
with ``@`` are attributes.
"""

from __future__ import annotations

from collections.abc import Callable, Container, Iterator
from operator import is_ as _is

from msgspec import Struct
from msgspec.structs import replace

from fairledger.model.places import NOWHERE, Origin
from fairledger.model.values import Scalar, SecretRef, blanks_of

VALUE_KEY = "@keyValue"
"""An attribute that only tells items apart; numbers serve if nobody gives it."""
TEXT, WHOLE, REAL, TRUTH, NOTHING = "text", "whole", "real", "truth", "nothing"
"""Kinds of scalars of families whose files tell ``"0644"`` from ``0644`` and nothing from what is absent."""
ITEM_ACTION = "@action"
"""The attribute that says what becomes of an item, where it is not simply added."""


def is_mark(name: str) -> bool:
    """Whether a node of that name says something of the one above it, instead of standing in it."""
    return name.startswith("@")


class Node(Struct, frozen=True, gc=False):
    """One setting with its value, or a group or list item with children."""

    name: str
    value: Scalar | None = None
    children: tuple[Node, ...] = ()
    origin: Origin = NOWHERE
    kind: str = ""
    """What its file says that the value is, where files tell that: `TEXT`, `WHOLE`, `REAL`, `TRUTH` or `NOTHING`."""

    @property
    def marks(self) -> tuple[Node, ...]:
        """What is said of it: attributes, what tells it apart, what becomes of it."""
        return tuple([child for child in self.children if is_mark(child.name)])

    @property
    def inner(self) -> tuple[Node, ...]:
        """What stands in it."""
        return tuple([child for child in self.children if not is_mark(child.name)])

    def get(self, name: str) -> Node | None:
        """The first child of that name."""
        return next((child for child in self.children if child.name == name), None)

    def text(self, name: str) -> str | None:
        """The plain text of the first child of that name; None where there is none or it is not plain."""
        child = self.get(name)
        return child.value if child is not None and isinstance(child.value, str) else None


class Block(Struct, frozen=True, gc=False):
    """A component in a pass, with the answers in it."""

    pass_: str
    component: str
    variant: str = ""
    """What tells apart two blocks of one component in a pass (a processor architecture)."""
    children: tuple[Node, ...] = ()
    origin: Origin = NOWHERE
    written: str = ""
    """The other name of the component that the file uses; empty for its usual one."""
    also: tuple[str, ...] = ()
    """Further variants for which it stands there in the same words."""
    use: int = 0
    """Of direct answers: the place (from 1) of the use of the component to which they are added; zero for its own."""


class Extra(Struct, frozen=True):
    """Something of an answer file that has no other form, kept as it is."""

    place: str
    text: str
    origin: Origin = NOWHERE


class Companion(Struct, frozen=True):
    """A script that lies on the medium beside the answer file, which calls it."""

    name: str
    """Its path below the folder of the answer file, with ``/``."""
    body: Scalar
    origin: Origin = NOWHERE
    secret: Scalar | None = None
    """What stands in the place of `SECRET` in the body; the file is private then."""

    @property
    def runs(self) -> bool:
        """Whether it is a script, or the like, rather than a profile that is read."""
        return not self.name.endswith(".xml")

    @property
    def told(self) -> str:
        """The body as it can be shown."""
        return str(self.body).replace(SECRET, str(self.secret) if isinstance(self.secret, SecretRef) else "(secret)")


SECRET = "\x00"  # noqa: S105 - no secret, but its place
"""The place of a companion's secret in its body."""
Keep = Callable[[Block, str, "Node", "tuple[Node, ...]"], "tuple[Node, ...]"]


class Sheet(Struct, frozen=True):
    """All answers for one machine."""

    blocks: tuple[Block, ...] = ()
    extras: tuple[Extra, ...] = ()
    companions: tuple[Companion, ...] = ()

    def at(self, pass_: str, component: str, *names: str) -> Iterator[Node]:
        """Every node under that path of names, in order, over all blocks of the component in the pass."""
        for block in self.blocks:
            if block.pass_ == pass_ and block.component == component:
                yield from descend(block.children, names)

    def scalars(self) -> Iterator[tuple[Block, Node]]:
        """Every node that holds a value, with its block."""
        for block in self.blocks:
            stack = list(reversed(block.children))
            while stack:
                node = stack.pop()
                if node.value is not None:
                    yield block, node
                stack.extend(reversed(node.children))

    def blanks(self) -> tuple[str, ...]:
        """The names of all placeholders that are still open."""
        values = [node.value for _, node in self.scalars() if node.value is not None]
        values += [value for one in self.companions for value in (one.body, one.secret) if value is not None]
        return tuple(dict.fromkeys(name for value in values for name in blanks_of(value)))

    def map_values(
        self, change: Callable[[Block, tuple[Node, ...], Scalar], Scalar], within: Container[int] | None = None
    ) -> Sheet:
        """A sheet with every value changed; ``change`` gets the block, the nodes on the way, the value.

        Nodes and blocks in which nothing changes stay what they are. ``within`` names the blocks in which anything can
        change, by their identities.
        """
        blocks = []
        for block in self.blocks:
            if within is not None and id(block) not in within:
                blocks.append(block)
                continue
            children = _mapped(block, (), block.children, change)
            blocks.append(block if children is block.children else replace(block, children=children))
        companions = []
        for one in self.companions:
            body = change(Block("", one.name), (Node(one.name, one.body),), one.body)
            secret = one.secret
            if secret is not None:
                secret = change(Block("", one.name), (Node(one.name), Node(SECRET, secret)), secret)
            same = body is one.body and secret is one.secret
            companions.append(one if same else replace(one, body=body, secret=secret))
        return replace(self, blocks=tuple(blocks), companions=tuple(companions))

    def apart(self) -> Sheet:
        """The sheet with a block for every variant."""
        if not any(block.also for block in self.blocks):
            return self
        rows = [
            replace(block, variant=variant, also=())
            for block in self.blocks
            for variant in (block.variant, *block.also)
        ]
        return replace(self, blocks=tuple(rows))

    @property
    def kinds(self) -> frozenset[tuple[str, ...]]:
        """For which variants its blocks are, those of each together; one where all are for the same."""
        return frozenset((block.variant, *block.also) for block in self.blocks if block.variant)

    def as_in(self, other: Sheet) -> Sheet:
        """The sheet with its blocks gathered, or apart, as those of another one are."""
        return self.gathered() if len(other.kinds) < 2 else self.apart()

    def gathered(self) -> Sheet:
        """The sheet with one block where several say the same for one variant each."""
        if len({block.variant for block in self.blocks if block.variant}) < 2:
            return self
        rows: list[Block] = []
        first: dict[object, int] = {}
        # what stands several times for one variant is told apart by its turn
        turns: dict[tuple[str, str, str], int] = {}
        for block in self.apart().blocks:
            place = (block.pass_, block.component, block.variant)
            turns[place] = turns.get(place, 0) + 1
            form = (block.pass_, block.component, turns[place], tuple(_bare(node) for node in block.children))
            at = first.setdefault(form, len(rows)) if block.variant else len(rows)
            if at == len(rows):
                rows.append(block)
            elif block.variant not in (rows[at].variant, *rows[at].also):
                rows[at] = replace(rows[at], also=(*rows[at].also, block.variant))
            else:
                rows.append(block)
        return replace(self, blocks=tuple(rows))

    def without(self, taken: Callable[[Node | Block], bool], keep: Keep | None = None) -> Sheet:
        """A sheet without the values, and the empty groups and blocks, that are taken.

        ``keep`` may add to what is left of a node: it gets the block, the node's path and the node, and what is left.
        """

        def left(block: Block, nodes: tuple[Node, ...], above: str) -> tuple[Node, ...]:
            kept = []
            for node in nodes:
                path = f"{above}/{node.name}" if above else node.name
                children = left(block, node.children, path)
                if children or (not node.children and not taken(node)):
                    children = keep(block, path, node, children) if keep is not None and children else children
                    same = len(children) == len(node.children) and all(map(_is, children, node.children))
                    kept.append(node if same else replace(node, children=children))
            return tuple(kept)

        blocks = []
        for block in self.blocks:
            children = left(block, block.children, "")
            if children or (not block.children and not taken(block)):
                blocks.append(replace(block, children=children))
        return replace(self, blocks=tuple(blocks))

    def bare(self) -> Sheet:
        """The same sheet without origins, for comparing."""
        return replace(
            self,
            blocks=tuple(
                replace(block, origin=NOWHERE, children=tuple(_bare(node) for node in block.children))
                for block in self.blocks
            ),
            extras=tuple(replace(extra, origin=NOWHERE) for extra in self.extras),
            companions=tuple(replace(one, origin=NOWHERE) for one in self.companions),
        )


def descend(nodes: tuple[Node, ...], names: tuple[str, ...]) -> Iterator[Node]:
    """Every node reached from ``nodes`` by a path of names, in order."""
    for node in nodes:
        if node.name == names[0]:
            if len(names) == 1:
                yield node
            else:
                yield from descend(node.children, names[1:])


def _mapped(
    block: Block,
    above: tuple[Node, ...],
    nodes: tuple[Node, ...],
    change: Callable[[Block, tuple[Node, ...], Scalar], Scalar],
) -> tuple[Node, ...]:
    out = []
    same = True
    for node in nodes:
        way = (*above, node)
        value = node.value if node.value is None else change(block, way, node.value)
        children = _mapped(block, way, node.children, change) if node.children else node.children
        if value is node.value and children is node.children:
            out.append(node)
        else:
            out.append(Node(node.name, value, children, node.origin, node.kind))
            same = False
    return nodes if same else tuple(out)


def _bare(node: Node) -> Node:
    return replace(node, origin=NOWHERE, children=tuple(_bare(child) for child in node.children))


class Branch:
    """A node under construction; `SheetBuilder` hands them out."""

    __slots__ = ("children", "kind", "name", "origin", "value")

    def __init__(self, name: str, origin: Origin, value: Scalar | None = None) -> None:
        self.name = name
        self.kind = ""
        self.origin = origin
        self.value = value
        self.children: list[Branch] = []

    def put(self, path: str, value: Scalar, origin: Origin) -> Branch:
        """Sets the value at a path of names joined by ``/``; groups on the way are shared, not repeated."""
        branch = self
        for name in path.split("/"):
            branch = branch.child(name, origin)
        branch.value = value
        branch.origin = origin
        return branch

    def child(self, name: str, origin: Origin) -> Branch:
        """The child of that name, made if there is none."""
        for child in self.children:
            if child.name == name:
                return child
        return self.add(name, origin)

    def add(self, path: str, origin: Origin, value: Scalar | None = None) -> Branch:
        """A new list item at the end of a path; groups on the way are shared."""
        *way, last = path.split("/")
        branch = self
        for name in way:
            branch = branch.child(name, origin)
        item = Branch(last, origin, value)
        branch.children.append(item)
        return item

    def frozen(self) -> Node:
        """The finished node."""
        return Node(self.name, self.value, tuple(child.frozen() for child in self.children), self.origin, self.kind)


class SheetBuilder:
    """Collects answers in order of coming and makes a `Sheet` of them, passes in the family's order."""

    def __init__(self, pass_order: tuple[str, ...]) -> None:
        self._order = pass_order
        self._blocks: dict[tuple[str, str, str, int], tuple[Branch, Origin]] = {}
        self._uses: dict[tuple[str, str, str], int] = {}
        self.companions: list[Companion] = []

    def block(self, pass_: str, component: str, origin: Origin, *, variant: str = "", again: bool = False) -> Branch:
        """The block of a component in a pass; ``again`` starts another one for commands that repeat."""
        uses = self._uses.setdefault((pass_, component, variant), 0)
        number = uses if again else 0
        self._uses[pass_, component, variant] = max(uses, number + 1)
        branch, _ = self._blocks.setdefault((pass_, component, variant, number), (Branch(component, origin), origin))
        return branch

    def sheet(self) -> Sheet:
        """The finished sheet."""
        order = {name: at for at, name in enumerate(self._order)}
        keys = sorted(self._blocks, key=lambda key: order.get(key[0], len(order)))
        blocks = []
        for key in keys:
            branch, origin = self._blocks[key]
            children = tuple(child.frozen() for child in branch.children)
            blocks.append(Block(key[0], key[1], key[2], children, origin))
        return Sheet(tuple(blocks), (), tuple(self.companions))
