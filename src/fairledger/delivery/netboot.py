"""Machines that start from the network, or ask a deployment server: what a server holds for each of them."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from fairledger.catalog.routes import Netboot, netboot_of
from fairledger.delivery.fill import Made
from fairledger.delivery.into import Into
from fairledger.delivery.journal import deliver
from fairledger.delivery.parcel import Parcel
from fairledger.delivery.placing import Placing
from fairledger.delivery.plan import Plan
from fairledger.delivery.telling import Delivery, How, cares, lost, wanting
from fairledger.intent.intent import Intent
from fairledger.intent.network import NETWORK
from fairledger.media.extract import Tree
from fairledger.media.programs import Progress
from fairledger.model.addresses import hardware_address
from fairledger.model.errors import FileTroubleError, WrongUseError
from fairledger.model.pattern import pattern
from fairledger.model.target import Target
from fairledger.storage.files import ready_folder
from fairledger.storage.looking import is_folder

_SERVER = pattern(r"https?://[A-Za-z0-9.:\[\]-]+(/[A-Za-z0-9._~/-]*)?")
_NAME = pattern(r"[A-Za-z0-9][A-Za-z0-9._-]{0,62}")


class Booting(Struct, frozen=True, kw_only=True):
    """A machine that starts from the network."""

    name: str
    mac: str | None
    """Its hardware address, 12 small digits; None where nobody knows it."""
    files: tuple[Made, ...]
    """The answer file first."""


class Server:
    """The folder that is served, with all that is put there for some machines."""

    def __init__(self, folder: Path, kind: str, target: Target, how: How) -> None:
        """Raises `WrongUseError` where nothing of the kind serves the target, or for an address that is none."""
        found = netboot_of(target, kind)
        if found is None:
            raise WrongUseError(f"nothing of {target.name} is served that way", remedy="see fairledger routes")
        if kind == "deployment" and not is_folder(folder):
            raise FileTroubleError("there is no such folder", file=str(folder), remedy="name the server's store")
        self.way: Netboot = found
        self.placing = Placing(folder, replace=how.replace)
        self.how, self.target = how, target
        self.then: list[str] = []
        self.needs: list[str] = []
        self._filled = {"target": target.id, "server": how.server.rstrip("/") or "http://SERVER"}
        texts = (found.answers, *found.then, *(one.text for one in found.file))
        if any("{server}" in text for text in texts) and not _SERVER.fullmatch(how.server):
            if how.server:
                raise WrongUseError(f"{how.server!r} is no address", remedy="write --server http://NAME/PATH")
            self.needs.append("--server http://NAME/PATH, where machines reach this folder")
        self.then += [_fill(line, self._filled) for line in found.then]

    def take_from(self, medium: Path) -> None:
        """What of the installer's own medium is wanted there. Raises `FileTroubleError`."""
        tree = Tree(medium)
        for name, place in self.way.takes.items():
            if name not in tree.sizes:
                self.needs.append(f"another medium: /{name} does not stand on {medium}")
                continue
            with tree.opened(name) as file:
                self.placing.put(_fill(place, self._filled), file.read(), str(medium))

    def add(self, one: Booting, source: str) -> Path:
        """All that one machine needs; where its answer file lies. Raises `WrongUseError` for a name that is none."""
        if not _NAME.fullmatch(one.name):
            raise WrongUseError(f"{one.name!r} cannot be the name of a machine here", remedy="take letters and digits")
        by_address = any("{mac}" in file.path for file in self.way.file) or bool(self.way.each)
        if one.mac is None and by_address and not self.how.hold:
            told = f"the hardware address of {one.name}: a column mac, or the name of its network.interface"
            self.needs.append(told)
            return self.placing.folder
        pairs = "-".join((one.mac or "")[at : at + 2] for at in range(0, 12, 2))
        filled = {**self._filled, "name": one.name, "mac": pairs, "MAC": pairs.upper()}
        filled["answers"] = _fill(self.way.answers, filled)
        answers, *beside = one.files
        folder = filled["answers"].rpartition("/")[0]
        for file in beside:
            self.placing.put(f"{folder}/{file.name}", file.data, source, private=file.private)
        for boot in self.way.file if not self.how.hold else ():
            text = _fill(boot.text.lstrip("\n"), filled)
            self.placing.put(_fill(boot.path, filled), text.encode(), source)
        self.then += [_fill(line, filled) for line in self.way.each if not self.how.hold]
        return self.placing.put(filled["answers"], answers.data, source, private=answers.private)

    def cares(self) -> list[str]:
        """What to know of it."""
        private = any(one.private for one in self.placing.pieces)
        told = "it holds secrets, and whoever reaches the server can read them: serve it where machines are set up"
        missing = [place for name, place in self.way.takes.items() if self.how.source is None]
        brought = [f"{_fill(one, self._filled)} must stand there: --from DISC.iso brings it" for one in missing]
        return [*([told] if private else []), *brought]

    def run(self, _progress: Progress) -> None:
        """Puts all of it there. Raises `FileTroubleError`."""
        ready_folder(self.placing.folder / "one")
        deliver(self.placing.folder, self.placing.pieces)


def onto_server(parcel: Parcel, kind: str, folder: Path, how: How) -> Delivery:
    """A delivery for one machine. Raises as `Server` does."""
    target = parcel.subject.target
    assert target is not None
    server = Server(folder, kind, target, how)
    if kind == "deployment" and is_folder(folder) and mac_of(parcel.subject.intent) is None:
        return Into(parcel, kind, folder, how).delivery()  # one file for whoever asks
    if how.source is not None:
        server.take_from(how.source)
    name = parcel.machine or Path(parcel.subject.file).stem
    mac = mac_of(parcel.subject.intent)
    answers = server.add(Booting(name=name, mac=mac, files=parcel.files), parcel.subject.file)
    server.placing.must_have_room()
    by_itself = not how.hold
    plan = Plan(
        steps=tuple(server.placing.steps),
        needs=(*server.needs, *server.placing.needs, *wanting(parcel, how, by_itself=by_itself)),
        wipes=parcel.wipes,
        by_itself=by_itself,
        then=(*server.then, *lost(parcel)),
        cares=(*server.cares(), *cares(parcel)),
    )
    return Delivery(plan=plan, answers=answers, run=server.run, wanted=tuple(server.placing.wanted))


def mac_of(intent: Intent) -> str | None:
    """The hardware address of the first interface that is named by it."""
    network = intent.get(NETWORK)
    names: Sequence[object] = [one.name for one in network.interface] if network is not None else []
    return next((found for one in names if isinstance(one, str) and (found := hardware_address(one))), None)


def _fill(text: str, filled: dict[str, str]) -> str:
    """A line with what stands in braces by a known name; other braces are its own."""
    for name, value in filled.items():
        text = text.replace(f"{{{name}}}", value)
    return text
