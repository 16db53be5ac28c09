"""What the installer asks: every page and prompt, with what answers it; what nobody answers stops it."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import TYPE_CHECKING

from msgspec import Struct

from fairledger.catalog.passes import pass_names
from fairledger.catalog.questions import Page, Term, all_pages, all_questions, terms_of
from fairledger.catalog.routes import routes_of
from fairledger.catalog.seats import Seat
from fairledger.catalog.targets import all_targets, covers
from fairledger.model.target import Target
from fairledger.subject.subject import Subject

if TYPE_CHECKING:
    from fairledger.events.event import Event
    from fairledger.events.teller import Teller

_TAKES_IN = "takes-in"
CHAPTER = "Questions that are left"


class Asked(Struct, frozen=True):
    """A page, and how it stands with it in a file."""

    page: Page
    answered: bool | None
    """None where nobody knows whether it is asked."""
    by: Seat | None = None
    """What answers it, or keeps it away, first."""
    why: str = ""
    """Why nobody knows."""
    in_draft: bool = True

    @property
    def remedy(self) -> str:
        """What answers it, in the words of the file that the reader has before him."""
        if self.in_draft:
            return self.page.remedy
        if self.page.native:
            return self.page.native
        terms = [term.partition(":")[2] or term for term in self.page.answered[0].split(" & ")]
        return " and ".join(dict.fromkeys(term.partition("/")[2] or term for term in terms))

    @property
    def rule(self) -> str:
        """The rule that speaks of it."""
        return self.page.rule or f"question-{self.page.question}"

    @property
    def sentence(self) -> str:
        """What happens where it is not answered."""
        return f"{self.page.who} asks {self.page.asks}" + (f", unless {self.page.unless}" if self.page.unless else "")

    @property
    def what(self) -> str:
        """What is asked, by itself."""
        return self.page.asks.removeprefix("for ")


def questions(subject: Subject, question: str = "") -> Iterator[Asked]:
    """Every page that the file's installer has, in order, or those of one question."""
    reached = _reached(subject)
    told: set[tuple[str, str]] = set()
    pages = _pages(subject.target, subject.line, subject.family.name)
    for page in pages.get(question, ()):
        found = _asked(subject, page) if page.pass_ in reached else None
        if found is not None and (page.question, page.pass_) not in told:
            told.add((page.question, page.pass_))
            yield found


def hands_free(found: tuple[Asked, ...]) -> bool | None:
    """Whether nobody has to be there; None where nobody knows."""
    states = {one.answered for one in found}
    # of an installer whose pages nobody has written down, nothing is known
    return False if False in states else None if None in states or not states else True


@cache
def _pages(target: Target | None, line: str, family: str) -> dict[str, tuple[Page, ...]]:
    """The pages of an installer, by their questions, and all of them under an empty one."""
    lines = {line} if line else {one.line for one in all_targets() if one.family == family}
    if target is None:
        every = tuple(page for page in all_pages() if lines & {*page.lines})
    else:
        every = tuple(one for one in all_pages() if target.line in one.lines and covers(target, one.since, one.until))
    return {"": every} | {name: tuple(one for one in every if one.question == name) for name in all_questions()}


def _reached(subject: Subject) -> tuple[str, ...]:
    """The passes through which the file's route goes."""
    every = pass_names(subject.family.name)
    if subject.target is None or subject.facts.route is None:
        return every
    route = next((one for one in routes_of(subject.target) if one.name == subject.facts.route), None)
    return route.passes if route is not None and route.passes else every


def _asked(subject: Subject, page: Page) -> Asked | None:
    """How it stands with a page; None where it does not come up."""
    if page.needs and _first(subject, page.needs) is None:
        return None
    drafted = subject.draft is not None
    again = _first(subject, page.again)
    if again is not None:
        return Asked(page, False, again[0], in_draft=drafted)
    by = _first(subject, (*page.answered, *page.hidden))
    if by is not None:
        return Asked(page, True, by[0], in_draft=drafted)
    return Asked(page, *_open(subject, page), in_draft=drafted)


def _open(subject: Subject, page: Page) -> tuple[bool | None, Seat | None, str]:
    roots = subject.seats.roots
    first = pass_names(subject.family.name)[0]
    if page.pass_ == first and roots and all(root.block.pass_ != first for root in roots):
        return None, None, f"the file says nothing for {first}: it is asked if setup begins with this file"
    doubt = _first(subject, page.doubtful)
    if doubt is not None:
        return None, doubt[0], "what the file says may be enough, or not"
    if subject.target is None and (page.since or page.until or not subject.line):
        return None, None, "nobody knows which release the file is for"
    if not page.sure:
        return None, None, "not every medium or release asks"
    return False, None, ""


def _first(subject: Subject, alternatives: tuple[str, ...]) -> tuple[Seat | None, ...] | None:
    """The seats of the first alternative that holds."""
    for alternative in alternatives:
        found = []
        for term in terms_of(alternative, subject.family.name):
            seat = _seat_of(subject, term)
            if (seat is None) != term.absent:
                break
            found.append(seat)
        else:
            return tuple(found)
    return None


def _seat_of(subject: Subject, term: Term) -> Seat | None:
    """The first seat of which a term holds."""
    seats = subject.seats
    if term.trait == _TAKES_IN:
        return next(iter(subject.unseen), None)
    if term.trait:
        having = (one for one in seats.roots if one.component is not None and term.trait in one.component.traits)
        return next(having, None)
    for pass_ in (term.pass_,) if term.pass_ else pass_names(subject.family.name):
        for seat in seats.find(pass_, term.component, term.path):
            # what is meant for another kind of processor answers nothing on this one
            mine = subject.facts.arch or seat.block.variant
            if _says(seat, term) and (seat.block.variant in ("", mine) or mine in seat.block.also):
                return seat
    return None


def _says(seat: Seat, term: Term) -> bool:
    if not term.path:
        return True
    value = seat.value
    if value is None:
        return bool(seat.children)
    if not isinstance(value, str):
        return not term.values and not term.part
    text = value.strip()
    if term.values:
        return text.casefold() in [one.casefold() for one in term.values]
    return term.part in text if term.part else text != ""


def tell(teller: Teller) -> Iterator[Event]:
    """Each question that is left, and those of which nobody knows; or that none is."""
    from fairledger.events.event import Event, Weight

    found = tuple(questions(teller.subject))
    if hands_free(found):
        yield Event(chapter=CHAPTER, what="none: all that is known to be asked is answered")
    unknown: dict[tuple[str, str], list[str]] = {}
    for one in found:
        if one.answered is False:
            yield Event(chapter=CHAPTER, what=one.sentence, asks=one.what, severity=Weight.CARE)
        elif one.answered is None:
            unknown.setdefault((one.page.who, one.why), []).append(one.page.asks)
    for (who, why), asked in unknown.items():
        told = f"nobody knows whether {who} asks {'; '.join(asked)} ({why})"
        yield Event(chapter=CHAPTER, what=told, sure=False)
