"""Walks two sheets side by side: every place where they differ, and what was taken for the same."""

from __future__ import annotations

from collections import Counter, deque
from collections.abc import Iterator
from difflib import SequenceMatcher
from itertools import zip_longest

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.setting import Component, Setting
from fairledger.exchange.spelled import in_one_spelling
from fairledger.model.places import NOWHERE, Origin
from fairledger.model.sheet import NOTHING, VALUE_KEY, Block, Companion, Node, Sheet
from fairledger.model.showing import looks_secret
from fairledger.model.values import Scalar
from fairledger.profiles.hashes import hash_fits
from fairledger.subject.subject import Subject


class Difference(Struct, frozen=True):
    """Something that only one file says, or that both say differently."""

    pass_: str
    component: str
    setting: str
    a: Scalar | None
    b: Scalar | None
    secret: bool = False
    a_origin: Origin = NOWHERE
    b_origin: Origin = NOWHERE
    seen: tuple[int | None, int | None] = (None, None)
    """The nodes or blocks of either file, by their identities."""
    around: tuple[frozenset[int], frozenset[int]] = (frozenset(), frozenset())
    """What else has to be understood before it can be said that it makes no difference."""

    @property
    def key(self) -> tuple[str, str, str]:
        """Where it is."""
        return (self.pass_, self.component, self.setting)


