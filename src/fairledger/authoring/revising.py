"""Changes of an answer file in its own text, each held against what was asked: what else changes is refused."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

from fairledger.authoring.described import describe
from fairledger.authoring.edit import AnswerChange, raw_of
from fairledger.authoring.portable import is_portable
from fairledger.authoring.wanted import Changes, Done, NewItems, changes_wanted, made_out
from fairledger.catalog.address import Spot
from fairledger.families.interface import Family
from fairledger.intent.fields import FieldType
from fairledger.model.errors import WrongUseError
from fairledger.model.sheet import is_mark
from fairledger.model.values import SecretRef
from fairledger.profiles.decode import Decoder
from fairledger.profiles.secrets import Secrets
from fairledger.profiles.seed import Seeds
from fairledger.storage.files import encoded, rewrite
from fairledger.subject.opening import Asked, opened_answers
from fairledger.subject.subject import Subject

_HASHES = ("$", "grub.pbkdf2.")
"""With what hashes begin."""
Row = tuple[str, str, str, str]
"""Pass, component, path and value: what a seat says."""


def revised(first: Subject, changes: Changes, asked: Asked, *, taking: bool) -> tuple[Done, ...]:
    """Makes all changes or none; every other byte of the file stays."""
    path, text, encoding = first.path, first.text, first.encoding
    done = []
    private = False
    new = NewItems()
    for address, typed in changes:
        subject = opened_answers(path, asked, encoded(text, encoding, first.file))
        if is_portable(address):
            remedy = "name the setting itself; fairledger about TARGET COMPONENT lists them"
            raise WrongUseError(f"{address} is a field of drafts, and this is an answer file", remedy=remedy)
        wanted = changes_wanted(address, typed, subject, taking=taking)
        if not wanted:
            done.append(Done(f"{address} is so already"))
        for change in wanted:
            subject = opened_answers(path, asked, encoded(text, encoding, first.file))
            spot = made_out(new.named(change.spot), subject, whole=change.spot.whole)
            new.note(spot, subject.seats)
            written = None if change.value is None else _written(AnswerChange(spot, change.value), subject.family, path)
            text = subject.family.revise(text, subject.seats, spot, written)
            after = opened_answers(path, asked, encoded(text, encoding, first.file))
            if not _only_that(subject, after, spot, written):
                told = f"{spot.text} cannot be changed there without changing something else"
                raise WrongUseError(told, remedy="nothing was changed; correct the line in a text editor")
            private = private or (change.value is not None and spot.setting.secret)
            remarks = (change.spot.said,) if change.spot.said else ()
            shown = AnswerChange(change.spot, change.value)
            done.append(Done(change.spot.text if taking else describe(shown), remarks))
    rewrite(path, encoded(text, encoding, first.file), first.data, private=private)
    return tuple(done)


def _only_that(before: Subject, after: Subject, spot: Spot, value: str | None) -> bool:
    """Whether the file as it is read again differs in what was asked, and in nothing else."""
    gone, come = _rows(before), _rows(after)
    gone, come = gone - come, come - gone
    old = _said_below(spot)
    if gone - old:
        return False
    if value is None:
        return not come and sum(gone.values()) > 0
    here = (spot.pass_, spot.component)
    way = [step[0] for step in spot.steps]
    above = {"/".join(way[:at]) for at in range(len(way) + 1)}
    named = {item for _, _, item in spot.steps} | {spot.item}
    known = after.catalog.anywhere(spot.component)
    for row in come:
        path = row[2]
        setting = known.setting(path) if known is not None else None
        asked_for = path == "/".join(way) and row[3] in ("", value)
        around = path in above and not row[3]
        key = path.rpartition("/")[0] in above and (
            row[3] in named or is_mark(path.rpartition("/")[2]) or (setting is not None and setting.ordinal)
        )
        if row[:2] != here or not (asked_for or around or key):
            return False
    return True


def _rows(subject: Subject) -> Counter[Row]:
    rows = Counter((root.block.pass_, root.block.component, "", "") for root in subject.seats.roots)
    rows.update((one.block.pass_, one.block.component, one.path, str(one.value or "")) for one in subject.seats)
    return rows


def _said_below(spot: Spot) -> Counter[Row]:
    """What a spot says before it is changed, and the empty groups around it."""
    if spot.present is None:
        return Counter()
    seats = spot.present.walk()
    here = (spot.pass_, spot.component)
    return Counter((*here, one.path, str(one.value or "")) for one in seats)


def _written(change: AnswerChange, family: Family, path: Path) -> str:
    """The text of a new answer; a reference to a secret is fetched, and hidden as its place wants it."""
    value, spot = change.value, change.spot
    if spot.whole:
        return ""
    if isinstance(value, bool):
        return str(value).lower()
    seeds = Seeds(path.parent)
    seat = spot.present
    if not isinstance(value, dict):
        hidden = seat is not None and spot.setting.secret and value and not family.readable(seat.block, seat.way)
        if not hidden or seat is None:
            return str(value)
        # the line says that its password is hashed or encoded: what is typed has to become that
        form = "hash" if str(value).startswith(_HASHES) else "plain"
        return family.conceal(seat.block, seat.way, str(value), form=form, salt=seeds.salt)
    decoder = Decoder()
    ref = decoder.value(raw_of(value), FieldType(SecretRef), (spot.setting.path,))
    if decoder.problems or seat is None:
        told = decoder.problems[0].message if decoder.problems else f"{spot.text} is not answered in this file"
        raise WrongUseError(told, remedy="references are fetched only for secrets that have their place there already")
    secret = Secrets(path.parent).fetch(ref, spot.text)
    return family.conceal(seat.block, seat.way, secret, form=ref.form, salt=seeds.salt)
