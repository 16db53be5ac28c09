"""Setting and unsetting in drafts and answer files: addresses are made out against what the file comes to."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

from msgspec.structs import replace

from fairledger.authoring.described import describe
from fairledger.authoring.edit import AnswerChange, FieldChange, changed, field_change
from fairledger.authoring.editors import for_target
from fairledger.authoring.portable import is_portable, portable_steps
from fairledger.authoring.revising import revised
from fairledger.authoring.secrecy import holds_secret
from fairledger.authoring.wanted import Changes, Done, changes_wanted
from fairledger.catalog.address import Spot, Step, beside, split_assignment
from fairledger.catalog.own import Own
from fairledger.catalog.seats import Seat
from fairledger.checks.engine import check
from fairledger.checks.rule import rules_of_values
from fairledger.intent.sections import section
from fairledger.model.errors import ChangedError, ContentError, WrongUseError
from fairledger.model.finding import Finding, Severity
from fairledger.model.items import place_in
from fairledger.model.pattern import pattern
from fairledger.model.places import NOWHERE
from fairledger.profiles.document import read_document
from fairledger.profiles.resolve import Selection
from fairledger.storage.files import decode, read_bytes, rewrite
from fairledger.subject.opening import Asked, is_draft, looked_at
from fairledger.subject.subject import FileKind, Opened, Subject, usable


def set_in(
    path: Path, assignments: list[str], *, target: str | None = None, own: Own | None = None, variant: str = ""
) -> tuple[Done, ...]:
    """Makes all assignments or none, in a draft, in a variant of it that may be new, or in an answer file.

    Raises `WrongUseError`, `ContentError`, `FileTroubleError`, `RefusedError` if a secret is not to be had.
    """
    asked = Asked(target=target, own=own, apart=True, selection=Selection(variant=variant) if variant else None)
    return _changed(path, [split_assignment(one) for one in assignments], asked, taking=False)


def unset_in(
    path: Path, addresses: list[str], *, target: str | None = None, own: Own | None = None, variant: str = ""
) -> tuple[Done, ...]:
    """Takes all addresses out or none, of a draft, a variant of it or an answer file. Raises as `set_in` does."""
    asked = Asked(target=target, own=own, apart=True, selection=Selection(variant=variant) if variant else None)
    return _changed(path, [(one, None) for one in addresses], asked, taking=True)


def _changed(path: Path, changes: Changes, asked: Asked, *, taking: bool) -> tuple[Done, ...]:
    """Makes the changes; where somebody else changed the file meanwhile, in what it holds then."""
    for _ in range(_MOST_TRIES):
        with suppress(ChangedError):
            return _made(path, changes, asked, taking=taking)
    return _made(path, changes, asked, taking=taking)


_MOST_TRIES = 20


def _made(path: Path, changes: Changes, asked: Asked, *, taking: bool) -> tuple[Done, ...]:
    before = read_bytes(path)
    variant = asked.selection.variant if asked.selection is not None else ""
    data = before if taking or not variant or not is_draft(before, path) else _with_variant(before, variant, str(path))
    one = looked_at(path, asked, data)
    if one.kind is FileKind.PROFILE:
        raise WrongUseError("this is a profile; settings are made out against a draft's target", file=one.file)
    if one.kind is FileKind.ANSWERS and variant:
        raise WrongUseError("an answer file has no variants", file=one.file, remedy="leave --variant out")
    if one.kind is FileKind.ANSWERS:
        return revised(usable(one), changes, asked, taking=taking)
    if not isinstance(one, Subject) and not all(is_portable(address) for address, _ in changes):
        # without a target nobody knows what a setting is; a field of the draft can be mended all the same
        raise ContentError(one.findings)
    return _redrafted(one, before, changes, asked, taking=taking)


def _with_variant(data: bytes, variant: str, file: str) -> bytes:
    """A draft that has a variant of that name, which may say nothing yet."""
    text = decode(data, file)
    if variant in read_document(text, file, tolerant=True).variants:
        return data
    if not _VARIANT.fullmatch(variant):
        raise WrongUseError(f"{variant!r} cannot name a variant", remedy="use small letters, digits and dashes")
    return f"{text.rstrip()}\n\n[variant.{variant}]\n".encode("utf-8", "surrogatepass")


_VARIANT = pattern(r"[a-z0-9][a-z0-9_-]{0,60}")


def _redrafted(draft: Opened, before: bytes, changes: Changes, asked: Asked, *, taking: bool) -> tuple[Done, ...]:
    """Changes a draft; what is wrong elsewhere in it does not hinder its correction."""
    made: list[AnswerChange | FieldChange] = []
    done = []
    for address, typed in changes:
        if not isinstance(draft, Subject) or _is_field(address, draft):
            change = _field_changed(address, typed, draft, taking=taking)
            made.append(change)
            done.append(Done(change.text if taking else describe(change)))
            continue
        wanted = changes_wanted(address, typed, draft, taking=taking)
        if not wanted:
            done.append(Done(f"{address} is so already"))
        for one in wanted:
            if one.value is None:
                _examine_own(one.spot, draft)
            there = _in_draft(one.spot, draft)
            made.append(AnswerChange(there, one.value, _brought(one.spot, draft)))
            remarks = [] if one.value is None else _remarks(one, draft)
            done.append(Done(one.text if taking else describe(one), tuple(remarks)))
    text = changed(draft.text, made, draft.file, asked.selection.variant if asked.selection is not None else "")
    for each in made:
        if each.text == "draft.target" and isinstance(draft, Subject) and draft.target is not None:
            text = for_target(text, draft.target.id, str(each.value))
    if not draft.findings:
        read_document(text, draft.file)
    _examine(draft, looked_at(draft.path, asked, text.encode()))
    rewrite(draft.path, text.encode(), before, private=holds_secret(text) and not holds_secret(draft.text))
    return tuple(done)


def _is_field(address: str, draft: Subject) -> bool:
    """Whether a field of a section is meant. Raises `WrongUseError` where that is not clear."""
    if not is_portable(address):
        return False
    name = address.partition("[")[0]
    known = draft.catalog.component(name) if "." not in address else None
    if known is not None:
        item = address.removeprefix(name)
        told = section(name).items
        listed = [f"{known.usual_pass or known.passes[0]}:{address}", f"{name}.{told}{item}" if told else address]
        raise WrongUseError(f"{address} can mean two things", remedy="name one of them in full", candidates=listed)
    return True


def _field_changed(address: str, typed: str | None, draft: Opened, *, taking: bool) -> FieldChange:
    """A change of a portable field."""
    bare, how = (address[:-1].rstrip(), address[-1]) if address.endswith(("+", "-")) else (address, "")
    if typed is None and not taking:
        raise WrongUseError(f"{address} is not told its value", remedy="write ADDRESS=VALUE")
    steps = portable_steps(bare)
    return field_change(steps, typed, how, _held(draft, steps) if how else ())


def _in_draft(spot: Spot, draft: Subject) -> Spot:
    """A spot whose items are named as they stand in the draft's own lists, which profiles do not count in.

    Raises `WrongUseError` where an item that nothing names comes from elsewhere.
    """
    steps = []
    for at, (name, key, item) in enumerate(spot.steps):
        steps.append((name, key, _own_place(item, beside(spot, at, draft.seats), spot, draft)))
    uses = beside(spot, -1, draft.seats)
    place = place_in(spot.item) if spot.item is not None else None
    foreign = [one for one in uses if one.node.origin.by or one.node.origin.file not in ("", draft.file)]
    if place is not None and uses[place - 1] in foreign:
        # what others bring and nothing names is added to by its place
        named = f"{spot.component}[#{foreign.index(uses[place - 1]) + 1}]"
        return replace(spot, component=named, steps=tuple(steps), item=None)
    own = [one for one in uses if one not in foreign]
    item = f"#{own.index(uses[place - 1]) + 1}" if place is not None else spot.item
    return replace(spot, steps=tuple(steps), item=item)


def _brought(spot: Spot, draft: Subject) -> tuple[str, ...]:
    """The plain values that others bring to a list, which the draft would otherwise replace."""
    if not spot.setting.repeats:
        return ()
    there = beside(spot, len(spot.steps) - 1, draft.seats)
    return tuple(one.text for one in there if one.text is not None and not _is_own(one, draft))


def _own_place(item: str | None, there: list[Seat], spot: Spot, draft: Subject) -> str | None:
    place = place_in(item) if item is not None else None
    if place is None:
        return item
    asked = there[place - 1]
    mine = [one for one in there if _is_own(one, draft)]
    if asked not in mine:
        by = f"the section [{asked.node.origin.by}] in " if asked.node.origin.by else ""
        remedy = "nothing names it: change it there, or write [+] for one of its own"
        raise WrongUseError(f"{spot.text} comes from {by}{asked.node.origin}", remedy=remedy)
    return f"#{mine.index(asked) + 1}"


def _is_own(seat: Seat, draft: Subject) -> bool:
    """Whether the draft itself answers it directly, or something in it."""
    return any(one.node.origin.file in ("", draft.file) and not one.node.origin.by for one in seat.walk())


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
    *("target-unknown", "arch-unknown", "route-unknown", "profile-missing", "profile-cycle"),
)
"""What is found while a draft is read."""


def _whole(one: Opened) -> bool:
    return isinstance(one, Subject) and one.whole


def _told(one: Opened) -> tuple[Finding, ...]:
    return check(one).findings


def _examine_own(spot: Spot, draft: Subject) -> None:
    """Raises `WrongUseError` if an answer that is to be taken out does not come from the draft itself."""
    seat = spot.present
    if seat is None or _is_own(seat, draft):
        return
    origin = next((one.node.origin for one in seat.walk() if one.node.origin.file), NOWHERE)
    if origin.by:
        told = f"{spot.text} is brought by the section [{origin.by}] in {origin}, not by a direct answer"
        address = _address(seat, draft)
        remedy = "change the section"
        remedy += "" if "[#" in address else f", or take it out of what it says: draft.drop+={address}"
        raise WrongUseError(told, remedy=remedy, file=draft.file)
    remedy = "override it with set, or leave the profile out"
    raise WrongUseError(f"{spot.text} comes from {origin}, not from this draft", remedy=remedy, file=draft.file)


def _address(seat: Seat, draft: Subject) -> str:
    root = seat
    while root.parent is not None:
        root = root.parent
    return f"{seat.block.pass_}:{draft.seats.title(root)}" + (f"/{seat.shown}" if seat.shown else "")


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
