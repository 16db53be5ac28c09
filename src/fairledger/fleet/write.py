"""Writing a roster: a folder or a file for each machine, and only what changed."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Collection, Iterable, Iterator
from contextlib import suppress
from heapq import merge
from pathlib import Path, PurePosixPath
from typing import IO

from msgspec import Struct
from msgspec.structs import replace

from fairledger.fleet.crew import Crew, Hands
from fairledger.fleet.judge import Judge, Judged
from fairledger.fleet.keys import Keys
from fairledger.fleet.make import Job, examine, write
from fairledger.fleet.names import alike
from fairledger.fleet.record import WHOLE, Entry, Head, Written, entry_of, is_ours, manifest_in, read_entries
from fairledger.fleet.roster import Roster
from fairledger.fleet.table import Row
from fairledger.model.errors import LedgerError, WrongUseError
from fairledger.storage.files import UNFINISHED, alone_in, read_bytes, ready_folder, write_file
from fairledger.storage.looking import entries, is_file, is_folder, is_there, real
from fairledger.storage.together import swept

Progress = Callable[[str, int, int], None]
"""Is told what is being done, with how many rows it is done, and of how many; 0 where nobody knows."""


class How(Struct, frozen=True, kw_only=True):
    """How a roster is written."""

    flat: bool = False
    replace: bool = False
    prune: bool = False
    keep_going: bool = False
    only: tuple[str, ...] = ()
    """The machines that are written; all if it is empty."""
    workers: int | None = 1
    """Processes; None for as many as there are cores, where that is worth it."""


class Outcome(Struct, frozen=True):
    """What came of it."""

    judged: Judged
    written: int = 0
    """Machines of which something was written."""
    stayed: int = 0
    """Machines of which every file was as it should be already."""
    left: tuple[str, ...] = ()
    """Files of machines that are in the roster no more."""
    pruned: tuple[str, ...] = ()
    stale: tuple[str, ...] = ()
    """Files that were taken away, since their machines' files call them no more."""
    done: bool = False
    missing: tuple[str, ...] = ()
    """Machines that were asked for and are not in the roster."""
    manifest: str = ""
    """Where what was written is listed."""


