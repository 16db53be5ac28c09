"""Setting and unsetting in drafts and answer files: addresses are made out against what the file comes to."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from fairledger.authoring.edit import AnswerChange, FieldChange, answer_value, changed, describe, field_change, raw_of
from fairledger.authoring.portable import is_portable, portable_steps
from fairledger.catalog.address import locate, split_assignment
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.own import Own, beside
from fairledger.catalog.passes import pass_names
from fairledger.catalog.seats import Seat, Seats
from fairledger.catalog.targets import target_named
from fairledger.families.interface import Family
from fairledger.families.registry import family_named, family_of_file
from fairledger.intent.fields import FieldType
from fairledger.model.errors import ContentError, WrongUseError
from fairledger.model.sheet import Sheet
from fairledger.model.values import SecretRef
from fairledger.profiles.decode import Decoder
from fairledger.profiles.draft import DraftHead, read_source
from fairledger.profiles.library import Library
from fairledger.profiles.resolve import resolve_text
from fairledger.profiles.secrets import Secrets
from fairledger.storage.files import decode_as, is_draft, read_bytes, read_text, write_file
from fairledger.subject.finish import finish


class Done(Struct, frozen=True):
    """One change that was made."""

    text: str
    remarks: tuple[str, ...] = ()


class _Draft:
    """A draft's text and what it comes to, as far as it can be told."""

    def __init__(self, path: Path, own: Own | None) -> None:
        self.path = path
        self.text = read_text(path)
        source = read_source(self.text, str(path))
        if not isinstance(source.head, DraftHead):
            raise WrongUseError("this is a profile; settings are made out against a draft's target", file=str(path))
        target = target_named(source.head.target, file=str(path))
        library = Library(path.parent, own)
        self.catalog = Catalog(target.family, target, library.own)
        self.passes = pass_names(target.family)
        try:
            sheet = finish(resolve_text(self.text, str(path), library), self.catalog).sheet
        except ContentError:  # what is wrong elsewhere must not hinder its correction
            sheet = Sheet()
        self.seats = Seats(sheet, self.catalog)


def set_in(
    path: Path, assignments: list[str], *, target: str | None = None, own: Own | None = None
) -> tuple[Done, ...]:
    """Makes all assignments or none, in a draft or an answer file."""
    data = read_bytes(path)
    if is_draft(data[:200].decode("utf-8", "replace"), path):
        return set_in_draft(path, assignments, own)
    return _revised(path, data, [split_assignment(one) for one in assignments], target, own)


def unset_in(
    path: Path, addresses: list[str], *, target: str | None = None, own: Own | None = None
) -> tuple[Done, ...]:
    """Takes all addresses out or none, of a draft or an answer file."""
    data = read_bytes(path)
    if is_draft(data[:200].decode("utf-8", "replace"), path):
        return unset_in_draft(path, addresses, own)
    return _revised(path, data, [(one, None) for one in addresses], target, own)


def _revised(
    path: Path, data: bytes, changes: Sequence[tuple[str, str | None]], target: str | None, own: Own | None
) -> tuple[Done, ...]:
    """Changes an answer file; every other byte of it stays."""
    text, encoding = decode_as(data, str(path))
    told = target_named(target) if target else None
    family = family_named(told.family if told else family_of_file(data, str(path)))
    added = beside(path.parent) if own is None else own
    done = []
    private = False
    for address, typed in changes:
        reading = family.read(text.encode(encoding), str(path), own=added)
        broken = [one for one in reading.findings if one.severity == "error"]
        if broken and not reading.sheet.blocks:
            raise ContentError(broken)
        guess = family.guess(reading)
        known = told or (guess[0] if guess else None)
        catalog = Catalog(family.name, known, added)
        seats = Seats(reading.sheet, catalog)
        if is_portable(address):
            remedy = "name the setting itself; fairledger about TARGET COMPONENT lists them"
            raise WrongUseError(f"{address} is a field of drafts, and this is an answer file", remedy=remedy)
        spot = locate(address, catalog, seats, pass_names(family.name))
        change = AnswerChange(spot, None if typed is None else answer_value(spot, typed))
        private = private or (typed is not None and spot.setting.secret)
        written = None if typed is None else _written(change, family, path)
        text = family.revise(text, seats, spot, written)
        done.append(Done(spot.text if typed is None else describe(change), (spot.said,) if spot.said else ()))
    write_file(path, text.encode(encoding), replace=True, private=private)
    return tuple(done)


