"""Gathering: answer files that exist, back into the rows that would write them."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.authoring.secrecy import holds_secret
from fairledger.delivery.prepare import Prepared
from fairledger.exchange.compare import Comparison, compare
from fairledger.fleet.roster import Lane, Wishes
from fairledger.fleet.table import runs
from fairledger.fleet.variant import variant_text
from fairledger.intent.walk import FieldPath, walked
from fairledger.model.errors import ContentError, LedgerError
from fairledger.model.pattern import pattern
from fairledger.model.showing import quoted
from fairledger.model.values import Blank, Template
from fairledger.storage.files import read_bytes, read_text, rewrite
from fairledger.subject.opening import Asked, opened_answers
from fairledger.subject.settling import settled
from fairledger.subject.subject import Subject, with_sheet

_ITEM = pattern(r"\[[^\]]*\]")


class Gathered(Struct, frozen=True):
    """What came of one file."""

    file: str
    values: dict[str, str] = {}
    """What each placeholder has to be; those that the file does not tell are missing."""
    comparison: Comparison | None = None
    """What the file and the filled draft say differently, if they could be compared."""
    trouble: str = ""
    """Why it could not become a row; empty if it can."""
    variant: str = ""
    """The variant that it is."""


def gather(prepared: Prepared, path: Path, asked: Asked) -> Gathered:
    """The row that would write a file, or what stands against it.

    The row is not taken on trust: the draft is filled with it, and compared with the file.
    """
    try:
        side = read(prepared, path, asked)
    except LedgerError as error:
        return Gathered(str(path), trouble=error.message)
    values, clash = _values(prepared, side)
    if clash:
        return Gathered(str(path), values, trouble=f"it gives {clash} two values")
    missing = [name for name in prepared.blanks if name not in values and name not in prepared.usual]
    if missing:
        return Gathered(str(path), values, trouble=f"it does not tell {', '.join(missing)}")
    odd = next((name for name, value in values.items() if runs(value)), None)
    if odd is not None:
        told = f"{quoted(values[odd][:40])} for {odd} would be a formula in a spreadsheet"
        return Gathered(str(path), values, trouble=told)
    try:
        sheet = prepared.filled({**prepared.usual, **values})
    except ContentError as error:
        return Gathered(str(path), values, trouble=error.findings[0].message)
    filled = with_sheet(prepared.draft, sheet)
    comparison = compare(settled(filled), side)
    differs = len(comparison.differences)
    # a list that holds such a secret cannot be told either, for no other reason
    secrets = [_ITEM.sub("", f"{one.pass_}:{one.component}/{one.setting}") for one in comparison.unknown]
    untold = [
        place
        for place in comparison.not_understood
        if not any(f"{one}/".startswith(f"{_ITEM.sub('', place)}/") for one in secrets)
    ]
    if untold and not differs:
        told = f"nobody can tell whether it says the same at {', '.join(untold[:3])}"
        return Gathered(str(path), values, comparison, told)
    trouble = f"it says {differs} {'thing' if differs == 1 else 'things'} otherwise" if differs else ""
    return Gathered(str(path), values, comparison, trouble)


class Gathering:
    """Many files, one draft, and the variants that are made for those that differ."""

    def __init__(self, draft: Path, variant: str, asked: Asked, wanted: Sequence[str] = ()) -> None:
        """``wanted`` are names for variants that may be made."""
        self.draft = draft
        self.wishes = Wishes(asked=asked)
        self.wanted = list(wanted)
        self.data = read_bytes(draft)
        self.text = read_text(draft)
        self.added = ""
        """What is to be added to the draft."""
        self.lanes = [Lane(draft, variant, self.wishes, self.data)]
        self.made: list[str] = []
        """The variants that were made."""

    def take(self, path: Path) -> Gathered:
        """A file as the first variant that writes it; if there is none, as one that is made for it."""
        rows = []
        for lane in self.lanes:
            row = replace(gather(lane.prepared, path, self.wishes.asked), variant=lane.prepared.resolved.variant)
            if not row.trouble:
                return row
            rows.append(row)
        if self.wanted and rows[0].comparison is not None:
            return self._made(path, rows[0]) or rows[0]
        return rows[0]

    def _made(self, path: Path, row: Gathered) -> Gathered | None:
        """The file as a variant of its own; None where that does not write it."""
        prepared, name = self.lanes[0].prepared, self.wanted[0]
        more = variant_text(prepared, row.values, read(prepared, path, self.wishes.asked), name)
        if not more or holds_secret(more):  # nothing else than the order of things, or what belongs into no draft
            return None
        added = f"{self.added}\n{more}"
        try:
            lane = Lane(self.draft, name, self.wishes, _ended(self.text, added).encode())
            again = replace(gather(lane.prepared, path, self.wishes.asked), variant=name)
        except LedgerError:
            return None
        if again.trouble:
            return None
        self.added = added
        self.lanes.append(lane)
        self.made.append(self.wanted.pop(0))
        return again

    def keep(self) -> None:
        """Adds the variants to the draft. Raises `ChangedError` where it changed meanwhile, `FileTroubleError`."""
        if self.added:
            rewrite(self.draft, _ended(self.text, self.added).encode(), self.data)


def _ended(text: str, added: str) -> str:
    """A text with another one behind it, in its own line ends."""
    end = "\r\n" if "\r\n" in text else "\n"
    return text + ("" if text.endswith("\n") else end) + added.replace("\n", end)


def read(prepared: Prepared, path: Path, asked: Asked) -> Subject:
    """An answer file as one of the draft's target. Raises what opening it does."""
    target = prepared.target.id
    return settled(opened_answers(path, Asked(target=target, own=asked.own, facts=prepared.draft.facts)))


