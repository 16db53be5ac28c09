"""Correcting what has one right answer: spelling of values, order numbers, empty components, fixed attributes.

Every correction is one small change of the file's text, after which the file is read anew; all other bytes stay.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from difflib import unified_diff
from pathlib import Path

from msgspec import Struct

from fairledger.authoring.mend_draft import mended_draft
from fairledger.authoring.spelling import right_spelling
from fairledger.catalog.address import Spot
from fairledger.catalog.own import Own
from fairledger.catalog.seats import Seat, Seats
from fairledger.catalog.secrecy import is_secret
from fairledger.checks.engine import check
from fairledger.checks.rule import all_rules
from fairledger.families.interface import Family
from fairledger.model.errors import LedgerError
from fairledger.model.showing import discreet, hidden_in
from fairledger.storage.files import encoded, rewrite
from fairledger.subject.opening import Asked, looked_at
from fairledger.subject.subject import FileKind, Opened, Subject

_MOST, _LEAST, _READ = 500, 20, 20_000_000
"""How many corrections one run makes: each reads the file anew, so that large files get fewer at a time."""


class Mended(Struct, frozen=True):
    """What was corrected."""

    done: tuple[str, ...] = ()
    difference: tuple[str, ...] = ()
    """Lines of the unified difference."""
    left: tuple[str, ...] = ()
    """What was taken back, since it would have mended nothing or broken the file."""


def mend(path: Path, *, target: str | None = None, own: Own | None = None) -> Mended:
    """Corrects an answer file or a draft in place; nothing is written where nothing has one right answer."""
    asked = Asked(target=target, own=own, apart=True)
    one = looked_at(path, asked)
    text, encoding = one.text, one.encoding
    mended = _answers_mended if one.kind is FileKind.ANSWERS else mended_draft
    new, done, secrets, left = mended(one, asked)
    if new == text:
        return Mended(left=tuple(sorted(left)))
    rewrite(path, encoded(new, encoding, one.file), one.data)
    rows = unified_diff(text.splitlines(), new.splitlines(), f"{path} before", f"{path} now", lineterm="", n=1)
    lines = tuple(discreet(hidden_in(line, sorted(secrets, key=len, reverse=True))) for line in rows)
    return Mended(tuple(done), lines, tuple(sorted(left)))


def _answers_mended(one: Opened, asked: Asked) -> tuple[str, list[str], set[str], set[str]]:
    """The text mended, what was done, the secrets in it, and what was taken back.

    All corrections are made and judged together; where the file is worse for them, each by itself.
    """
    found = _found(looked_at(one.path, asked, one.data))
    quick = _corrected(one, asked, found, each=False)
    if not quick[1] or not _worse(found, _found(looked_at(one.path, asked, encoded(quick[0], one.encoding, one.file)))):
        return quick
    return _corrected(one, asked, found, each=True)


def _corrected(
    one: Opened, asked: Asked, found: Counter[tuple[str, str]], *, each: bool
) -> tuple[str, list[str], set[str], set[str]]:
    text, encoding = one.text, one.encoding
    done: list[str] = []
    secrets: set[str] = set()
    useless: set[str] = set()
    subject = looked_at(one.path, asked, one.data)
    for _ in range(max(_LEAST, min(_MOST, _READ // (len(text) + 1)))):
        assert isinstance(subject, Subject)
        seats = subject.seats
        secrets |= {seat.text for seat in seats if seat.text and is_secret(seat)}
        new = subject.family.mended(text, subject.sheet, subject.findings)
        if new is None or new[1] in useless:
            new = _next(text, subject.family, seats, useless)
        if new is None:
            break
        after = looked_at(one.path, asked, encoded(new[0], encoding, one.file))
        now = _found(after) if each else found
        if each and _worse(found, now):
            useless.add(new[1])
            continue
        text, subject, found = new[0], after, now
        done.append(new[1])
    return text, done, secrets, useless


def _found(one: Opened) -> Counter[tuple[str, str]]:
    return Counter((finding.rule, finding.message) for finding in check(one).findings)


def _worse(before: Counter[tuple[str, str]], after: Counter[tuple[str, str]]) -> bool:
    """Whether a correction mends nothing, or breaks the form of the file.

    What a wrong value kept anybody from seeing may come to light behind it.
    """
    rules = {rule.id: rule for rule in all_rules()}
    broken = [rule for rule, _ in after - before if rule not in rules or rules[rule].check is None]
    return bool(broken) or not before - after


def _next(text: str, family: Family, seats: Seats, useless: set[str]) -> tuple[str, str] | None:
    """The text with the first thing corrected that has one right answer; None where there is none."""
    for seat, right in _answers(seats, family):
        if f"{seat.shown} = {right}" in useless:
            continue
        spot = Spot(seat.block.pass_, seat.block.component, seat.setting, _steps(seat), present=seat)  # type: ignore[arg-type]
        try:
            new = family.revise(text, seats, spot, right)
        except (LedgerError, StopIteration):
            continue
        if new != text:
            shown = "" if is_secret(seat) else f" = {right}"
            return new, f"{seat.shown}{shown}"
    return None


def _answers(seats: Seats, family: Family) -> Iterator[tuple[Seat, str]]:
    """Seats with the one value that is right for each."""
    for seat in seats:
        setting = seat.setting
        if setting is None or seat.text is None or setting.secret or seat.node.origin.line is None:
            continue
        right = right_spelling(seat)
        zone = family.zone_name(seat.text.strip()) if setting.kind == "time-zone" else seat.text
        if right is not None or zone != seat.text:
            yield seat, right if right is not None else zone
    for seat in seats:
        yield from _numbers(seat)


def _numbers(seat: Seat) -> Iterator[tuple[Seat, str]]:
    """New order numbers for a list in which one is missing, or stands twice: in the order of the file."""
    parent_items: dict[str, list[Seat]] = {}
    for child in seat.children:
        if child.setting is not None and child.setting.kind == "list" and child.setting.key:
            parent_items.setdefault(child.node.name, []).append(child)
    for items in parent_items.values():
        orders = [(item, item.child(item.setting.key)) for item in items if item.setting is not None]
        if any(order is None or order.setting is None or not order.setting.ordinal for _, order in orders):
            continue
        texts = [(order.text or "").strip() for _, order in orders if order is not None]
        if len(set(texts)) == len(texts) and all(one.isdecimal() and int(one) > 0 for one in texts):
            continue
        for number, (_, order) in enumerate(orders, 1):
            if order is not None and (order.text or "").strip() != str(number):
                yield order, str(number)


def _steps(seat: Seat) -> tuple[tuple[str, str, str | None], ...]:
    return tuple((node.name, "", None) for node in seat.way)
