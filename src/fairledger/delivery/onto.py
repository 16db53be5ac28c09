"""Where files are delivered to: each kind of place makes a plan first."""

from __future__ import annotations

from pathlib import Path

from fairledger.catalog.routes import kinds_of_places
from fairledger.delivery.disc import onto_disc, onto_machine
from fairledger.delivery.into import Into
from fairledger.delivery.netboot import onto_server
from fairledger.delivery.parcel import Parcel
from fairledger.delivery.remaster import Remaster
from fairledger.delivery.telling import Delivery, How
from fairledger.media.programs import Progress
from fairledger.model.errors import FileTroubleError, RefusedError, WrongUseError
from fairledger.model.suggest import did_you_mean
from fairledger.storage.looking import is_folder, is_there

SERVERS = ("network", "deployment")
"""What machines ask of their own accord."""
MACHINES = ("machine", "base")
"""Virtual machines: started from the installer's disc, or over a generalised system's disk."""


def place_of(said: str, *, base: bool = False) -> tuple[str, Path]:
    """``KIND:PLACE`` as it was said; ``base`` where a machine lies over another's disk. Raises `WrongUseError`."""
    kind, colon, place = said.partition(":")
    kinds = [one for one in kinds_of_places() if one != MACHINES[1]]
    if kind not in kinds or not colon or not place:
        hint = did_you_mean(kind, kinds) if kind not in kinds else f"write {kind}:FOLDER"
        raise WrongUseError(f"{said!r} is no place", remedy=f"{hint}, as in stick:/media/STICK")
    if base and kind not in MACHINES:
        raise WrongUseError("--base is for machines", remedy="write --to machine:FOLDER")
    return MACHINES[1] if base else kind, Path(place)


FROM = ("iso", "stick", "network", *MACHINES)
"""What is made from the installer's own medium."""


def must_go_together(kind: str, how: How) -> None:
    """Raises `WrongUseError` for what is said and means nothing in a place of that kind."""
    if how.source is not None and kind not in FROM:
        raise WrongUseError(f"--from means nothing for {kind}:", remedy="leave it out, or name another place")
    if how.server and kind != "network":
        raise WrongUseError("--server is for machines that start from the network", remedy="write --to network:FOLDER")
    if how.fat and kind != "answer-disc":
        raise WrongUseError("--as fat is for answer discs", remedy="write --to answer-disc:FILE.img")


def medium_for(source: Path | None, place: Path) -> Path | None:
    """The installer's medium that a file is held against: the one that is named, or the place itself."""
    return source if source is not None else place if is_folder(place) else None


def planned(parcel: Parcel, kind: str, place: Path, how: How) -> Delivery:
    """What a delivery will do. Raises `FileTroubleError` for places where nothing can be put, `WrongUseError`."""
    if kind == "answer-disc":
        return onto_disc(parcel, place, how)
    if kind in MACHINES:
        return onto_machine(parcel, place, how)
    if kind in SERVERS:
        return onto_server(parcel, kind, place, how)
    if kind == "iso":
        return Remaster(parcel, place, how).delivery()
    if kind != "folder" and not is_folder(place):
        told = "there is no such folder" if not is_there(place) else "this is no folder"
        remedy = "name where the stick is mounted" if kind == "stick" else "make it first"
        raise FileTroubleError(told, file=str(place), remedy=remedy)
    return Into(parcel, kind, place, how).delivery()


def carried_out(delivery: Delivery, progress: Progress = lambda _what, _done, _of: None) -> None:
    """Does what was planned. Raises `RefusedError` where something it needs is missing, `FileTroubleError`."""
    if delivery.plan.needs:
        first, *_ = delivery.plan.needs
        raise RefusedError("nothing was delivered", file=str(delivery.answers), remedy=first)
    delivery.run(progress)