class Differ:
    """Walks two sheets side by side."""

    def __init__(self, a: Subject, b: Subject) -> None:
        self.a = a
        self.b = b
        self.catalog = (a if a.target else b).catalog
        self.used: list[str] = []
        """What was said otherwise and taken for the same."""
        self.explained: set[str] = set()
        """The components, with their passes, of which something was taken for the same."""

    def same(self, why: str, way: _Way) -> None:
        """Notes what was taken for the same, and why."""
        self.used.append(f"{why}: {way.component}/{way.shown}")
        self.explained.add(f"{way.pass_}:{way.component.partition('[')[0].partition('@')[0]}")

    def sheets(self, a: Sheet, b: Sheet) -> Iterator[Difference]:
        """Every difference, in the order of A, then of B."""
        uses: dict[tuple[str, str, str], tuple[list[Block], list[Block]]] = {}
        for which, side in enumerate((a, b)):
            for block in side.blocks:
                uses.setdefault((block.pass_, block.component, block.variant), ([], []))[which].append(block)
        for both in uses.values():
            yield from self.blocks(*both)
        companions = [{one.name: one for one in reversed(side.companions)} for side in (a, b)]
        for name in dict.fromkeys(one.name for one in (*a.companions, *b.companions)):
            one, other = companions[0].get(name), companions[1].get(name)
            if one is None or other is None or (_script(one), one.secret) != (_script(other), other.secret):
                yield Difference("", name, "", one.told if one else None, other.told if other else None)
        extras = [{_bare(one.text): one.text.strip() for one in side.extras} for side in (a, b)]
        for form in dict.fromkeys((*extras[0], *extras[1])):
            if (form in extras[0]) != (form in extras[1]):
                yield Difference("", "extra", "", extras[0].get(form), extras[1].get(form))

    def blocks(self, a: list[Block], b: list[Block]) -> Iterator[Difference]:
        """The uses of one component in one pass."""
        first = (a or b)[0]
        known = self.catalog.anywhere(first.component)
        title = first.component + (f"@{first.variant}" if first.variant and self._variants(first) else "")
        # blocks of a component that stands once add up, however many the file has
        if (known is None or not known.repeats) and max(len(a), len(b)) > 1 and not self.a.family.adds_up:
            # each is a line of its own, and one may undo the other: only in the same order they say the same
            for at in range(max(len(a), len(b))):
                one, other = (side[at] if at < len(side) else None for side in (a, b))
                way = _Way(first.pass_, f"{title}[#{at + 1}]", known, "", around=_NEVER)
                yield from self.nodes(one.children if one else (), other.children if other else (), way)
            return
        if known is None or not known.repeats:
            whole = tuple(node for one in a for node in one.children), tuple(node for one in b for node in one.children)
            if known is not None and known.alone and bool(a) != bool(b) and not any(whole):
                seen = (id(a[0]) if a else None, id(b[0]) if b else None)
                yield Difference(first.pass_, title, "", "" if a else None, "" if b else None, seen=seen)
            yield from self.nodes(whole[0], whole[1], _Way(first.pass_, title, known, ""))
            return
        for at, (one, other) in enumerate(self._paired(a, b, known)):
            use = one or other
            item = next((node.value for node in use.children if node.name == known.key), None) if use else None
            mark = item if item is not None else f"#{at + 1}"
            lone = item is None and len(a) <= 1 and len(b) <= 1
            way = _Way(first.pass_, title if lone else f"{title}[{mark}]", known, "")
            if (one is None or other is None) and use is not None and not use.children:
                seen = (id(one) if one else None, id(other) if other else None)
                yield Difference(way.pass_, way.component, "", "" if one else None, "" if other else None, seen=seen)
            yield from self.nodes(one.children if one else (), other.children if other else (), way)

    def _variants(self, first: Block) -> bool:
        named = {one.variant for side in (self.a, self.b) for one in side.sheet.blocks}
        return len(named - {""}) > 1 and bool(first.variant)

    def _paired(self, a: list[Block], b: list[Block], known: Component) -> list[tuple[Block | None, Block | None]]:
        forms = [[self.form(Node("", None, one.children), known, "") for one in side] for side in (a, b)]
        keys = [[_text(one.children, known.key) for one in side] for side in (a, b)]
        return [
            (a[at] if at is not None else None, b[to] if to is not None else None) for at, to in _pairs(keys, forms)
        ]

    def nodes(self, a: tuple[Node, ...], b: tuple[Node, ...], way: _Way) -> Iterator[Difference]:
        """Children of the same parent."""
        for name in dict.fromkeys(node.name for node in (*a, *b)):
            one, other = ([node for node in side if node.name == name] for side in (a, b))
            below = way.below(name)
            setting = below.setting
            # numbers only keep an order, and the order is compared itself
            if name == VALUE_KEY or (setting is not None and setting.ordinal):
                continue
            if setting is not None and setting.kind == "list" and not setting.repeats:
                yield from self.items(one, other, below)
            elif len(one) <= 1 and len(other) <= 1:
                yield from self.pair(one[0] if one else None, other[0] if other else None, below)
            else:
                yield from self.values(one, other, below)

    def items(self, a: list[Node], b: list[Node], way: _Way) -> Iterator[Difference]:
        """Items of a list: by identity where they have one, else by what they say and in their order."""
        known, setting = way.known, way.setting
        key = setting.key if setting else ""
        inner = known.setting(f"{way.path}/{key}") if known and key else None
        ordinal = key == VALUE_KEY or (inner is not None and inner.ordinal)
        if ordinal:
            a, b = _ordered(a, key), _ordered(b, key)
            # of what runs one after the other nothing can be told without the rest
            way = replace(way, around=(_values_in(a), _values_in(b)))
        forms = [[self.form(one, known, way.path) for one in side] for side in (a, b)]
        keys = [["" if ordinal else _text(one.children, key) for one in side] for side in (a, b)]
        for at, to in _pairs(keys, forms):
            one, other = a[at] if at is not None else None, b[to] if to is not None else None
            label = keys[0][at] if at is not None else keys[1][to] if to is not None else ""
            place = (at if at is not None else to) or 0
            yield from self.pair(one, other, way.item(label or f"#{place + 1}"))

    def pair(self, a: Node | None, b: Node | None, way: _Way) -> Iterator[Difference]:
        """One node on each side, or on one only."""
        one, other = (self.value(node, way.setting) for node in (a, b))
        default = way.setting.default if way.setting else ""
        if a is not None and b is not None and one != other and not self._alike(one, other):
            yield way.difference(a, b)
        elif a is not None and b is not None and (a.value != b.value or one != other):
            told = "a password and its hash" if one != other else "another spelling of a value"
            self.same(told, way)
        elif (a is None) != (b is None):
            there = one if a is not None else other
            there = there[1] if isinstance(there, tuple) and there[0] != NOTHING else there
            node = a or b
            leaf = node is not None and not node.children
            # an empty element of which nobody knows what it does may well do something
            unknown = there is None and leaf and way.setting is None
            if unknown or there not in (None, default) or (there == "" and not default):
                yield way.difference(a, b)
            elif there is not None:
                self.same("what holds anyway is said", way)
        yield from self.nodes(a.children if a else (), b.children if b else (), way)

    def values(self, a: list[Node], b: list[Node], way: _Way) -> Iterator[Difference]:
        """Plain values that repeat; their order does not count."""
        left = [self.value(one, way.setting) for one in a]
        if left != (again := [self.value(one, way.setting) for one in b]) and sorted(map(str, left)) == sorted(
            map(str, again)
        ):
            self.same("another order of values", way)
        for node in b:
            value = self.value(node, way.setting)
            if value in left:
                left.remove(value)
            else:
                yield way.difference(None, node)
        for node in a:
            value = self.value(node, way.setting)
            if value in left:
                left.remove(value)
                yield way.difference(node, None)

    def value(self, node: Node | None, setting: Setting | None) -> object:
        """A value in one spelling, with its kind where that counts."""
        spelled = self.spelled(node, setting)
        return (node.kind, spelled) if node is not None and node.kind else spelled

    def spelled(self, node: Node | None, setting: Setting | None) -> object:
        """A value in one spelling."""
        return in_one_spelling(node.value, setting) if node is not None and node.value is not None else None

    def form(self, node: Node, known: Component | None, path: str) -> object:
        """A node with all below it in one spelling, without ordinals."""
        setting = known.setting(path) if known else None
        children = []
        for child in node.children:
            below = f"{path}/{child.name}".lstrip("/")
            inner = known.setting(below) if known else None
            if not (inner is not None and inner.ordinal) and child.name != VALUE_KEY:
                children.append((child.name, repr(self.form(child, known, below))))
        return (repr(self.value(node, setting)), tuple(sorted(children)))

    def _alike(self, one: object, other: object) -> bool:
        """Whether a secret and a hash belong together."""
        plains = {**self.a.plains, **self.b.plains}
        for hashed, against in ((one, other), (other, one)):
            if isinstance(hashed, str) and isinstance(against, str) and hashed in plains:
                return plains[hashed] == against or hash_fits(plains[hashed], against)
        return False


