"""An answer disc for each row of a roster."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec import Struct

from fairledger.delivery.disc import ending_of, machine_for, made_disc
from fairledger.delivery.fill import Made, made
from fairledger.delivery.machine import Machine
from fairledger.delivery.parcel import ALL, BY_COMMANDS, allowed, lost_in
from fairledger.delivery.telling import How, held_name
from fairledger.fleet.judge import Judged, judged_all
from fairledger.fleet.keys import Keys
from fairledger.fleet.roster import Machine as Row
from fairledger.fleet.roster import Roster
from fairledger.model.errors import FileTroubleError, RefusedError
from fairledger.storage.files import read_whole, write_file
from fairledger.storage.looking import inside, is_file, is_there
from fairledger.subject.subject import with_sheet

Progress = Callable[[str, int, int], None]


class Disc(Struct, frozen=True, kw_only=True):
    """One machine's disc."""

    machine: str
    row: int
    path: Path
    data: bytes
    private: bool
    action: str
    """``make``, ``replace``, or ``keep`` where it is there already."""


class Discs:
    """All of them: judged together, made, and then written."""

    def __init__(
        self, roster: Roster, out: Path, how: How, keys: Keys | None, progress: Progress, *, virtual: bool = False
    ) -> None:
        """``virtual``: a virtual machine for each of them as well."""
        self.virtual = virtual
        self.machines: list[Machine] = []
        self.roster, self.out, self.how, self.keys, self.progress = roster, out, how, keys, progress
        self.judged: Judged | None = None
        self.discs: list[Disc] = []
        self.wipes: tuple[str, ...] = ()
        self._lost: dict[int, tuple[str, ...]] = {}

    def judge(self) -> Judged:
        """Every row by itself and beside the others."""
        self.judged = judged_all(self.roster, self.progress)
        return self.judged

    def make(self) -> None:
        """Makes all discs in memory. Raises `RefusedError` where one stands there already and may not be replaced."""
        wipes: dict[str, None] = {}
        for row in self.roster.rows():
            machine = self.roster.machine(row, judge=False)
            prepared = machine.lane.prepared
            wipes |= dict.fromkeys(lost_by(machine, self._lost))
            secrets = self.keys.of(prepared.draft.path) if self.keys is not None else None
            answers, *beside = made(prepared, machine.values, secrets)
            name = held_name(answers.name) if self.how.hold else answers.name
            label = self.how.label or prepared.route.label or "ANSWERS"
            data = made_disc([*beside, Made(name, answers.role, answers.data)], label, self.how)
            self._add(machine.name, row.number, data, private=any(one.private for one in (answers, *beside)))
            if self.virtual:
                self.machines.append(machine_for(machine.name, self.out, prepared.draft.facts, self.how))
        self.wipes = tuple(one for one in wipes if ALL not in wipes or one in (ALL, BY_COMMANDS))

    def _add(self, name: str, row: int, data: bytes, *, private: bool) -> None:
        place = f"{name}{ending_of(self.how)}"
        if not inside(self.out, place) and is_there(self.out):
            raise RefusedError(
                "a link in the folder leads out of it", file=str(self.out / place), remedy="take it away"
            )
        path = self.out / place
        there = is_file(path)
        same = there and read_whole(path) == data
        if there and not same and not self.how.replace and self.keys is not None:
            remedy = "allow it with --replace, or name another folder"
            raise RefusedError("the disc exists already", file=str(path), remedy=remedy)
        action = "keep" if same else "replace" if there else "make"
        self.discs.append(Disc(machine=name, row=row, path=path, data=data, private=private, action=action))

    def write(self) -> None:
        """Writes them. Raises `RefusedError` for what nobody allowed, `FileTroubleError`."""
        needs = [one for machine in self.machines for one in machine.needs(replace=self.how.replace)]
        if needs:
            raise RefusedError("nothing was delivered", file=str(self.out), remedy=needs[0])
        lanes = self.roster.lanes
        by_itself = not self.how.hold and any(lane.prepared.route.by_itself for lane in lanes)
        if self.wipes and by_itself and not allowed(self.wipes, self.how.wipes):
            said = " ".join(f"--wipes '{one}'" for one in self.wipes)
            told = "the installers take the files by themselves, and ask nobody before they wipe"
            raise RefusedError(told, file=str(self.out), remedy=f"allow it with {said}, or hold them back with --hold")
        for at, one in enumerate(self.discs, 1):
            if one.action != "keep":
                write_file(one.path, one.data, replace=self.how.replace, private=one.private)
            if read_whole(one.path) != one.data:
                raise FileTroubleError("it is not what was written", file=str(one.path), remedy="is the disk full?")
            self.progress("wrote", at, len(self.discs))
        for at, machine in enumerate(self.machines, 1):
            machine.make()
            self.progress("made", at, len(self.machines))


def lost_by(machine: Row, known: dict[int, tuple[str, ...]]) -> tuple[str, ...]:
    """What a machine loses; asked once for each draft whose disks no row chooses, and ``known`` then."""
    lane = machine.lane
    prepared = lane.prepared
    if id(lane) not in known:
        known[id(lane)] = lost_in(prepared.draft, prepared.route)
    lost = known[id(lane)]
    if not any("${" in one for one in lost):
        return lost
    return lost_in(with_sheet(prepared.draft, prepared.filled(machine.values)), prepared.route)
