"""What no portable section speaks of, in the catalog's own words; and what goes along with what is told."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from fairledger.catalog.seats import Seat
from fairledger.catalog.secrecy import is_secret
from fairledger.events.commands import is_command
from fairledger.events.event import Event, Weight
from fairledger.events.teller import Teller
from fairledger.intent.walk import said
from fairledger.model.sheet import VALUE_KEY
from fairledger.model.showing import discreet, shown, visible

CHAPTER = "Further settings"


def tell(teller: Teller) -> Iterator[Event]:
    """Every answer that nobody understood, and what has another form."""
    subject = teller.subject
    taken = subject.understood
    around: dict[int, bool] = {}
    for root in subject.seats.roots:
        if not root.children and id(root.block) not in taken:
            yield _event(root, subject.seats.title(root), teller)
        for seat in root.walk()[1:]:
            if id(seat.node) in taken or (seat.value is None and seat.children) or _is_told_elsewhere(seat, around):
                continue
            value = f" = {shown(seat.value, secret=is_secret(seat))}" if seat.value is not None else ""
            yield _event(seat, f"{subject.seats.title(root)}/{seat.shown}{value}", teller)
    for extra in subject.sheet.extras:
        told = f"something of another form stands below {visible(extra.place)}; it is not understood"
        yield Event(chapter=CHAPTER, what=told, severity=Weight.CARE, sure=False, quote=discreet(extra.text))


def _is_told_elsewhere(seat: Seat, around: dict[int, bool]) -> bool:
    """``around`` keeps which parts hold a command."""
    # numbers only keep an order, which the order of the sentences tells
    numbered = seat.name == VALUE_KEY or (seat.setting is not None and seat.setting.ordinal)
    if numbered or seat.parent is None:
        return numbered or is_command(seat)
    if id(seat.parent) not in around:
        around[id(seat.parent)] = any(is_command(one) for one in seat.parent.children)
    return around[id(seat.parent)]


def _event(seat: Seat, told: str, teller: Teller) -> Event:
    setting, known = seat.setting, seat.component
    about = setting.about if setting is not None else known.about if known is not None and seat.parent is None else ""
    unknown = setting is None if seat.parent is not None else known is None
    origin = seat.node.origin
    pass_ = seat.block.pass_
    when = teller.passes.get(pass_)
    return Event(
        chapter=CHAPTER,
        phase=pass_,
        moment=when.when if when is not None else None,
        what=f"{visible(pass_)}: {visible(told)}" + (f" - {about}" if about else "") + (" (unknown here)" * unknown),
        sure=not unknown and (setting.sure if setting is not None else True),
        file=(origin.file or teller.subject.file) if origin.line else None,
        line=origin.line,
    )


def along(teller: Teller, section: str, chapter: str) -> Iterator[Event]:
    """Answers that were understood as a section and are no field that was told: said again, or as a detail."""
    subject = teller.subject
    value = teller.intent.sections.get(section)
    told_paths = teller.told & set(said(value, (section,))) if value is not None else set()
    places = ((path, teller.intent.places.get(path)) for path in told_paths)
    # a seat whose own field has a sentence needs no second word
    told = {id(one.node) for _, one in places if isinstance(one, Seat)}
    rows: list[Seat] = []
    around: dict[int, bool] = {}
    for seat in (*subject.seats.roots, *subject.seats):
        holds = seat.value is not None or (seat.parent is None and not seat.children)
        mine = section in (subject.understood.get(id(seat.node)), subject.understood.get(id(seat.block)))
        if holds and mine and not _is_told_elsewhere(seat, around) and id(seat.node) not in told:
            rows.append(seat)
    if rows:
        first = rows[0].node.origin
        where: dict[str, Counter[str]] = {}
        for seat in rows:
            names = where.setdefault(f"{seat.block.pass_}:{seat.block.component}", Counter())
            names[seat.shown.rsplit("/", 1)[-1]] += 1
        told_of = [name + _in_brackets(last) for name, last in where.items()]
        yield Event(
            chapter=chapter,
            phase=rows[0].block.pass_,
            what=f"{section}, along with it: {visible(', '.join(told_of))}",
            file=(first.file or subject.file) if first.line else None,
            line=first.line,
        )


def _in_brackets(names: Counter[str]) -> str:
    told = [f"{name} {count} times" if count > 1 else name for name, count in names.items() if name]
    return f" ({', '.join(told)})" if told else ""
