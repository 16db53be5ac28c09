"""What a portable section is worth in an adopted draft: what it says of the file, against what it needs besides."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from functools import cached_property

from msgspec.structs import replace

from fairledger.authoring.emit import text
from fairledger.catalog.seats import Seat
from fairledger.exchange.exact import Match, Side, is_list, key_of_item
from fairledger.exchange.rest import rest_of
from fairledger.model.finding import Finding, Severity
from fairledger.model.sheet import Node, Sheet
from fairledger.subject.subject import Subject

WORTH = 3
"""So many answers a section must say for each that it needs dropped or said directly."""


class Weighing:
    """The sections of a draft held against the file that they were recognised in."""

    def __init__(self, mine: Side, understood: Mapping[int, str], said: Side, match: Match) -> None:
        self.mine = mine
        self.understood = understood
        self.said = said
        self.match = match

    @cached_property
    def unfit(self) -> set[str]:
        """The sections that cost too much, or bring what cannot be taken out again."""
        out = {name for name, cost in self.costs.items() if self.gains[name] < WORTH * cost}
        out |= {by for address, by in self.besides if not address}
        for block in self.match.loose:
            out |= {self.understood.get(id(one.node), "") for one in block.walk()}
        return out - {""}

    @cached_property
    def gains(self) -> Counter[str]:
        """By section: the answers of the file that it says."""
        rows = (node for _, node in self.mine.sheet.scalars() if id(node) in self.match.both)
        return Counter(self.understood.get(id(node), "") for node in rows)

    @cached_property
    def costs(self) -> Counter[str]:
        """By section: what it took for its own and does not say, and what it says besides."""
        rows = (node for _, node in self.mine.sheet.scalars() if id(node) not in self.match.both)
        cost = Counter(self.understood.get(id(node), "") for node in rows)
        cost.update(by for _, by in dict.fromkeys(self.besides))
        del cost[""]
        return cost

    def rest(self) -> Sheet:
        """What of the file the sections do not say, every part with what tells it apart."""
        left = rest_of(self.mine.sheet, self.mine.catalog, lambda one: id(one) in self.match.both, self.match.places)
        return replace(left, companions=())

    def drops(self) -> tuple[str, ...]:
        """The addresses of what the sections say besides."""
        return tuple(dict.fromkeys(address for address, _ in self.besides))

    @cached_property
    def besides(self) -> list[tuple[str, str]]:
        """What the sections say besides: the address of a drop that takes it out, and the section.

        Where all items say the same too much, one drop takes it out of all of them.
        """
        alike = Counter(self._place(one) for one in self.match.only_first)
        out = []
        for one in self.match.only_first:
            place = self._place(one)
            everywhere = one.parent is not None and 1 < alike[place] == len(self.said.seats.find(*place))
            address = f"{place[0]}:{place[1]}/{place[2]}" if everywhere else self.address(one)
            out.append((address, one.node.origin.by))
        return out

    @staticmethod
    def _place(one: Seat) -> tuple[str, str, str]:
        return one.block.pass_, one.block.component, one.path

    def address(self, seat: Seat) -> str:
        """The address of an answer; empty where only its place in a list would tell it apart."""
        here: Seat = seat
        while here.parent is not None:
            if is_list(here) and not key_of_item(here):
                return ""
            here = here.parent
        alike = self.said.uses[here.block.pass_, here.block.component, here.block.variant]
        if len(alike) > 1 and self.said.repeats(here.block) and not self.said.key_of(here):
            return ""
        title = self.said.seats.title(here)
        where = f"{here.block.pass_}:{title}"
        return f"{where}/{seat.shown}" if seat.shown else where


def blamed_for(apart: Iterable[str], mine: Side, understood: Mapping[int, str], again: Subject) -> set[str]:
    """The sections that have a part in the components in which a draft is not the file."""
    blamed: set[str] = set()
    for place in apart:
        head, _, path = place.partition("/")
        pass_, _, component = head.partition(":")
        for sheet in (mine.sheet, again.sheet):
            for block in sheet.blocks:
                if (block.pass_, block.component) == (pass_, component):
                    blamed |= set(_sections_in(block.children, path.split("/") if path else [], understood))
                    blamed |= {understood.get(id(block), ""), block.origin.by} if not path else set()
    return blamed - {""}


def refused_in(findings: Iterable[Finding], draft: str) -> set[str]:
    """The sections of a draft in which its target refuses something, so that no file would come of it."""
    rows = draft.split("\n")
    refused = set()
    for one in findings:
        if one.rule == "not-expressible" and one.severity == Severity.ERROR and one.line:
            heads = (row for row in reversed(rows[: one.line]) if row.startswith("["))
            refused.add(next(heads, "").strip("[]").partition(".")[0])
    return refused


def _sections_in(nodes: Iterable[Node], way: list[str], understood: Mapping[int, str]) -> Iterator[str]:
    """The sections of what stands at a way of names, or below it."""
    for node in nodes:
        if not way or node.name == way[0]:
            if len(way) <= 1:
                yield understood.get(id(node), "") or node.origin.by
            yield from _sections_in(node.children, way[1:], understood)


def dropping(drops: tuple[str, ...]) -> list[str]:
    """The line of a draft that takes out what its sections say besides."""
    if not drops:
        return []
    rows = [f"  {text(one)}," for one in drops]
    return ["drop = [" + ", ".join(text(one) for one in drops) + "]"] if len(drops) < 3 else ["drop = [", *rows, "]"]
