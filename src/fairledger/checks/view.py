"""What a rule may look at."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cache, cached_property
from itertools import chain
from pathlib import Path
from typing import Any, TypeVar

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.routes import Route, routes_of
from fairledger.catalog.seats import Seat, Seats
from fairledger.catalog.setting import Setting
from fairledger.families.interface import Family
from fairledger.families.reference import native
from fairledger.intent.file import FILE, File
from fairledger.intent.intent import Intent, Section
from fairledger.model.facts import Facts
from fairledger.model.places import Placed
from fairledger.model.sheet import Extra
from fairledger.model.target import Limits, Target
from fairledger.model.trace import Kept, Watched
from fairledger.subject.subject import FileKind, Subject, with_sheet

T = TypeVar("T")

Trait = Callable[[Setting], object]
"""Something about a setting that holds for all its seats. A function of a module: what it says is remembered."""

Judge = Callable[[Setting | None, str], T | None]
"""What there is to say of a plain value of a setting (None for one that the catalog does not know), if anything.

It depends on nothing else than its arguments: what it says is remembered."""
_JUDGES: list[Judge[Any]] = []
_MOST_KEPT = 2_000


def judge(function: Judge[T]) -> Judge[T]:
    """Makes a function one of the judges of values."""
    _JUDGES.append(function)
    return function


@cache
def _having(trait: str) -> Trait:
    return lambda setting: trait in setting.traits


@cache
def _saying(trait: str) -> Trait:
    return lambda setting: trait in setting.says.values()


class View:
    """A subject as a rule sees it, and what the rules of a topic work out once."""

    def __init__(self, subject: Subject, before: View | None = None) -> None:
        self.subject = subject
        self._before: View | None = before
        """The view of the same subject with open placeholders: what none of them touches is taken from it."""
        self.trace = subject.seats.trace
        """Notes whether a rule is handed an open placeholder."""
        self.kept: Kept = Kept(self.trace, before.kept.settled() if before is not None else None)
        """What the rules of a topic work out once, under names of their own."""

    @property
    def family(self) -> Family:
        """The language of the answers."""
        return self.subject.family

    @property
    def target(self) -> Target | None:
        """None if nobody knows it: findings about releases are then advice."""
        return self.subject.target

    def called(self, path: str, value: str = "") -> str:
        """What a portable field is called in the file that the reader has before him: there may be no fields in it."""
        if self.subject.draft is None:
            line = self.target.line if self.target is not None else self.subject.line
            name = native(path, self.family.name, line)
            if name:
                return name
        return f"{path} = {value}" if value else path

    @property
    def catalog(self) -> Catalog:
        """What the target accepts."""
        return self.subject.catalog

    @property
    def seats(self) -> Seats:
        """The answers."""
        return self.subject.seats

    @cached_property
    def intent(self) -> Intent:
        """What they mean."""
        whole, tainted = self.subject.intent, self.subject.recognised.tainted
        return Intent(Watched(whole.sections, tainted, self.trace), whole.places) if tainted else whole

    @property
    def facts(self) -> Facts:
        """What no sheet holds."""
        return self.subject.facts

    @property
    def going_along(self) -> list[tuple[File, Placed]]:
        """The files that go along with the answer file, as a draft names them or as its commands call them."""
        said = self.subject.draft.intent if self.subject.draft is not None else self.intent
        files: tuple[File, ...] = said.get(FILE) or ()
        return [(one, said.placed("file", at)) for at, one in enumerate(files)]

    @property
    def route(self) -> Route | None:
        """The way on which the file reaches the installer, if that is known."""
        if self.target is None or self.facts.route is None:
            return None
        return next((one for one in routes_of(self.target) if one.name == self.facts.route), None)

    @property
    def limits(self) -> Limits:
        """What the installer can and cannot do."""
        return self.subject.limits

    @property
    def understood(self) -> Mapping[int, str]:
        """By identities of nodes: the portable sections as which they were understood."""
        return self.subject.understood

    @property
    def file(self) -> str:
        """The answer file's name; empty for a draft."""
        return self.subject.file if self.subject.kind is FileKind.ANSWERS else ""

    @property
    def folder(self) -> Path:
        """The folder in which the draft or answer file lies."""
        return self.subject.path.parent

    def each(self, section: Section[tuple[T, ...]]) -> Iterator[tuple[int, T]]:
        """The tables of a section that is a list of them, with their places."""
        found: tuple[T, ...] = self.intent.get(section) or ()
        return enumerate(found)

    def where(self, trait: Trait) -> Iterator[Seat]:
        """The seats of settings that have a trait."""
        rows = self.seats.by_setting
        at = self._known.get(trait)
        if at is None:
            at = self._known[trait] = tuple([place for place, (setting, _) in enumerate(rows) if trait(setting)])
        return chain.from_iterable([rows[place][1] for place in at])

    def having(self, trait: str) -> Iterator[Seat]:
        """The seats of settings that have a trait of the catalog."""
        return self.where(_having(trait))

    def saying(self, trait: str) -> Iterator[Seat]:
        """The seats whose values mean something, in a word of the catalog."""
        for seat in self.where(_saying(trait)):
            if seat.text is not None and seat.setting is not None and seat.setting.says.get(seat.text) == trait:
                yield seat

    def blocks(self, trait: str) -> list[Seat]:
        """The uses of components that have a trait of the catalog, also of those that the target does not know."""
        known = [(root, root.component or self.catalog.anywhere(root.block.component)) for root in self.seats.roots]
        return [root for root, component in known if component is not None and trait in component.traits]

    @cached_property
    def scripted(self) -> list[Subject]:
        """What scripts write that the installer then takes in, each as if it were a file."""
        return [with_sheet(self.subject, one.sheet) for one in self.subject.scripted if not one.whole]

    @property
    def unseen(self) -> list[Seat]:
        """The uses of components that take in what nobody can know all of."""
        return self.subject.unseen

    @property
    def extras(self) -> tuple[Extra, ...]:
        """What is written as it stands."""
        return self.subject.sheet.extras

    @cached_property
    def _known(self) -> dict[Trait, tuple[int, ...]]:
        """Which of its settings have a trait: the same in every sheet with the same settings."""
        if self._before is not None:
            return self._before._known  # noqa: SLF001 - a view like this
        shapes = self.catalog.kept.setdefault("shapes", {})
        if len(shapes) > _MOST_KEPT:
            shapes.clear()
        known: dict[Trait, tuple[int, ...]]
        known = shapes.setdefault(tuple([id(setting) for setting, _ in self.seats.by_setting]), {})
        return known

    def judged(self, judge: Judge[T]) -> list[tuple[Seat, T]]:
        """The seats with plain values of which a judge has something to say, with that."""
        if self.seats.open:
            self.trace.asked.add(judge)
        handed = self.trace.handed
        said = self._sentences.get(judge, [])
        self.trace.handed = handed  # the judges see open values; who asks them sees only what they say
        return said

    @cached_property
    def told_anew(self) -> dict[Judge[Any], list[tuple[Seat, Any]]]:
        """What judges say of the values that are open without a machine's own."""
        return self._said_of(*[(seat.setting, (seat,)) for seat in self.seats.open])

    @cached_property
    def _sentences(self) -> dict[Judge[Any], list[tuple[Seat, Any]]]:
        """What all judges say; each value is looked at once, however many files hold it."""
        if self._before is None:
            return self._said_of((None, self.seats.unknown), *self.seats.by_setting)
        # the values that were plain before have been judged already
        found = dict(self._before._sentences)  # noqa: SLF001 - a view like this
        for judge, told in self.told_anew.items():
            found[judge] = found.get(judge, []) + told
        return found

    def _said_of(self, *rows: tuple[Setting | None, Sequence[Seat]]) -> dict[Judge[Any], list[tuple[Seat, Any]]]:
        found: dict[Judge[Any], list[tuple[Seat, Any]]] = {}
        judged = self.catalog.kept.setdefault("judged", {})
        for setting, seats in rows:
            known = judged.setdefault(id(setting), {})
            if len(known) > _MOST_KEPT:
                known.clear()
            for seat in seats:
                text = seat.text
                if text is None:
                    continue
                said = known.get(text)
                if said is None:
                    told = [(judge, judge(setting, text)) for judge in _JUDGES]
                    said = known[text] = tuple([one for one in told if one[1]])
                for judge, sentence in said:
                    found.setdefault(judge, []).append((seat, sentence))
        return found
