"""Judging a roster: every row by itself, and all of them beside each other."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from contextlib import suppress

from msgspec import Struct
from msgspec.structs import replace

from fairledger.fleet.crew import Crew, Hands
from fairledger.fleet.look import Looked, clashing, look, wrong
from fairledger.fleet.roster import BY_THEMSELVES, RESERVED, Noted, Roster
from fairledger.fleet.table import Row
from fairledger.model.errors import LedgerError
from fairledger.model.finding import Finding, Severity
from fairledger.model.showing import quoted, visible
from fairledger.model.suggest import did_you_mean
from fairledger.storage.looking import others_may_read


class Judged(Struct, frozen=True):
    """What is found in a roster."""

    notes: tuple[Noted, ...]
    rows: int
    machines: int
    """The rows that come to a machine without an error."""
    silenced: int = 0
    drafts: tuple[str, ...] = ()
    """The drafts that rows fill."""

    @property
    def errors(self) -> bool:
        """Whether anything is wrong."""
        return wrong(self.notes)

    @property
    def care(self) -> bool:
        """Whether anything is more than advice."""
        return any(one.finding.severity != Severity.ADVICE for one in self.notes)


class Judge:
    """Goes through a roster once. What it remembers of a row is a number for each thing that must be its own."""

    def __init__(self, roster: Roster, crew: Crew | None = None, wanted: Collection[str] = ()) -> None:
        self.roster = roster
        self.crew = crew or Crew(Hands(roster))
        self.wanted = wanted
        self.notes: list[Noted] = []
        self.rows = 0
        self.silenced = 0
        self.named: dict[int, str] = {}
        """The rows of those machines that are wanted, where only some are."""
        self.clashing: set[int] = set()
        """Rows that another one clashes with that came later: nobody knows which of them is meant."""
        self._good = bytearray()
        """Of each row, whether it is good by itself."""
        self._seen: dict[int, int] = {}
        """The row of each thing that must be one machine's own, by a digest of what it is."""

    def run(self) -> Iterator[Looked]:
        """Every row that comes to a machine without an error, in the order of the table."""
        for row, looked in self.crew.each(_look, self._rows()):
            clashes = list(self._clashes(row, looked))
            self.notes += [*looked.notes, *clashes]
            self.silenced += looked.silenced
            if looked.name in self.wanted:
                self.named[looked.number] = looked.name
            if looked.good and not clashes:
                self._good.extend(bytes(looked.number - len(self._good) + 1))
                self._good[looked.number] = 1
                yield looked
        for fault in [one for one in self.roster.table.faults if self.roster.mine(one.number)]:
            finding = Finding("row-malformed", Severity.ERROR, fault.told, fault.hint, file=self.file, line=fault.line)
            self.notes.append(Noted(finding, fault.number))
        self._of_the_whole()

    @property
    def file(self) -> str:
        """The table's name."""
        return self.roster.table.file

    def good(self, number: int) -> bool:
        """Whether a row can be written, once all were judged."""
        return number < len(self._good) and bool(self._good[number]) and number not in self.clashing

    def judged(self) -> Judged:
        """All that was found."""
        machines = sum(self._good) - sum(1 for one in self.clashing if one < len(self._good) and self._good[one])
        drafts = tuple(dict.fromkeys(lane.prepared.draft.file for lane in self.roster.lanes))
        return Judged(tuple(self.notes), self.rows, machines, self.silenced, drafts)

    def judged_of_wanted(self) -> Judged:
        """What was found of the wanted machines, and of no other row."""
        whole = self.judged()
        notes = [one for one in whole.notes if one.row is None or one.row in self.named]
        for row in sorted(self.clashing & self.named.keys()):
            told = "another row has something that must be this machine's own"
            finding = Finding("machine-twice", Severity.ERROR, told, "roster check names it", file=self.file)
            notes.append(Noted(finding, row))
        machines = sum(map(self.good, self.named))
        return replace(whole, notes=tuple(notes), rows=len(self.named), machines=machines)

    def _rows(self) -> Iterator[Row]:
        for row in self.roster.rows():
            self.rows += 1
            # what is told of the whole comes from the drafts that rows choose
            with suppress(LedgerError):
                self.roster.lane(row)
            yield row

    def _clashes(self, row: Row, looked: Looked) -> Iterator[Noted]:
        """What another row has already, however it is written."""
        for at, digest in enumerate(looked.digests):
            first = self._seen.setdefault(digest, looked.number)
            if first != looked.number:
                self.clashing.add(first)
                yield clashing(self.roster, row, at, first)

    def _of_the_whole(self) -> None:
        """What is no row's own: the drafts, the columns, a table without rows."""
        roster = self.roster
        if not roster.table.last and not roster.table.faults:
            finding = Finding("roster-empty", Severity.ERROR, "the table has no row", "add one for each machine")
            self.notes.append(Noted(finding))
        for lane in roster.lanes:
            self.notes += [Noted(one) for one in lane.always]
        for name in roster.table.head:
            if any(name in lane.secret for lane in roster.lanes):
                self.notes.append(self._secret(name))
        passed = {*RESERVED, *roster.wishes.pass_over, *roster.wishes.unique, *BY_THEMSELVES, roster.wishes.named_by}
        for name in roster.table.head:
            if name not in roster.asked_for and name not in passed and any(roster.lanes):
                told = f"no draft asks for the column {quoted(name)}"
                hint = f"{did_you_mean(name, roster.asked_for)}; or say --pass-over {visible(name)}"
                finding = Finding("column-unasked", Severity.ADVICE, told, hint, file=self.file, line=1)
                self.notes.append(Noted(finding, None, name))

    def _secret(self, name: str) -> Noted:
        told, hint = f"the column {quoted(name)} fills a secret", 'a reference is safer: { file = "keys/${name}" }'
        if others_may_read(self.roster.table.path):
            told, hint = f"{told}, and others may read the table", "make it readable for its owner only"
        return Noted(Finding("column-secret", Severity.WARNING, told, hint, file=self.file, line=1), None, name)


def _look(hands: Hands, rows: list[Row]) -> list[Looked]:
    return [look(hands.roster, row) for row in rows]


def judged_all(roster: Roster, progress: Callable[[str, int, int], None]) -> Judged:
    """Every row by itself and beside the others."""
    judge = Judge(roster)
    for _ in judge.run():
        progress("checked", judge.rows, 0)
    progress("checked", judge.rows, judge.rows)
    return judge.judged()