def _values(prepared: Prepared, side: Subject) -> tuple[dict[str, str], str]:
    """What the placeholders come to in a file, and the one that has two values, if there is one."""
    found: dict[str, str] = {}
    for template, text in (*_fields(prepared, side), *_answers(prepared, side)):
        match = _pattern(template).fullmatch(text)
        for name, value in match.groupdict().items() if match is not None else ():
            if found.setdefault(name, value) != value:
                return found, name
    return found, ""


def _fields(prepared: Prepared, side: Subject) -> Iterator[tuple[Template, str]]:
    """Fields of the sections with placeholders, each with what the file says there."""
    theirs = side.recognised.intent.sections
    for name, section in prepared.open_intent.sections.items():
        if name not in theirs:
            continue
        said: dict[FieldPath, Any] = dict(walked(theirs[name], (name,)))
        for path, value in walked(section, (name,)):
            other = said.get(path)
            if isinstance(value, Template) and isinstance(other, str):
                yield value, other
            elif isinstance(value, tuple) and isinstance(other, tuple) and len(value) == len(other):
                for one, text in zip(value, other, strict=True):
                    if isinstance(one, Template) and isinstance(text, str):
                        yield one, text


def _answers(prepared: Prepared, side: Subject) -> Iterator[tuple[Template, str]]:
    """Answers with placeholders, each with what the file says at the same place, where there is but one such place."""
    there: dict[tuple[str, str, str], list[str]] = {}
    for seat in side.seats:
        if seat.text is not None:
            there.setdefault((seat.block.pass_, seat.block.component, seat.path), []).append(seat.text)
    for place, template in prepared.open_answers:
        texts = there.get(place, [])
        if len(texts) == 1:
            yield template, texts[0]


def _pattern(template: Template) -> re.Pattern[str]:
    """What a text must look like that a template came to; a placeholder that stands twice is the same both times."""
    out, seen = [], set()
    for part in template.parts:
        if isinstance(part, str):
            out.append(re.escape(part))
        elif isinstance(part, Blank) and part.name not in seen:
            seen.add(part.name)
            out.append(f"(?P<{part.name}>.+)" if part is template.parts[-1] else f"(?P<{part.name}>.+?)")
        elif isinstance(part, Blank):
            out.append(f"(?P={part.name})")
        else:  # in another form: what it was before nobody can tell
            return re.compile(r"(?!)")
    return re.compile("".join(out), re.DOTALL)
