"""Looking at one row: what is found of it by itself, and what of it must be no other row's."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from hashlib import blake2b, sha256

from msgspec import Struct

from fairledger.delivery.fill import carry, made
from fairledger.fleet.names import address, alike, unfit
from fairledger.fleet.record import is_ours
from fairledger.fleet.roster import Machine, Noted, Roster
from fairledger.fleet.table import Number, Row, runs
from fairledger.model.addresses import hardware_address
from fairledger.model.errors import LedgerError, UnsaidError
from fairledger.model.finding import Finding, Severity
from fairledger.model.pattern import pattern
from fairledger.model.showing import quoted, visible
from fairledger.model.values import Template, fill

_LOST = pattern(r"[+-]?\d(?:[.,]\d{1,20})?[Ee]\+?\d{1,3}")
"""How a spreadsheet shows a long number, its digits gone."""
FILES = "files"
"""Instead of a kind: the row's files altogether."""


class Owned(Struct, frozen=True, gc=False):
    """Something that may be one machine's only."""

    kind: str
    same: str
    """In one spelling."""
    said: str
    """As it is written."""

    @property
    def digest(self) -> int:
        """A number for it, whatever its spelling."""
        key = f"{self.kind}\0{self.same}".encode("utf-8", "surrogatepass")
        return int.from_bytes(blake2b(key, digest_size=8).digest())


class Looked(Struct, frozen=True, gc=False):
    """What there is to know of a row without its machine."""

    number: int
    name: str
    """That of the machine; empty where it comes to none."""
    good: bool
    """Whether nothing is wrong with it by itself."""
    notes: tuple[Noted, ...]
    digests: tuple[int, ...]
    """Of what must be no other row's, in the order of `owned`."""
    silenced: int


def look(roster: Roster, row: Row) -> Looked:
    """Judges a row by itself."""
    machine, notes, own = looked_at(roster, row)
    silenced = len(machine.filled.report.silenced) if machine is not None and machine.filled is not None else 0
    good = machine is not None and not wrong(notes) and not _wrong_at_all(machine)
    name = machine.name if machine is not None else ""
    return Looked(row.number, name, good, tuple(notes), tuple([one.digest for one in own]), silenced)


def looked_at(roster: Roster, row: Row) -> tuple[Machine | None, list[Noted], list[Owned]]:
    """A row, as far as it comes to a machine, what is found of it, and what must be no other row's."""
    notes: list[Noted] = []
    machine, own = None, []
    try:
        machine = roster.machine(row)
        notes += [*_of_cells(roster, row), *roster.of_row(machine), *_of_name(roster, machine)]
        own = owned(roster, machine)
        if not wrong(notes):
            if machine.lane.tells_name and machine.named_itself:
                carry(machine.lane.prepared, machine.values)
            else:
                files = made(machine.lane.prepared, machine.values, None)
                own.append(Owned(FILES, sha256(b"\0".join(one.data for one in files)).hexdigest(), ""))
    except UnsaidError:
        raise
    except LedgerError as error:
        return machine, [*_of_cells(roster, row), *roster.refused(error, row)], own
    return machine, notes, own


def owned(roster: Roster, machine: Machine) -> list[Owned]:
    """What must be this machine's only, its files aside."""
    own = [Owned("name", alike(machine.name), machine.name)] if machine.name else []
    values = {**machine.lane.prepared.usual, **machine.values}
    for kind, text in machine.lane.own:
        said = str(fill(text, values))
        same = (address if kind == "address" else hardware_address)(said)
        if same is not None:
            own.append(Owned(kind, same, said))
    for name in roster.unique:
        cell = roster.value(machine.row, name)
        if cell:
            own.append(Owned(name, alike(cell), cell))
    return list(dict.fromkeys(own))


def wrong(notes: Iterable[Noted]) -> bool:
    """Whether any of them is an error."""
    return any(one.finding.severity == Severity.ERROR for one in notes)


def note(
    roster: Roster, rule: str, severity: Severity, told: str, hint: str, row: Row, heading: str | None = None
) -> Noted:
    """Something in a row."""
    return Noted(Finding(rule, severity, told, hint, file=roster.table.file, line=row.line), row.number, heading)


def _wrong_at_all(machine: Machine) -> bool:
    """Whether a machine has an error, its own or its draft's."""
    found = machine.filled.report.findings if machine.filled is not None else ()
    return any(one.severity == Severity.ERROR for one in found)


def _of_cells(roster: Roster, row: Row) -> Iterator[Noted]:
    for name, cell in zip(roster.table.head, row.cells, strict=True):
        if not cell:
            continue
        if isinstance(cell, Number):
            told = f"{_shown(roster, name, cell)} is held as a number or a date: its zeros and its form may be lost"
            severity = Severity.WARNING if roster.as_text(name) else Severity.ADVICE
            yield note(roster, "cell-number", severity, told, "format the column as text, and type it anew", row, name)
        elif runs(cell):
            told = f"a spreadsheet takes {_shown(roster, name, cell)} for a formula"
            yield note(roster, "cell-formula", Severity.ADVICE, told, "look at it in a text editor only", row, name)
        elif _LOST.fullmatch(cell):
            told = f"{_shown(roster, name, cell)} looks like a number of which a spreadsheet has lost digits"
            yield note(roster, "cell-rounded", Severity.WARNING, told, "format the column as text", row, name)
        elif cell != cell.strip():
            told = f"{_shown(roster, name, cell)} has blanks around it, which are filled in too"
            yield note(roster, "cell-blanks", Severity.WARNING, told, "take them out", row, name)


def _shown(roster: Roster, name: str, cell: str) -> str:
    if roster.is_secret(name):
        return "the secret"
    return "what stands there" if roster.hides(name) else quoted(cell[:40])


def _of_name(roster: Roster, machine: Machine) -> Iterator[Noted]:
    named = roster.wishes.named_by or None
    why = unfit(machine.name) or ("the record of what was written has it" if is_ours(alike(machine.name)) else "")
    if not machine.name:
        hint = "fill identity.name, or say which column names the machines: --named-by COLUMN"
        yield note(roster, "machine-unnamed", Severity.ERROR, "nothing names this machine", hint, machine.row)
    elif why:
        told = f"{quoted(machine.name[:60])} cannot be the name of a folder: {why}"
        yield note(roster, "machine-name", Severity.ERROR, told, "choose another name", machine.row, named)


def heading_of(roster: Roster, machine: Machine, kind: str) -> str | None:
    """The column that makes what a machine has of a kind."""
    texts = [text for one, text in machine.lane.own if one == kind]
    texts += [machine.lane.prepared.machine] if kind == "name" else []
    names = [kind, *(name for text in texts if isinstance(text, Template) for name in text.names)]
    return next((name for name in names if name in roster.places), None)


def clashing(roster: Roster, row: Row, at: int, first: int) -> Noted:
    """That a row has what an earlier one has: the thing of that place in `owned`."""
    machine, _, own = looked_at(roster, row)
    kind, said = own[at].kind, own[at].said
    if machine is None or kind == FILES:
        told = f"the row makes the very same file as row {first:,}"
        return note(roster, "machine-twice", Severity.ERROR, told, "take one of them out", row)
    heading = heading_of(roster, machine, kind)
    shown = "" if heading is not None and roster.hides(heading) else f" {quoted(said[:80])}"
    told = f"the {visible(kind)}{shown} is that of row {first:,} too"
    return note(roster, "machine-twice", Severity.ERROR, told, "give each machine its own", row, heading)