class Writing:
    """Writes the machines of a roster below a folder."""

    def __init__(self, roster: Roster, out: Path, how: How, keys: Keys, progress: Progress | None = None) -> None:
        self.roster = roster
        self.out = out
        self.how = how
        self.shard = roster.wishes.shard
        if how.prune and self.shard != WHOLE:
            told = "a part of the rows does not tell which machines have left the table"
            raise WrongUseError(told, remedy="write the whole table with --prune, or join the parts first")
        self.job = Job(out=out, flat=how.flat, replace=how.replace, shard=self.shard)
        self.hands = Hands(roster, keys, self.job)
        self.progress = progress or (lambda _what, _done, _of: None)

    def run(self) -> Outcome:
        """Judges all rows, then writes. Nothing is written where a row is wrong, unless that is wished for.

        Raises `RefusedError` where a file was edited by hand and may not be replaced, or a secret is not to be had,
        `FileTroubleError`.
        """
        wanted = set(self.how.only)
        with Crew(self.hands, self.how.workers) as crew:
            judge = Judge(self.roster, crew, wanted)
            for _ in judge.run():
                self.progress("checked", judge.rows, 0)
            judged = judge.judged_of_wanted() if wanted else judge.judged()
            good = _Good(judge, judge.named if wanted else None, judged.machines)
            missing = tuple(sorted(wanted - {*judge.named.values()}))
            # a part without a row to write has a manifest all the same: joining counts on it
            idle = not len(good) and self.shard == WHOLE
            if missing or (judged.errors and not self.how.keep_going) or idle:
                return Outcome(judged, missing=missing)
            self._examine(crew, good)
            ready_folder(manifest_in(self.out))
            with alone_in(real(self.out), shared=self.shard != WHOLE):
                return self._written(crew, judged, good)

    def _examine(self, crew: Crew, good: _Good) -> None:
        """Sees that everything can be written before the first file is."""
        known = set()
        for row in self._rows(good):
            lane = self.roster.lane(row)
            if lane not in known:  # here, where somebody can be asked and a seed can be made
                known.add(lane)
                examine(self.hands, [row])
        if self.hands.keys is not None and self.hands.keys.asked:
            crew.alone()  # nobody is there to be asked in another process
        for at, _ in enumerate(crew.each(examine, self._rows(good)), 1):
            self.progress("looked at", at, len(good))

    def _written(self, crew: Crew, judged: Judged, good: _Good) -> Outcome:
        record = Written(self.out, self.shard)
        record.ready()
        if self.shard == WHOLE:
            swept(self.out)
        wrote = at = 0
        with tempfile.TemporaryFile(dir=self.out, prefix=".manifest.", suffix=UNFINISHED) as lines:
            manifest = _Manifest(manifest_in(self.out, self.shard), lines, self._head(good))
            try:
                for at, (_, done) in enumerate(crew.each(write, self._rows(good)), 1):
                    wrote += done.wrote
                    manifest.add(done.entries)
                    self.progress("wrote", at, len(good))
                finished = True
            except BaseException:
                # what was written is told, and what was there before is not forgotten
                crew.stop()
                with suppress(LedgerError, OSError):
                    manifest.write(manifest.others())
                    record.keep(done=False)
                raise
            others = manifest.others()
            here = manifest.machines({one.machine for one in others})
            # a machine that is still there, and of which a file is not made any more: nothing calls that file now
            stale = [one for one in others if one.machine in here]
            gone = [one for one in others if one.machine not in here]
            kept = gone if self.how.only or judged.errors else []
            gone = [] if kept else gone
            taken = self._pruned(stale, record)
            pruned = self._pruned(gone, record) if self.how.prune else ()
            away = {*taken, *pruned}
            left = [one for one in gone if one.file not in away and is_there(self.out / one.file)]
            stays = [one for one in stale if one.file not in away and is_there(self.out / one.file)]
            manifest.write([*kept, *(replace(one, left=True) for one in left), *stays])
        record.keep(done=finished)
        # a machine that is in this part no more may be in another one
        names = tuple(one.file for one in left) if self.shard == WHOLE else ()
        return Outcome(
            judged, wrote, at - wrote, names, pruned, taken, done=True, manifest=str(manifest_in(self.out, self.shard))
        )

    def _rows(self, good: _Good) -> Iterator[Row]:
        return (row for row in self.roster.rows() if row.number in good)

    def _head(self, good: _Good) -> Head | None:
        """What a part's manifest begins with."""
        if self.shard == WHOLE:
            return None
        roster, table = self.roster, self.roster.table
        secret = any(roster.is_secret(name) for name in table.head)
        refused = {row.number for row in roster.rows() if not good.judge.good(row.number)}
        refused |= {one.number for one in table.faults if roster.mine(one.number)}
        untold = tuple(name for name in roster.unique if roster.is_secret(name))
        return Head(self.shard, table.count(), None if secret else table.digest(), tuple(sorted(refused)), untold)

    def _pruned(self, gone: Iterable[Entry], record: Written) -> tuple[str, ...]:
        """Takes away the files of machines that left, if they are as they were written."""
        inside = real(self.out)
        taken = []
        for name in (one.file for one in gone):
            path = self.out / name
            if is_ours(name) or ".." in PurePosixPath(name).parts or not real(path).is_relative_to(inside):
                continue
            if not is_file(path) or not (self.how.replace or record.untouched(name, read_bytes(path))):
                continue
            path.unlink()
            record.forget(name)
            taken.append(name)
            for folder in path.parents:
                if folder == self.out or not is_folder(folder) or entries(folder):
                    break
                folder.rmdir()
        return tuple(taken)


class _Good:
    """The rows that are to be written."""

    def __init__(self, judge: Judge, among: Collection[int] | None, machines: int) -> None:
        self.judge = judge
        self._among = among
        self._count = machines if among is None else sum(map(judge.good, among))

    def __contains__(self, number: int) -> bool:
        return self.judge.good(number) and (self._among is None or number in self._among)

    def __len__(self) -> int:
        return self._count


class _Manifest:
    """A manifest as it comes about: its lines wait in a file, so that memory holds a number for each."""

    def __init__(self, path: Path, lines: IO[bytes], head: Head | None) -> None:
        self._path = path
        self._lines = lines
        self._head = head
        self._files: set[int] = set()
        self._before = is_there(path)

    def add(self, entries: Iterable[tuple[str, str]]) -> None:
        """Files of a machine, with their lines."""
        for file, line in entries:
            if self._before:
                self._files.add(hash(alike(file)))
            self._lines.write(line.encode())

    def others(self) -> list[Entry]:
        """The entries of files before that are not made any more."""
        # also where only upper and lower case differ: that may be one file, which stays
        return [one for one in read_entries(self._path) if hash(alike(one.file)) not in self._files]

    def machines(self, among: Collection[str]) -> set[str]:
        """Which of these machines have files now."""
        if not among:
            return set()
        return {one for line in self._again() if (one := entry_of(line).machine) in among}

    def write(self, more: Iterable[Entry]) -> None:
        """Puts it into its place. Raises `FileTroubleError`."""

        def whole() -> Iterator[bytes]:
            if self._head is not None:
                yield self._head.line().encode()
            kept = sorted(more, key=lambda one: (one.row, one.file))
            if not kept:
                yield from self._again()
            for one in merge(map(entry_of, self._again()), kept, key=lambda one: (one.row, one.file)) if kept else ():
                yield one.line().encode()

        write_file(self._path, whole(), replace=True)

    def _again(self) -> Iterator[bytes]:
        self._lines.seek(0)
        yield from self._lines
