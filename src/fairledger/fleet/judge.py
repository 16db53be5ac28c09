"""Judging a roster: every row by itself, and all of them beside each other."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from hashlib import blake2b, sha256

from msgspec import Struct

from fairledger.delivery.fill import made
from fairledger.fleet.names import address, alike, hardware_address, unfit
from fairledger.fleet.record import MANIFEST
from fairledger.fleet.roster import BY_THEMSELVES, RESERVED, Machine, Noted, Roster
from fairledger.fleet.table import Number, Row, runs
from fairledger.model.errors import LedgerError
from fairledger.model.finding import Finding, Severity
from fairledger.model.pattern import pattern
from fairledger.model.showing import quoted, visible
from fairledger.model.suggest import did_you_mean
from fairledger.model.values import Template, fill
from fairledger.storage.looking import others_may_read

_LOST = pattern(r"[+-]?\d(?:[.,]\d{1,20})?[Ee]\+?\d{1,3}")
"""How a spreadsheet shows a long number, its digits gone."""


class Judged(Struct, frozen=True):
    """What is found in a roster."""

    notes: tuple[Noted, ...]
    rows: int
    machines: int
    """The rows that come to a machine without an error."""
    silenced: int = 0
    draft: str = ""
    """The draft that rows fill which name none."""

    @property
    def errors(self) -> bool:
        """Whether anything is wrong."""
        return _wrong(self.notes)

    @property
    def care(self) -> bool:
        """Whether anything is more than advice."""
        return any(one.finding.severity != Severity.ADVICE for one in self.notes)


class Judge:
    """Goes through a roster once. What it remembers of a row is a number for each thing that must be its own."""

    def __init__(self, roster: Roster, *, keep_names: bool = False) -> None:
        self.roster = roster
        self.keep_names = keep_names
        self.notes: list[Noted] = []
        self.rows = 0
        self.good = 0
        self.silenced = 0
        self.names: set[str] = set()
        """The machines' names, where only some of them are wanted."""
        self._seen: dict[int, int] = {}
        """The row of each thing that must be one machine's own, by a digest of what it is."""
        unique = dict.fromkeys((*roster.wishes.unique, *BY_THEMSELVES))
        self._unique = [name for name in unique if name in roster.places]

    def run(self) -> Iterator[Machine]:
        """Every row that comes to a machine without an error, in the order of the table."""
        for row in self.roster.table:
            self.rows += 1
            machine = self.one(row)
            if machine is not None:
                self.good += 1
                yield machine
        for fault in self.roster.table.faults:
            finding = Finding("row-malformed", Severity.ERROR, fault.told, fault.hint, file=self.file, line=fault.line)
            self.notes.append(Noted(finding, fault.number))
        self._of_the_whole()

    @property
    def file(self) -> str:
        """The table's name."""
        return self.roster.table.file

    def one(self, row: Row) -> Machine | None:
        """Judges a row; None where it has an error."""
        machine, notes = self.look(row)
        self.notes += notes
        return None if machine is None or _wrong(notes) or _wrong_at_all(machine) else machine

    def look(self, row: Row) -> tuple[Machine | None, list[Noted]]:
        """A row, as far as it comes to a machine, and what is found of it."""
        notes: list[Noted] = []
        machine = None
        try:
            machine = self.roster.machine(row)
            notes += [*self._of_cells(row), *self.roster.of_row(machine)]
            self.silenced += len(machine.filled.report.silenced) if machine.filled is not None else 0
            notes += self._of_name(machine)
            if self.keep_names:
                self.names.add(machine.name)
            notes += self._beside_others(machine, sound=not _wrong(notes))
        except LedgerError as error:
            notes += [*self._of_cells(row), *self.roster.refused(error, row)]
        return machine, notes

    def judged(self) -> Judged:
        """All that was found."""
        return Judged(tuple(self.notes), self.rows, self.good, self.silenced, str(self.roster.draft))

    def note(self, rule: str, severity: Severity, told: str, hint: str, row: Row, heading: str | None = None) -> Noted:
        """Something in a row."""
        return Noted(Finding(rule, severity, told, hint, file=self.file, line=row.line), row.number, heading)

    def _of_cells(self, row: Row) -> Iterator[Noted]:
        for name, cell in zip(self.roster.table.head, row.cells, strict=True):
            if not cell:
                continue
            shown = "the secret" if self.roster.is_secret(name) else quoted(cell[:40])
            if isinstance(cell, Number):
                told = f"{shown} is held as a number or a date: its zeros and its form may be lost"
                severity = Severity.WARNING if self.roster.as_text(name) else Severity.ADVICE
                yield self.note("cell-number", severity, told, "format the column as text, and type it anew", row, name)
            elif runs(cell):
                told = f"a spreadsheet takes {shown} for a formula"
                yield self.note("cell-formula", Severity.ADVICE, told, "look at it in a text editor only", row, name)
            elif _LOST.fullmatch(cell):
                told = f"{shown} looks like a number of which a spreadsheet has lost digits"
                yield self.note("cell-rounded", Severity.WARNING, told, "format the column as text", row, name)
            elif cell != cell.strip():
                told = f"{shown} has blanks around it, which are filled in too"
                yield self.note("cell-blanks", Severity.WARNING, told, "take them out", row, name)

    def _of_name(self, machine: Machine) -> Iterator[Noted]:
        named = self.roster.wishes.named_by or None
        why = unfit(machine.name) or ("the manifest has it" if alike(machine.name) == MANIFEST else "")
        if not machine.name:
            hint = "fill identity.name, or say which column names the machines: --named-by COLUMN"
            yield self.note("machine-unnamed", Severity.ERROR, "nothing names this machine", hint, machine.row)
        elif why:
            told = f"{quoted(machine.name[:60])} cannot be the name of a folder: {why}"
            yield self.note("machine-name", Severity.ERROR, told, "choose another name", machine.row, named)

    def _beside_others(self, machine: Machine, *, sound: bool) -> Iterator[Noted]:
        """What another row has already, however it is written."""
        row = machine.row
        owned = [("name", alike(machine.name), machine.name)] if machine.name else []
        usual = machine.lane.prepared.usual
        for kind, text in machine.lane.own:
            said = str(fill(text, {**usual, **machine.values}))
            same = (address if kind == "address" else hardware_address)(said)
            owned += [(kind, same, said)] if same is not None else []
        owned += [(name, alike(cell), cell) for name in self._unique if (cell := self.roster.value(row, name))]
        for kind, same, said in dict.fromkeys(owned):
            first = self._first(f"{kind}\0{same}", row.number)
            if first is not None:
                heading = self._heading(machine, kind)
                shown = "" if heading is not None and self.roster.is_secret(heading) else f" {quoted(said[:80])}"
                told = f"the {visible(kind)}{shown} is that of row {first:,} too"
                yield self.note("machine-twice", Severity.ERROR, told, "give each machine its own", row, heading)
        # made in any case: only then is it known that every value can be carried
        files = made(machine.lane.prepared, machine.values, None) if sound else ()
        if files and not (machine.lane.tells_name and machine.named_itself):
            data = sha256(b"\0".join(one.data for one in files))
            first = self._first(data.hexdigest(), row.number)
            if first is not None:
                told = f"the row makes the very same file as row {first:,}"
                yield self.note("machine-twice", Severity.ERROR, told, "take one of them out", row)

    def _heading(self, machine: Machine, kind: str) -> str | None:
        """The column that makes what a machine has of a kind."""
        texts = [text for one, text in machine.lane.own if one == kind]
        texts += [machine.lane.prepared.machine] if kind == "name" else []
        names = [kind, *(name for text in texts if isinstance(text, Template) for name in text.names)]
        return next((name for name in names if name in self.roster.places), None)

    def _first(self, key: str, number: int) -> int | None:
        """The row that had something before; None for the first one."""
        digest = int.from_bytes(blake2b(key.encode("utf-8", "surrogatepass"), digest_size=8).digest())
        first = self._seen.setdefault(digest, number)
        return first if first != number else None

    def _of_the_whole(self) -> None:
        """What is no row's own: the drafts, the columns, a table without rows."""
        roster = self.roster
        if not self.rows and not roster.table.faults:
            finding = Finding("roster-empty", Severity.ERROR, "the table has no row", "add one for each machine")
            self.notes.append(Noted(finding))
        for lane in roster.lanes:
            self.notes += [Noted(one) for one in lane.always]
        for name in roster.table.head:
            if any(name in lane.secret for lane in roster.lanes):
                open_ = others_may_read(roster.table.path)
                told = f"the column {quoted(name)} fills a secret" + (
                    ", and others may read the table" if open_ else ""
                )
                hint = (
                    "make it readable for its owner only"
                    if open_
                    else 'a reference is safer: { file = "keys/${name}" }'
                )
                finding = Finding("column-secret", Severity.WARNING, told, hint, file=self.file, line=1)
                self.notes.append(Noted(finding, None, name))
        passed = {*RESERVED, *roster.wishes.pass_over, *roster.wishes.unique, *BY_THEMSELVES, roster.wishes.named_by}
        for name in roster.table.head:
            if name not in roster.asked_for and name not in passed and any(roster.lanes):
                told = f"no draft asks for the column {quoted(name)}"
                hint = f"{did_you_mean(name, roster.asked_for)}; or say --pass-over {visible(name)}"
                finding = Finding("column-unasked", Severity.ADVICE, told, hint, file=self.file, line=1)
                self.notes.append(Noted(finding, None, name))


def _wrong(notes: Iterable[Noted]) -> bool:
    return any(one.finding.severity == Severity.ERROR for one in notes)


def _wrong_at_all(machine: Machine) -> bool:
    """Whether a machine has an error, its own or its draft's."""
    found = machine.filled.report.findings if machine.filled is not None else ()
    return any(one.severity == Severity.ERROR for one in found)
