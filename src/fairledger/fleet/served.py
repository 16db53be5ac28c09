"""A server's folder for all machines of a roster: each starts by its hardware address, and gets its own answer file."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from fairledger.delivery.fill import made
from fairledger.delivery.netboot import Booting, Server
from fairledger.delivery.parcel import ALL, BY_COMMANDS, allowed
from fairledger.delivery.readback import differing_in
from fairledger.delivery.telling import How
from fairledger.fleet.discs import lost_by
from fairledger.fleet.judge import Judged, judged_all
from fairledger.fleet.keys import Keys
from fairledger.fleet.roster import Lane, Roster
from fairledger.model.addresses import hardware_address
from fairledger.model.errors import FileTroubleError, RefusedError, WrongUseError
from fairledger.model.values import fill

Progress = Callable[[str, int, int], None]
COLUMN = "mac"
"""The column that holds a machine's hardware address, where nothing in the file does."""


class Served:
    """All of them: judged together, gathered, and then written."""

    def __init__(self, roster: Roster, kind: str, place: Path, how: How, keys: Keys | None, progress: Progress) -> None:
        self.roster, self.kind, self.place, self.how, self.keys, self.progress = (
            roster,
            kind,
            place,
            how,
            keys,
            progress,
        )
        self.judged: Judged | None = None
        self.wipes: tuple[str, ...] = ()
        self.server: Server | None = None
        self.count = 0

    def judge(self) -> Judged:
        """Every row by itself and beside the others."""
        self.judged = judged_all(self.roster, self.progress)
        return self.judged

    def make(self) -> Server:
        """Gathers all that is put there. Raises as `Server` does."""
        wipes: dict[str, None] = {}
        known: dict[int, tuple[str, ...]] = {}
        for row in self.roster.rows():
            machine = self.roster.machine(row, judge=False)
            prepared = machine.lane.prepared
            if self.server is None:
                self.server = Server(self.place, self.kind, prepared.target, self.how)
                if self.how.source is not None:
                    self.server.take_from(self.how.source)
            wipes |= dict.fromkeys(lost_by(machine, known))
            secrets = self.keys.of(prepared.draft.path) if self.keys is not None else None
            files = made(prepared, machine.values, secrets)
            said = self.roster.value(row, COLUMN) if COLUMN in self.roster.places else ""
            mac = hardware_address(said) if said else mac_of_lane(machine.lane, machine.values)
            if said and mac is None:
                told = f"row {row.number}: {said!r} is no hardware address"
                raise WrongUseError(told, file=str(self.roster.table.file), remedy="write it as 02:00:00:aa:bb:01")
            self.server.add(Booting(name=machine.name, mac=mac, files=files), prepared.draft.file)
            self.count += 1
        self.wipes = tuple(one for one in wipes if ALL not in wipes or one in (ALL, BY_COMMANDS))
        if self.server is None:
            raise RefusedError("the roster has no rows", file=str(self.place), remedy="name one that has")
        self.server.placing.must_have_room()
        return self.server

    def needs(self) -> tuple[str, ...]:
        """What must be there, or be allowed."""
        assert self.server is not None
        needs = [*self.server.needs, *self.server.placing.needs]
        if self.wipes and not self.how.hold and not allowed(self.wipes, self.how.wipes):
            said = " ".join(f"--wipes '{one}'" for one in self.wipes)
            needs.append(f"{said}, since the installers take the files by themselves and ask nobody; or --hold")
        return tuple(needs)

    def write(self) -> None:
        """Writes it, and reads it back. Raises `RefusedError` for what nobody allowed, `FileTroubleError`."""
        assert self.server is not None
        needs = self.needs()
        if needs:
            raise RefusedError("nothing was delivered", file=str(self.place), remedy=needs[0])
        self.server.run(self.progress)
        wrong = differing_in(self.server.placing.wanted)
        if wrong:
            raise FileTroubleError(wrong[0], file=str(self.place), remedy="is the disk full?")


def mac_of_lane(lane: Lane, values: Mapping[str, str]) -> str | None:
    """The hardware address of what names an interface in the file."""
    for kind, text in lane.own:
        if kind == "hardware address":
            found = hardware_address(text if isinstance(text, str) else str(fill(text, values)))
            if found is not None:
                return found
    return None
