"""Taking out what earlier layers brought: portable parts by section, answers by address."""

from __future__ import annotations

from collections.abc import Container, Iterator

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.address import Step, steps_of
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.seats import Seat, Seats, identity_of
from fairledger.intent.sections import SECTION_NAMES, items_at, section
from fairledger.model.errors import WrongUseError
from fairledger.model.items import place_in
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin
from fairledger.model.sheet import Node, Sheet
from fairledger.profiles.raw import Array, Leaf, Raw, Table

_PORTABLE = pattern(r"([a-z]+)(?:\.([a-z_.]+)|:([^/]+))?")


def is_section(address: str) -> bool:
    """Whether an address names a section, a field or an item: ``disk``, ``locale.region``, ``account:observer``."""
    match = _PORTABLE.fullmatch(address)
    return bool(match and match[1] in SECTION_NAMES)


def without(whole: Table, address: str) -> Table | None:
    """Merged sections without what the address names; None if there is no such thing."""
    match = _PORTABLE.fullmatch(address)
    assert match
    name, field, item = match.groups()
    if name not in whole.entries:
        return None
    if item is None:
        return _cut(whole, [name, *(field.split(".") if field else [])])
    kind = section(name)
    way = [name] if kind.many else [name, kind.items]
    listed = items_at(tuple(way))
    return _cut_item(whole, way, listed.KEY, item) if listed is not None else None


def _cut(table: Table, way: list[str]) -> Table | None:
    first, *rest = way
    entry = table.entries.get(first)
    if entry is None:
        return None
    if not rest:
        return Table({name: one for name, one in table.entries.items() if name != first}, table.origin)
    below = _cut(entry, rest) if isinstance(entry, Table) else None
    return Table({**table.entries, first: below}, table.origin) if below is not None else None


def _cut_item(table: Table, way: list[str], key: str, item: str) -> Table | None:
    first, *rest = way
    entry = table.entries.get(first)
    if rest:
        below = _cut_item(entry, rest, key, item) if isinstance(entry, Table) else None
        return Table({**table.entries, first: below}, table.origin) if below is not None else None
    items = entry.items if isinstance(entry, Array) else (entry,) if isinstance(entry, Table) else ()
    kept = tuple(one for one in items if not _named(one, key, item))
    if len(kept) == len(items):
        return None
    origin = entry.origin if entry is not None else table.origin
    return Table({**table.entries, first: Array(kept, origin)}, table.origin)


def _named(one: Raw, key: str, item: str) -> bool:
    said = one.entries.get(key) if isinstance(one, Table) else None
    return isinstance(said, Leaf) and str(said.value) == item


class Dropped(Struct, frozen=True):
    """What became of a drop."""

    sheet: Sheet
    taken: int
    """How many answers, groups or blocks it took out."""
    asked_again: tuple[Seat, ...]
    """What it names and a later layer asks for, so that it stays."""


def without_answers(sheet: Sheet, address: str, catalog: Catalog, later: Container[Origin] = ()) -> Dropped:
    """A sheet without the answers that the address names, and without groups that become empty.

    What comes from one of the ``later`` origins stays. Raises `WrongUseError` if the text is no address.
    """
    head, colon, rest = address.partition(":")
    pass_ = head if colon and "/" not in head and "[" not in head else ""
    steps = steps_of(rest if pass_ else address)
    if any(step.item is not None and place_in(step.item) for step in steps):
        raise WrongUseError(f"{address!r} counts items, which other layers move", remedy="name the item by what it is")
    seats = Seats(sheet, catalog)
    there = [*seats.roots, *seats]
    found = [one for one in there if (not pass_ or one.block.pass_ == pass_) and _fits(one, steps)]
    again = [one for one in found if any(asked_at(below.node.origin) in later for below in one.walk())]
    gone = {id(one.node if one.parent is not None else one.block) for one in found if one not in again}
    blocks = []
    for block in sheet.blocks:
        children = _left(block.children, gone)
        if id(block) not in gone and (children or not block.children):
            blocks.append(replace(block, children=children))
    return Dropped(replace(sheet, blocks=tuple(blocks)), len(gone), tuple(again))


def asked_at(origin: Origin) -> Origin:
    """The place in a draft alone, without what it overrode and which section translated it."""
    return Origin(origin.file, origin.line, origin.column)


def origins_in(table: Table) -> Iterator[Origin]:
    """The places of everything that a layer says."""
    for entry in table.entries.values():
        yield asked_at(entry.origin)
        for item in entry.items if isinstance(entry, Array) else (entry,):
            yield asked_at(item.origin)
            if isinstance(item, Table):
                yield from origins_in(item)


def _fits(seat: Seat, steps: tuple[Step, ...]) -> bool:
    """Whether the last steps of the way to a seat are these, items included."""
    here: Seat | None = seat
    for asked in reversed(steps):
        if here is None or here.name != asked.name or (asked.item is not None and asked.item not in _names(here)):
            return False
        here = here.parent
    return True


def _names(seat: Seat) -> tuple[str | None, ...]:
    """What an item is called: by what tells it apart, else by the words that say what it is for."""
    if seat.parent is None:
        known = seat.component
        return (seat.says(known.key) if known is not None and known.key else None,)
    about = next((one for one in seat.children if one.setting and "command-about" in one.setting.traits), None)
    return (identity_of(seat), about.text if about is not None else None)


def _left(nodes: tuple[Node, ...], gone: set[int]) -> tuple[Node, ...]:
    kept = []
    for node in nodes:
        if id(node) in gone:
            continue
        children = _left(node.children, gone)
        if children or not node.children:
            kept.append(replace(node, children=children))
    return tuple(kept)