def _script(one: Companion) -> Scalar:
    return one.body.strip() if isinstance(one.body, str) else one.body


def _bare(text: str) -> object:
    """An element without its prefixes; the text itself if it is none."""
    from lxml import etree

    def form(element: etree._Element) -> object:
        inner = [form(child) for child in element.iterchildren("*")]
        return element.tag, tuple(sorted(element.items())), (element.text or "").strip(), tuple(inner)

    try:
        return form(etree.fromstring(text, etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)))
    except (etree.XMLSyntaxError, ValueError):
        return text.strip()


_NEVER = (frozenset({0}), frozenset({0}))
"""The identity of no node: what stands there is never covered by a section."""


class _Way(Struct, frozen=True):
    """Where in the sheets we are."""

    pass_: str
    component: str
    known: Component | None
    path: str
    shown: str = ""
    around: tuple[frozenset[int], frozenset[int]] = (frozenset(), frozenset())
    """Inside a list whose order counts: all that is in it, in either file, by the identities of the nodes."""

    @property
    def setting(self) -> Setting | None:
        """What the catalog says of it."""
        return self.known.setting(self.path) if self.known and self.path else None

    def below(self, name: str) -> _Way:
        """A child."""
        return replace(self, path=f"{self.path}/{name}".lstrip("/"), shown=f"{self.shown}/{name}".lstrip("/"))

    def item(self, label: str) -> _Way:
        """An item of the list."""
        return replace(self, shown=f"{self.shown}[{label}]")

    def difference(self, a: Node | None, b: Node | None) -> Difference:
        """What differs here; a group without a value says that it is there."""
        setting = self.setting
        values = ["" if node is not None and node.value is None else node.value if node else None for node in (a, b)]
        return Difference(
            self.pass_,
            self.component,
            self.shown,
            values[0],
            values[1],
            secret=setting.secret if setting is not None else looks_secret(self.path),
            a_origin=a.origin if a else NOWHERE,
            b_origin=b.origin if b else NOWHERE,
            seen=(id(a) if a else None, id(b) if b else None),
            around=self.around,
        )


