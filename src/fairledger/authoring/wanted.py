"""What is typed to ``set`` and ``unset``, made out as single changes of answers."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from msgspec import Struct
from msgspec.structs import replace

from fairledger.authoring.edit import AnswerChange, answer_values
from fairledger.authoring.spots import spot_of
from fairledger.catalog.address import Spot, beside, locate
from fairledger.catalog.passes import pass_names
from fairledger.catalog.seats import Seat, Seats, identity_of
from fairledger.model.errors import WrongUseError
from fairledger.model.items import is_new, labels
from fairledger.subject.subject import Subject

Changes = Sequence[tuple[str, str | None]]
"""Addresses with what is typed for each; None where nothing is."""


class Done(Struct, frozen=True):
    """One change that was made."""

    text: str
    remarks: tuple[str, ...] = ()


class NewItems:
    """The items that a call has made, so that one name (``+`` or ``+label``) makes one of them."""

    def __init__(self) -> None:
        self.places: dict[str, str] = {}

    def named(self, spot: Spot) -> str:
        """The address of a spot in which new items that are there by now are named by their places."""
        return self._walk(spot, None)

    def note(self, spot: Spot, seats: Seats) -> None:
        """Notes what a change is about to make of a sheet with these seats."""
        self._walk(spot, seats)

    def _walk(self, spot: Spot, seats: Seats | None) -> str:
        text = ""
        parts = [(f"{spot.pass_}:{spot.component}", spot.item), *((f"/{name}", item) for name, _, item in spot.steps)]
        for at, (lead, item) in enumerate(parts):
            here = text + lead + (f"[{item}]" if item is not None else "")
            if is_new(item) and seats is not None:
                self.places.setdefault(here, f"#{len(beside(spot, at - 1, seats)) + 1}")
            text = text + lead + f"[{self.places[here]}]" if here in self.places else here
        return text


def changes_wanted(address: str, typed: str | None, subject: Subject, *, taking: bool) -> list[AnswerChange]:
    """The changes of single answers that an address and a value come to; none where all is so already.

    Raises `WrongUseError`.
    """
    how = address[-1] if typed is not None and address.endswith(("+", "-")) else ""
    bare = address[: len(address) - len(how)].rstrip()
    try:
        spot = made_out(bare, subject, whole=taking or typed is None)
    except WrongUseError as error:
        if typed is not None or taking:
            raise
        raise WrongUseError(f"{address!r} is no assignment: {error.message}", remedy="write ADDRESS=VALUE") from error
    if how and not spot.setting.repeats:
        raise WrongUseError(f"{spot.text} is no list of plain values", remedy=f"write {spot.text}=VALUE")
    if taking:
        return [AnswerChange(_only_value(spot, subject.seats))]
    if typed is None:
        return _bare(spot)
    if spot.present is not None and spot.present.text == typed and not spot.setting.secret:
        return []
    values = answer_values(spot, typed)
    if how == "-":
        return [AnswerChange(made_out(f"{spot.text}[{one}]", subject)) for one in values]
    held = _held(spot, subject.seats)
    return [AnswerChange(spot, one) for one in values if spot.setting.secret or _told(one) not in held]


def made_out(address: str, subject: Subject, *, whole: bool = False) -> Spot:
    """Makes out an address against what a file comes to, as it is called wherever it is shown.

    Raises `WrongUseError`.
    """
    try:
        return locate(address, subject.catalog, subject.seats, pass_names(subject.family.name), whole=whole)
    except WrongUseError:
        # what no catalog knows has the address by which it is told of
        found = list(_shown_as(address, subject))
        if len(found) != 1:
            raise
        return spot_of(found[0], subject.catalog.anywhere(found[0].block.component), subject.seats.roots)


def _shown_as(address: str, subject: Subject) -> Iterator[Seat]:
    for root in subject.seats.roots:
        title = subject.seats.title(root)
        for seat in root.walk():
            whole = f"{title}/{seat.shown}" if seat.shown else title
            if address in (whole, f"{root.block.pass_}:{whole}"):
                yield seat


def _bare(spot: Spot) -> list[AnswerChange]:
    """A line without a word, a flag, or an option that may stand without its value."""
    if spot.setting.form == "bare":
        return [AnswerChange(spot, "")] if spot.present is None or spot.present.text != "" else []
    known_flag = spot.setting.form == "flag"
    if known_flag:
        return [AnswerChange(spot, True)] if spot.present is None or spot.present.text != "true" else []
    if not spot.whole:
        raise WrongUseError(f"{spot.text} is not told its value", remedy="write ADDRESS=VALUE")
    return [AnswerChange(spot, {})] if spot.present is None else []


def _only_value(spot: Spot, seats: Seats) -> Spot:
    """Of plain values that repeat, the one that stands alone; else which one is meant must be said."""
    if spot.whole or not spot.setting.repeats or spot.steps[-1][2] is not None:
        return spot
    there = beside(spot, len(spot.steps) - 1, seats)
    if len(there) == 1:
        name, key, _ = spot.steps[-1]
        return replace(spot, present=there[0], steps=(*spot.steps[:-1], (name, key, "#1")))
    told = [f"{spot.text}[{one}]" for one in labels([identity_of(one) for one in there])]
    if not told:
        return spot
    raise WrongUseError(f"{spot.text} has {len(told)} values; which one?", remedy="name one", candidates=told)


def _held(spot: Spot, seats: Seats) -> set[str | None]:
    """The values that stand there already."""
    if spot.present is not None:
        return {spot.present.text}
    return {one.text for one in beside(spot, len(spot.steps) - 1, seats)} if spot.setting.repeats else set()


def _told(value: object) -> str:
    return str(value).lower() if isinstance(value, bool) else str(value)
