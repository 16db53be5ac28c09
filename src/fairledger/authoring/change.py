"""Setting and unsetting in drafts and answer files: addresses are made out against what the file comes to."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from fairledger.authoring.edit import AnswerChange, FieldChange, answer_value, changed, describe, field_change, raw_of
from fairledger.authoring.portable import is_portable, portable_steps
from fairledger.catalog.address import Spot, Step, locate, split_assignment
from fairledger.catalog.own import Own
from fairledger.catalog.passes import pass_names
from fairledger.catalog.seats import Seat
from fairledger.checks.engine import check
from fairledger.checks.rule import rules_of_values
from fairledger.families.interface import Family
from fairledger.intent.fields import FieldType
from fairledger.model.errors import ContentError, WrongUseError
from fairledger.model.finding import Finding, Severity
from fairledger.model.places import NOWHERE
from fairledger.model.values import SecretRef
from fairledger.profiles.decode import Decoder
from fairledger.profiles.document import read_document
from fairledger.profiles.secrets import Secrets
from fairledger.profiles.seed import Seeds
from fairledger.storage.files import write_file
from fairledger.subject.opening import Asked, looked_at, opened_answers
from fairledger.subject.subject import FileKind, Opened, Subject, usable

Changes = Sequence[tuple[str, str | None]]
"""Addresses with what is typed for each; None takes it out."""


class Done(Struct, frozen=True):
    """One change that was made."""

    text: str
    remarks: tuple[str, ...] = ()


def set_in(
    path: Path, assignments: list[str], *, target: str | None = None, own: Own | None = None
) -> tuple[Done, ...]:
    """Makes all assignments or none, in a draft or an answer file.

    Raises `WrongUseError`, `ContentError`, `FileTroubleError`, `RefusedError` if a secret is not to be had.
    """
    return _changed(path, [split_assignment(one) for one in assignments], Asked(target=target, own=own))


def unset_in(
    path: Path, addresses: list[str], *, target: str | None = None, own: Own | None = None
) -> tuple[Done, ...]:
    """Takes all addresses out or none, of a draft or an answer file. Raises as `set_in` does."""
    return _changed(path, [(one, None) for one in addresses], Asked(target=target, own=own))


def _changed(path: Path, changes: Changes, asked: Asked) -> tuple[Done, ...]:
    one = looked_at(path, asked)
    if one.kind is FileKind.PROFILE:
        raise WrongUseError("this is a profile; settings are made out against a draft's target", file=one.file)
    if one.kind is FileKind.ANSWERS:
        return _revised(usable(one), changes, asked)
    if not isinstance(one, Subject) and not all(is_portable(address) for address, _ in changes):
        # without a target nobody knows what a setting is; a field of the draft can be mended all the same
        raise ContentError(one.findings)
    return _redrafted(one, changes, asked)


def _revised(first: Subject, changes: Changes, asked: Asked) -> tuple[Done, ...]:
    """Changes an answer file; every other byte of it stays."""
    path, text, encoding = first.path, first.text, first.encoding
    done = []
    private = False
    for address, typed in changes:
        subject = opened_answers(path, asked, text.encode(encoding))
        if is_portable(address):
            remedy = "name the setting itself; fairledger about TARGET COMPONENT lists them"
            raise WrongUseError(f"{address} is a field of drafts, and this is an answer file", remedy=remedy)
        spot = locate(address, subject.catalog, subject.seats, pass_names(subject.family.name))
        change = AnswerChange(spot, None if typed is None else answer_value(spot, typed))
        private = private or (typed is not None and spot.setting.secret)
        written = None if typed is None else _written(change, subject.family, path)
        text = subject.family.revise(text, subject.seats, spot, written)
        done.append(Done(spot.text if typed is None else describe(change), (spot.said,) if spot.said else ()))
    write_file(path, text.encode(encoding), replace=True, private=private)
    return tuple(done)


def _written(change: AnswerChange, family: Family, path: Path) -> str:
    """The text of a new answer; a reference to a secret is fetched, and hidden as its place wants it."""
    value, spot = change.value, change.spot
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


_HASHES = ("$", "grub.pbkdf2.")
"""With what hashes begin."""


def _redrafted(draft: Opened, changes: Changes, asked: Asked) -> tuple[Done, ...]:
    """Changes a draft; what is wrong elsewhere in it does not hinder its correction."""
    made: list[AnswerChange | FieldChange] = []
    done = []
    for address, typed in changes:
        if is_portable(address) or not isinstance(draft, Subject):
            bare, how = (address[:-1].rstrip(), address[-1]) if address.endswith(("+", "-")) else (address, "")
            steps = portable_steps(bare)
            change: AnswerChange | FieldChange = field_change(steps, typed, how, _held(draft, steps) if how else ())
            remarks: list[str] = []
        else:
            spot = locate(address, draft.catalog, draft.seats, pass_names(draft.family.name))
            change = AnswerChange(spot, None if typed is None else answer_value(spot, typed))
            remarks = [] if typed is None else _remarks(change, draft)
            if typed is None:
                _examine_own(spot, draft)
        made.append(change)
        done.append(Done(change.text if typed is None else describe(change), tuple(remarks)))
    text = changed(draft.text, made, draft.file)
    if not draft.findings:
        read_document(text, draft.file)
    _examine(draft, looked_at(draft.path, asked, text.encode()))
    write_file(draft.path, text.encode(), replace=True)
    return tuple(done)


def _held(draft: Opened, steps: Sequence[Step]) -> tuple[str, ...]:
    """What a list of plain values comes to, with the profiles."""
    here: object = draft.draft.intent.sections if isinstance(draft, Subject) and draft.draft is not None else {}
    for step in steps:
        here = here.get(step.name) if isinstance(here, dict) else getattr(here, step.name, None)
    return tuple(str(one) for one in here) if isinstance(here, tuple) else ()


def _examine(before: Opened, after: Opened) -> None:
    """Raises `WrongUseError` for a mistake that came with a change and that no other change can make good."""
    if not _whole(before) and _whole(after):
        return  # what stood in the way is mended; what is seen only now was there before
    known = {(one.rule, one.message) for one in _told(before)}
    for one in _told(after):
        new = one.severity == Severity.ERROR and (one.rule, one.message) not in known
        if new and (not isinstance(after, Subject) or one.rule in _UNREADABLE or one.rule in rules_of_values()):
            raise WrongUseError(one.message, file=before.file, remedy=one.hint or "nothing was written")


_UNREADABLE = (
    *("field-value", "field-unknown", "field-missing", "placeholder-refused"),
    *("target-unknown", "arch-unknown", "profile-missing", "profile-cycle"),
)
"""What is found while a draft is read."""


def _whole(one: Opened) -> bool:
    return isinstance(one, Subject) and one.whole


def _told(one: Opened) -> tuple[Finding, ...]:
    return check(one).findings


def _examine_own(spot: Spot, draft: Subject) -> None:
    """Raises `WrongUseError` if an answer that is to be taken out does not come from the draft itself."""
    origin = spot.present.node.origin if spot.present is not None else NOWHERE
    if origin.file not in ("", draft.file):
        remedy = "override it with set, or leave the profile out"
        told = f"{spot.text} comes from {origin}, not from this draft"
        raise WrongUseError(told, remedy=remedy, file=draft.file)


def _remarks(change: AnswerChange, draft: Subject) -> list[str]:
    spot = change.spot
    out = [spot.said] if spot.said else []
    seat: Seat | None = spot.present
    if seat is not None and seat.node.origin.by:
        out.append(f"overrides what [{seat.node.origin.by}] brought in {seat.node.origin}")
    elif seat is not None and seat.node.origin.file and seat.node.origin.file != draft.file:
        out.append(f"overrides {seat.node.origin}")
    if spot.setting.secret and isinstance(change.value, str) and change.value:
        out.append('warning: the secret itself stands in the draft now; write { env = "NAME", ask = true } instead')
    return out