def _values_in(items: list[Node]) -> frozenset[int]:
    found = set()
    waiting = list(items)
    while waiting:
        node = waiting.pop()
        waiting.extend(node.children)
        if node.value is not None:
            found.add(id(node))
    return frozenset(found)


def _text(nodes: tuple[Node, ...], key: str) -> str:
    """The value that tells an item apart, in one spelling."""
    # what tells items apart (names, letters, numbers) is taken in any case
    value = next((node.value for node in nodes if node.name == key), None) if key else None
    return str(value).strip().casefold() if value is not None else ""


def _ordered(nodes: list[Node], key: str) -> list[Node]:
    def order(node: Node) -> tuple[int, int]:
        said = node.text(key)
        return (int(said), 0) if said and said.strip().isdecimal() and len(said) < 10 else (len(nodes), 1)

    return sorted(nodes, key=order)


_MOST_TRIED = 4_000_000
"""How many pairs of equal items are looked at for the longest runs of them."""


def _alike(a: list[object], b: list[object]) -> list[tuple[int, int]]:
    """Places of items that are equal, in the order of both: long runs first, the nearest where there are too many."""
    first, last = 0, 0
    while first < min(len(a), len(b)) and a[first] == b[first]:
        first += 1
    while last < min(len(a), len(b)) - first and a[-1 - last] == b[-1 - last]:
        last += 1
    inner_a, inner_b = a[first : len(a) - last], b[first : len(b) - last]
    counts = Counter(inner_b)
    found = [(at, at) for at in range(first)]
    if sum(counts[one] for one in inner_a) <= _MOST_TRIED:
        matcher = SequenceMatcher(None, inner_a, inner_b, autojunk=False)
        for here, there, size in matcher.get_matching_blocks():
            found += [(first + here + n, first + there + n) for n in range(size)]
    else:
        places: dict[object, deque[int]] = {}
        for to, one in enumerate(inner_b):
            places.setdefault(one, deque()).append(to)
        to = -1
        for at, one in enumerate(inner_a):
            later = places.get(one, deque())
            while later and later[0] <= to:
                later.popleft()
            if later and later[0] - to <= 1 + len(inner_b) // 8:
                to = later.popleft()
                found.append((first + at, first + to))
    return found + [(len(a) - 1 - at, len(b) - 1 - at) for at in reversed(range(last))]


def _pairs(keys: list[list[str]], forms: list[list[object]]) -> list[tuple[int | None, int | None]]:
    """Which item of A goes with which of B: by key, then what is equal, then in order; each at most once."""
    out: list[tuple[int | None, int | None]] = []
    free = dict.fromkeys(range(len(keys[1])))
    left = dict.fromkeys(range(len(keys[0])))
    # of several with one key those go together that say the same
    for exactly in (True, False):
        waiting: dict[tuple[str, object], deque[int]] = {}
        for to in free:
            if keys[1][to]:
                waiting.setdefault((keys[1][to], forms[1][to] if exactly else None), deque()).append(to)
        for at in [one for one in left if keys[0][one]]:
            alike = waiting.get((keys[0][at], forms[0][at] if exactly else None))
            if alike:
                found = alike.popleft()
                out.append((at, found))
                del free[found], left[at]
    out += [(at, None) for at in left if keys[0][at]]
    unkeyed = [at for at in left if not keys[0][at]]
    rest = [to for to in free if not keys[1][to]]
    start, begin = 0, 0
    alike_in = _alike([forms[0][at] for at in unkeyed], [forms[1][to] for to in rest])
    for end, stop in [*alike_in, (len(unkeyed), len(rest))]:
        # what differs between two that are alike goes together in order
        out += zip_longest(unkeyed[start:end], rest[begin:stop])
        if end < len(unkeyed) or stop < len(rest):
            out.append((unkeyed[end], rest[stop]))
        start, begin = end + 1, stop + 1
    out += [(None, to) for to in free if keys[1][to]]
    return out