def _written(change: AnswerChange, family: Family, path: Path) -> str:
    """The text of a new answer; a reference to a secret is fetched, and hidden as its place wants it."""
    value, spot = change.value, change.spot
    if isinstance(value, bool):
        return str(value).lower()
    if not isinstance(value, dict):
        return str(value)
    decoder = Decoder()
    ref = decoder.value(raw_of(value), FieldType(SecretRef), (spot.setting.path,))
    if decoder.problems or spot.present is None:
        told = decoder.problems[0].message if decoder.problems else f"{spot.text} is not answered in this file"
        raise WrongUseError(told, remedy="references are fetched only for secrets that have their place there already")
    secret = Secrets(path.parent).fetch(ref, spot.text)
    seat = spot.present
    return family.conceal(seat.block, seat.way, secret, form=ref.form, machine="")


def set_in_draft(path: Path, assignments: list[str], own: Own | None = None) -> tuple[Done, ...]:
    """Makes all assignments or none. Raises `WrongUseError`, `ContentError`, `FileTroubleError`."""
    draft = _Draft(path, own)
    changes: list[AnswerChange | FieldChange] = []
    done = []
    for one in assignments:
        address, value = split_assignment(one)
        if is_portable(address):
            change: AnswerChange | FieldChange = field_change(portable_steps(address), value)
            done.append(Done(describe(change)))
        else:
            spot = locate(address, draft.catalog, draft.seats, draft.passes)
            change = AnswerChange(spot, answer_value(spot, value))
            done.append(Done(describe(change), tuple(_remarks(change, draft))))
        changes.append(change)
    _save(draft, changes)
    return tuple(done)


def unset_in_draft(path: Path, addresses: list[str], own: Own | None = None) -> tuple[Done, ...]:
    """Takes all addresses out or none. Raises `WrongUseError`, `ContentError`, `FileTroubleError`."""
    draft = _Draft(path, own)
    changes: list[AnswerChange | FieldChange] = []
    done = []
    for address in addresses:
        if is_portable(address):
            change: AnswerChange | FieldChange = field_change(portable_steps(address), None)
            told = change.text if isinstance(change, FieldChange) else address
        else:
            spot = locate(address, draft.catalog, draft.seats, draft.passes)
            change = AnswerChange(spot)
            told = spot.text
            present = spot.present
            if present is not None and present.node.origin.file not in ("", str(path)):
                origin = present.node.origin
                remedy = "override it with set, or leave the profile out"
                raise WrongUseError(f"{told} comes from {origin}, not from this draft", remedy=remedy, file=str(path))
        changes.append(change)
        done.append(Done(told))
    _save(draft, changes)
    return tuple(done)


def _save(draft: _Draft, changes: list[AnswerChange | FieldChange]) -> None:
    text = changed(draft.text, changes, str(draft.path))
    read_source(text, str(draft.path))
    write_file(draft.path, text.encode(), replace=True)


def _remarks(change: AnswerChange, draft: _Draft) -> list[str]:
    spot = change.spot
    out = [spot.said] if spot.said else []
    seat: Seat | None = spot.present
    if seat is not None and seat.node.origin.by:
        out.append(f"overrides what [{seat.node.origin.by}] brought in {seat.node.origin}")
    elif seat is not None and seat.node.origin.file and seat.node.origin.file != str(draft.path):
        out.append(f"overrides {seat.node.origin}")
    if spot.setting.secret and isinstance(change.value, str) and change.value:
        out.append('warning: the secret itself stands in the draft now; write { env = "NAME", ask = true } instead')
    return out
