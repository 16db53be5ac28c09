"""Sheets side by side, answer for answer: what both say, what only one says. No meaning is asked for.

Only what installers do not mind is left out: which of several blocks of a component says something, numbers that keep
an order (the order itself counts), where blocks of different components stand.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from typing import Any, TypeVar

from msgspec import Struct

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.items import in_order, is_number
from fairledger.catalog.seats import Seat, Seats
from fairledger.model.sheet import Block, Sheet
from fairledger.model.values import Scalar

_ONE_COUNTS = ("ends", "shows-installer", "source")
"""Traits of components of which one counts where there are several: the last, or the first."""
Form = Hashable
"""What a seat says with all below it, so that two of the same form say the same."""


class Side:
    """A sheet whose answers can be held against those of another one."""

    def __init__(self, sheet: Sheet, catalog: Catalog, *, adds_up: bool) -> None:
        self.sheet = sheet
        self.adds_up = adds_up
        """Whether several blocks of a component that stands once are as good as one."""
        self.catalog = catalog
        self.seats = Seats(sheet, catalog)
        self.uses: dict[tuple[str, str, str], list[Seat]] = {}
        """The blocks of each component, by pass, component and variant."""
        for root in self.seats.roots:
            block = root.block
            self.uses.setdefault((block.pass_, block.component, block.variant), []).append(root)

    def repeats(self, block: Block) -> bool:
        """Whether each block of a component is a use of its own."""
        known = self.catalog.anywhere(block.component)
        return known is not None and known.repeats

    def in_order(self, roots: Sequence[Seat], forms: Sequence[Form]) -> list[Form]:
        """What of the uses of a component counts in its order: scripts, and what the catalog says so of."""
        known = self.catalog.anywhere(roots[0].block.component) if roots else None
        counts = known is not None and "in-order" in known.traits
        pairs = zip(roots, forms, strict=True)
        return [form for root, form in pairs if (counts and self.key_of(root)) or any(map(_is_script, root.children))]

    def turns(self, trait: str) -> list[tuple[str, str]]:
        """The components with a trait, in the order in which they stand."""
        blocks = ((one, self.catalog.anywhere(one.component)) for one in self.sheet.blocks)
        return [(one.pass_, one.component) for one, known in blocks if known is not None and trait in known.traits]

    def key_of(self, root: Seat) -> str:
        """What tells a use of a component apart; empty where nothing does."""
        known = self.catalog.anywhere(root.block.component)
        return (root.says(known.key) or "") if known is not None and known.key else ""


def is_list(seat: Seat) -> bool:
    """Whether it is an item of a list, with others below it."""
    return seat.setting is not None and seat.setting.kind == "list" and not seat.setting.repeats


def by_name(children: Sequence[Seat]) -> dict[str, list[Seat]]:
    """Children but for numbers, by their names."""
    found: dict[str, list[Seat]] = {}
    for child in children:
        if not is_number(child):
            found.setdefault(child.name, []).append(child)
    return found


def key_of_item(item: Seat) -> str:
    """What tells an item of a list apart; empty where only its place does."""
    setting = item.setting
    key = item.child(setting.key) if setting is not None and setting.key else None
    return (key.text or "") if key is not None and not is_number(key) else ""


def form_of(seat: Seat) -> Form:
    """What it says, with everything below it."""
    below = []
    for name, alike in by_name(seat.children).items():
        forms: tuple[Form, ...] = tuple(form_of(one) for one in in_order(alike))
        keyed = all(key_of_item(one) for one in alike)
        # items that have names may stand in any order
        below.append((name, tuple(sorted(forms, key=repr)) if keyed and is_list(alike[0]) else forms))
    return (seat.value, seat.node.kind, tuple(sorted(below, key=repr)))


class Match(Struct, frozen=True):
    """What two sheets have in common."""

    both: frozenset[int]
    """The nodes of the second sheet, by identity, that the first one says as well."""
    only_first: tuple[Seat, ...]
    """What only the first one says, at the highest place."""
    loose: tuple[Seat, ...]
    """Blocks and items of the second sheet that are not said whole, and that nothing tells apart."""
    places: Mapping[int, int] = {}
    """Blocks of the second sheet that nothing names, by identity, with the place (from 1) of the use of the first one
    that says some of each, counted without those that only the first one says."""


T = TypeVar("T", bound=Hashable)


class _Left:
    """What nobody has taken yet of several things, by their places."""

    def __init__(self, of: Sequence[Seat]) -> None:
        self.there = [True] * len(of)

    def first(self, places: list[int]) -> int | None:
        """The first of these places that is left, which is taken; places that are not are struck out."""
        while places:
            at = places.pop()
            if self.there[at]:
                self.there[at] = False
                return at
        return None


def _grouped(seats: Sequence[Seat], by: Callable[[Seat], T]) -> dict[T, list[int]]:
    """Places by what stands there, the first one last."""
    found: dict[T, list[int]] = {}
    for at in reversed(range(len(seats))):
        found.setdefault(by(seats[at]), []).append(at)
    return found


class _Matching:
    def __init__(self) -> None:
        self.forms: dict[int, Form] = {}
        self.both: set[int] = set()
        self.extra: list[Seat] = []
        self.loose: list[Seat] = []
        self.places: dict[int, int] = {}

    def form(self, seat: Seat) -> Form:
        """What it says, worked out once."""
        if id(seat) not in self.forms:
            self.forms[id(seat)] = form_of(seat)
        return self.forms[id(seat)]

    def take(self, seat: Seat) -> None:
        self.both.update(id(one.node) for one in seat.walk())

    def children(self, one: Sequence[Seat], other: Sequence[Seat]) -> None:
        first, second = by_name(one), by_name(other)
        for name in dict.fromkeys([*first, *second]):
            mine, theirs = first.get(name, []), second.get(name, [])
            some = (mine or theirs)[0]
            if is_list(some):
                self.items(mine, theirs)
            elif len(mine) <= 1 and len(theirs) <= 1:
                self.pair(mine, theirs)
            elif [self.form(seat) for seat in mine] == [self.form(seat) for seat in theirs]:
                for seat in theirs:
                    self.take(seat)
            elif not theirs:
                self.extra += mine

    def pair(self, mine: Sequence[Seat], theirs: Sequence[Seat]) -> None:
        if not theirs:
            self.extra += mine
        elif mine:
            a, b = mine[0], theirs[0]
            if a.value == b.value and a.node.kind == b.node.kind:
                self.both.update(id(one.node) for one in (b, *b.children) if one is b or is_number(one))
            before, extra = len(self.both), len(self.extra)
            self.children(a.children, b.children)
            if a.children and a.value is None and len(self.both) == before:
                # nothing in it is the same: it goes as a whole
                self.extra[extra:] = [a]

    def items(self, mine: Sequence[Seat], theirs: Sequence[Seat]) -> None:
        """Items by what tells them apart, else by what they say."""
        left = _Left(theirs)
        keyed = _grouped(theirs, key_of_item)
        formed = _grouped(theirs, self.form) if any(not key_of_item(seat) for seat in mine) else {}
        for seat in mine:
            key = key_of_item(seat)
            other = left.first(keyed.get(key, []) if key else formed.get(self.form(seat), []))
            if other is None:
                self.extra.append(seat)
            elif key:
                self.pair([seat], [theirs[other]])
            else:
                self.take(theirs[other])

    def uses(self, mine: Sequence[Seat], theirs: Sequence[Seat], keys: tuple[list[str], list[str]]) -> None:
        """Uses of a component that may stand several times."""
        left = _Left(theirs)
        formed, named = _grouped(theirs, self.form), {key: [at] for at, key in enumerate(keys[1])}
        counts = [Counter(side) for side in keys]
        both = 0
        for seat, key in zip(mine, keys[0], strict=True):
            same = left.first(formed.get(self.form(seat), []))
            alone = counts[0][key] <= 1 and counts[1][key] <= 1
            near = left.first(named.get(key, []) if alone and same is None else [])
            both += same is not None or near is not None
            if same is not None:
                self.take(theirs[same])
            elif near is not None:
                other = theirs[near]
                self.both.add(id(other.block))
                self.children(seat.children, other.children)
                if not key:
                    # what is left of it can only be put beside it by its place
                    self.places[id(other.block)] = both
            else:
                self.extra.append(seat)


def matched(first: Side, second: Side) -> Match:
    """What a sheet says that another one says as well, and what it says beyond that."""
    found = _Matching()
    for key in dict.fromkeys([*first.uses, *second.uses]):
        mine, theirs = first.uses.get(key, []), second.uses.get(key, [])
        if first.repeats((mine or theirs)[0].block):
            found.uses(mine, theirs, ([first.key_of(one) for one in mine], [second.key_of(one) for one in theirs]))
            continue
        if not theirs:
            found.extra += mine
            continue
        if len(theirs) > 1 and not first.adds_up:
            # which of them a section speaks of nobody can tell
            found.loose += theirs
            continue
        if mine:
            found.both.update(id(one.block) for one in theirs)
        below = ([child for root in side for child in root.children] for side in (mine, theirs))
        before, extra = len(found.both), len(found.extra)
        found.children(*below)
        if len(found.both) == before and any(root.children for root in mine):
            found.extra[extra:] = mine
    return Match(frozenset(found.both), tuple(found.extra), tuple(found.loose), found.places)


def told_apart(first: Side, second: Side) -> list[str]:
    """Where two sheets do not say the same, each place once; empty where they do."""
    places: list[str] = [] if first.sheet.kinds == second.sheet.kinds else ["the architectures"]
    for key in dict.fromkeys([*first.uses, *second.uses]):
        mine, theirs = first.uses.get(key, []), second.uses.get(key, [])
        pass_, component, _ = key
        if first.repeats((mine or theirs)[0].block):
            forms: list[Any] = [[form_of(one) for one in side] for side in (mine, theirs)]
            orders = [first.in_order(mine, forms[0]), first.in_order(theirs, forms[1])]
            if Counter(forms[0]) != Counter(forms[1]) or orders[0] != orders[1]:
                places.append(f"{pass_}:{component}")
            continue
        if max(len(mine), len(theirs)) > 1 and not first.adds_up:
            if [form_of(one) for one in mine] != [form_of(one) for one in theirs]:
                places.append(f"{pass_}:{component}")
            continue
        whole = [[child for root in side for child in root.children] for side in (mine, theirs)]
        places += [f"{pass_}:{component}/{name}" for name in _unlike(whole[0], whole[1])]
        if bool(mine) != bool(theirs) and not any(whole):
            places.append(f"{pass_}:{component}")
    for key in first.uses.keys() & second.uses.keys():
        words = [{one.block.written for one in side.uses[key]} for side in (first, second)]
        places += [f"{key[0]}:{key[1]}"] if words[0] != words[1] else []
    for trait in _ONE_COUNTS:
        turns = [side.turns(trait) for side in (first, second)]
        places += [f"{pass_}:{component}" for pass_, component in turns[0]] if turns[0] != turns[1] else []
    extras = [Counter(one.text.strip() for one in side.sheet.extras) for side in (first, second)]
    scripts = [{one.name: (_bare(one.body), one.secret) for one in side.sheet.companions} for side in (first, second)]
    places += ["what has no other form"] if extras[0] != extras[1] else []
    places += ["the scripts beside the file"] if scripts[0] != scripts[1] else []
    return list(dict.fromkeys(places))


def _bare(body: Scalar) -> Scalar:
    return body.strip() if isinstance(body, str) else body


def _is_script(seat: Seat) -> bool:
    return seat.setting is not None and seat.setting.form == "body"


def _unlike(mine: Sequence[Seat], theirs: Sequence[Seat]) -> Iterator[str]:
    first, second = by_name(mine), by_name(theirs)
    for name in dict.fromkeys([*first, *second]):
        one, other = first.get(name, []), second.get(name, [])
        if len(one) == len(other) == 1 and not is_list(one[0]) and one[0].children and other[0].children:
            if one[0].value != other[0].value:
                yield name
            yield from (f"{name}/{below}" for below in _unlike(one[0].children, other[0].children))
            continue
        forms = [[form_of(seat) for seat in in_order(side)] for side in (one, other)]
        if (one or other) and is_list((one or other)[0]) and all(key_of_item(seat) for seat in (*one, *other)):
            forms = [sorted(side, key=repr) for side in forms]
        if forms[0] != forms[1]:
            yield name
