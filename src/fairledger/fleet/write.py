"""Writing a roster: a folder or a file for each machine, and only what changed."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from functools import cached_property
from hashlib import sha256
from pathlib import Path, PurePosixPath

from msgspec import Struct

from fairledger.authoring.secrecy import holds_secret
from fairledger.delivery.fill import Made, made
from fairledger.delivery.prepare import Prepared
from fairledger.fleet.judge import Judge, Judged
from fairledger.fleet.record import MANIFEST, Entry, Written, read_manifest, write_manifest
from fairledger.fleet.roster import Lane, Machine, Roster
from fairledger.model.errors import RefusedError
from fairledger.profiles.secrets import Secrets
from fairledger.storage.files import alone_in, read_bytes, ready_folder
from fairledger.storage.looking import entries, is_file, is_folder, is_there, real
from fairledger.storage.together import Piece, write_together

_OFTEN = 500
"""After how many machines what was written is put down, for a run that is cut short."""
Progress = Callable[[int, int], None]
"""Is told how many machines are done, and of how many."""


class How(Struct, frozen=True, kw_only=True):
    """How a roster is written."""

    flat: bool = False
    """``NAME.ext`` beside each other, not a folder for each machine."""
    replace: bool = False
    prune: bool = False
    keep_going: bool = False
    only: tuple[str, ...] = ()
    """The machines that are written; all if it is empty."""


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


class Writing:
    """Writes the machines of a roster below a folder."""

    def __init__(self, roster: Roster, out: Path, how: How, secrets: Secrets, progress: Progress | None = None) -> None:
        self.roster = roster
        self.out = out
        self.how = how
        self.secrets = secrets
        self.progress = progress
        self._digests: dict[int, Digests] = {}

    def run(self) -> Outcome:
        """Judges all rows, then writes. Nothing is written where a row is wrong, unless that is wished for.

        Raises `RefusedError` where a file was edited by hand and may not be replaced, or a secret is not to be had,
        `FileTroubleError`.
        """
        wanted = set(self.how.only)
        judge = Judge(self.roster, keep_names=bool(wanted))
        good = {one.row.number for one in judge.run() if not wanted or one.name in wanted}
        judged = judge.judged()
        missing = tuple(sorted(wanted - judge.names)) if wanted else ()
        if missing or (judged.errors and not self.how.keep_going) or not good:
            return Outcome(judged, missing=missing)
        self._examine(good)
        with alone_in(self._ready()):
            return self._written(judged, good)

    def _ready(self) -> Path:
        ready_folder(self.out / MANIFEST)
        return real(self.out)

    def _written(self, judged: Judged, good: Collection[int]) -> Outcome:
        before = read_manifest(self.out)
        record = Written(self.out)
        entries: dict[str, Entry] = {}
        wrote = stayed = 0
        for at, machine in enumerate(self._machines(good), 1):
            files = made(machine.lane.prepared, machine.values, self.secrets)
            pieces = [Piece(self.out / self._place(machine, one), one.data, one.private) for one in files]
            changed = [one for one in pieces if not _holds(one)]
            for piece in changed:
                record.note(self._below(piece.path), piece.data)
            if changed:
                write_together(changed, replace=True)
            wrote, stayed = wrote + bool(changed), stayed + (not changed)
            for one, piece in zip(files, pieces, strict=True):
                entry = self._entry(machine, one, piece)
                entries[entry.file] = entry
            if at % _OFTEN == 0:
                record.keep()
            if self.progress is not None:
                self.progress(at, len(good))
        there = {one.machine for one in entries.values()}
        others = {name: one for name, one in before.items() if name not in entries}
        # a machine that is still there, and of which a file is not made any more: nothing calls that file now
        stale = {name: one for name, one in others.items() if one.machine in there}
        gone = {name: one for name, one in others.items() if one.machine not in there}
        if self.how.only or judged.errors:
            entries |= gone
            gone = {}
        taken = self._pruned(stale, record)
        pruned = self._pruned(gone, record) if self.how.prune else ()
        left = [one for name, one in gone.items() if name not in pruned and is_there(self.out / name)]
        kept = [one for name, one in stale.items() if name not in taken and is_there(self.out / name)]
        write_manifest(self.out, [*entries.values(), *left, *kept])
        record.keep()
        return Outcome(judged, wrote, stayed, tuple(one.file for one in left), pruned, taken, done=True)

    def _machines(self, good: Collection[int]) -> Iterator[Machine]:
        for row in self.roster.table:
            if row.number in good:
                yield self.roster.machine(row, judge=False)

    def _examine(self, good: Collection[int]) -> None:
        """Makes every file before the first is written: then secrets are to be had, and values can be carried.

        Raises `RefusedError` where they are not, and where a file is not as it was written last.
        """
        record = Written(self.out)
        for machine in self._machines(good):
            for one in made(machine.lane.prepared, machine.values, self.secrets):
                path = self.out / self._place(machine, one)
                if not self.how.replace and is_there(path) and not _holds(Piece(path, one.data)):
                    if record.untouched(self._below(path), read_bytes(path)):
                        continue
                    told = "the file is not as it was written last"
                    remedy = "look at what was changed by hand, then allow it with --replace"
                    raise RefusedError(told, file=str(path), remedy=remedy)

    def _place(self, machine: Machine, one: Made) -> str:
        """Where a file goes below the folder. Raises `RefusedError` for a place outside of it."""
        if self.how.flat and one.role == "answers":
            place = f"{machine.name}{PurePosixPath(one.name).suffix}"
        elif self.how.flat:
            place = f"{machine.name}.files/{one.name}"
        else:
            place = f"{machine.name}/{one.name}"
        inside = real(self.out)
        if not real(self.out / place).is_relative_to(inside):
            told = "a link in the folder leads out of it"
            raise RefusedError(told, file=str(self.out / place), remedy="take the link away")
        return place

    def _below(self, path: Path) -> str:
        return path.relative_to(self.out).as_posix()

    def _entry(self, machine: Machine, one: Made, piece: Piece) -> Entry:
        digests = self._digests.get(id(machine.lane))
        if digests is None:
            digests = self._digests[id(machine.lane)] = Digests(machine.lane)
        return Entry(
            machine.name,
            machine.row.number,
            machine.lane.prepared.draft.file,
            machine.lane.prepared.resolved.variant or None,
            self._below(piece.path),
            len(one.data),
            digests.of(machine, one),
            digests.sources,
        )

    def _pruned(self, gone: dict[str, Entry], record: Written) -> tuple[str, ...]:
        """Takes away the files of machines that left, if they are as they were written."""
        inside = real(self.out)
        taken = []
        for name in gone:
            path = self.out / name
            if name == MANIFEST or ".." in PurePosixPath(name).parts or not real(path).is_relative_to(inside):
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


class Digests:
    """Digests of files without their secrets."""

    def __init__(self, lane: Lane) -> None:
        self._lane = lane
        draft = lane.prepared.draft
        texts = {draft.file: draft.data, **dict(lane.prepared.resolved.read)}
        open_ = {name for name, data in texts.items() if holds_secret(data.decode("utf-8", "replace"))}
        self.sources = {name: None if name in open_ else digest for name, digest in lane.prepared.sources}

    @cached_property
    def _bare(self) -> Prepared:
        prepared = self._lane.prepared
        return Prepared(prepared.draft, prepared.route, without_secrets=True, stamp=prepared.stamp)

    def of(self, machine: Machine, one: Made) -> str:
        """The SHA-256 of a file; where it holds a secret, of the file without."""
        if not one.private:
            return sha256(one.data).hexdigest()
        files = {other.name: other.data for other in made(self._bare, machine.values, None)}
        return sha256(files.get(one.name, b"")).hexdigest()


def _holds(piece: Piece) -> bool:
    """Whether a file holds what it should already."""
    return is_file(piece.path) and read_bytes(piece.path) == piece.data
