"""Making the files of machines, packet by packet: what other processes do for a run that writes."""

from __future__ import annotations

from functools import cached_property
from hashlib import sha256
from pathlib import Path, PurePosixPath

from msgspec import Struct

from fairledger.authoring.secrecy import holds_secret
from fairledger.delivery.fill import Made, made
from fairledger.delivery.prepare import Prepared
from fairledger.fleet.crew import Hands
from fairledger.fleet.look import owned
from fairledger.fleet.record import WHOLE, Entry, Shard, Written
from fairledger.fleet.roster import Lane, Machine
from fairledger.fleet.table import Row
from fairledger.model.errors import RefusedError
from fairledger.profiles.secrets import Secrets
from fairledger.storage.files import read_bytes
from fairledger.storage.looking import inside, is_file, is_folder, is_there
from fairledger.storage.together import Piece, swept, write_together


class Job(Struct, frozen=True, kw_only=True):
    """Where files go, and how."""

    out: Path
    flat: bool = False
    """``NAME.ext`` beside each other, not a folder for each machine."""
    replace: bool = False
    """Whether files are replaced that were edited by hand."""
    shard: Shard = WHOLE

    def place(self, name: str, file: str, *, answers: bool) -> str:
        """Where a machine's file goes below the folder. Raises `RefusedError` for a place outside of it."""
        if self.flat and answers:
            place = f"{name}{PurePosixPath(file).suffix}"
        else:
            place = f"{name}.files/{file}" if self.flat else f"{name}/{file}"
        if not inside(self.out, place):
            told = "a link in the folder leads out of it"
            raise RefusedError(told, file=str(self.out / place), remedy="take the link away")
        return place


class Done(Struct, frozen=True, gc=False):
    """What came of a machine."""

    wrote: bool
    """Whether any of its files was not as it should be already."""
    entries: tuple[tuple[str, str], ...]
    """Its files, each with its line in the manifest."""


def examine(hands: Hands, rows: list[Row]) -> list[None]:
    """Makes files without writing them: then secrets are to be had, and values can be carried.

    Raises `RefusedError` where they are not, and where a file is not as it was written last.
    """
    job: Job = hands.kept
    record = hands.own.setdefault("record", Written(job.out, job.shard))
    for row in rows:
        machine = hands.roster.machine(row, judge=False)
        prepared = machine.lane.prepared
        known = hands.own.setdefault("known", set())
        paths = [job.out / _place(job, machine, one) for one in prepared.names]
        if id(machine.lane) in known and not any(map(is_there, paths)):
            continue  # nothing is there that could be edited, and its secrets are those of the machine before
        for path, one in zip(paths, made(prepared, machine.values, _secrets(hands, machine)), strict=True):
            if not job.replace and is_there(path) and not _holds(path, one.data):
                if record.untouched(path.relative_to(job.out).as_posix(), read_bytes(path)):
                    continue
                told = "the file is not as it was written last"
                remedy = "look at what was changed by hand, then allow it with --replace"
                raise RefusedError(told, file=str(path), remedy=remedy)
        if prepared.same_secrets:
            known.add(id(machine.lane))
    return [None] * len(rows)


def write(hands: Hands, rows: list[Row]) -> list[Done]:
    """Writes what changed. Raises `RefusedError`, `FileTroubleError`."""
    job: Job = hands.kept
    record: Written = hands.own.setdefault("record", Written(job.out, job.shard))
    packet = []
    for row in rows:
        machine = hands.roster.machine(row, judge=False)
        files = made(machine.lane.prepared, machine.values, _secrets(hands, machine))
        places = [_place(job, machine, one.name) for one in files]
        pieces = [Piece(job.out / place, one.data, one.private) for place, one in zip(places, files, strict=True)]
        changed = [at for at, one in enumerate(pieces) if not _holds(one.path, one.data)]
        packet.append((machine, files, places, pieces, changed))
    changes = [(places[at], pieces[at].data) for _, _, places, pieces, changed in packet for at in changed]
    if changes:
        record.note(changes)  # before: so that a run that is cut short is not taken for an edit
    out = []
    for machine, files, places, pieces, changed in packet:
        if changed:
            folder = pieces[0].path.parent
            if not job.flat and is_folder(folder):
                swept(folder)
            write_together([pieces[at] for at in changed], replace=True)
        entries = [_entry(hands, machine, one, place) for one, place in zip(files, places, strict=True)]
        out.append(Done(bool(changed), tuple([(one.file, one.line()) for one in entries])))
    return out


def _secrets(hands: Hands, machine: Machine) -> Secrets | None:
    return hands.keys.of(machine.lane.prepared.draft.path) if hands.keys is not None else None


def _place(job: Job, machine: Machine, file: str) -> str:
    return job.place(machine.name, file, answers=file == machine.lane.prepared.names[0])


def _entry(hands: Hands, machine: Machine, one: Made, place: str) -> Entry:
    lane, job = machine.lane, hands.kept
    known: dict[int, Digests] = hands.own.setdefault("digests", {})
    digests = known.get(id(lane))
    if digests is None:
        digests = known[id(lane)] = Digests(lane)
    return Entry(
        machine.name,
        machine.row.number,
        lane.prepared.draft.file,
        lane.prepared.resolved.variant or None,
        place,
        len(one.data),
        digests.of(machine, one),
        digests.sources,
        own=_own(hands, machine) if job.shard != WHOLE and one.role == "answers" else (),
    )


def _own(hands: Hands, machine: Machine) -> tuple[str, ...]:
    """What must be this machine's only, but for what is secret."""
    roster = hands.roster
    return tuple(f"{one.kind} {one.same}" for one in owned(roster, machine) if not roster.is_secret(one.kind))


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
        if not one.private or one.bare is not None:
            return sha256(one.data if one.bare is None else one.bare).hexdigest()
        files = {other.name: other.data for other in made(self._bare, machine.values, None)}
        return sha256(files.get(one.name, b"")).hexdigest()


def _holds(path: Path, data: bytes) -> bool:
    """Whether a file holds what it should already."""
    return is_file(path) and read_bytes(path) == data
