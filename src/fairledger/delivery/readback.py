"""Reading back what was delivered: not what was meant to be written, but what now stands there."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator, Sequence
from pathlib import Path

from msgspec import Struct

from fairledger.checks.engine import Report
from fairledger.delivery.parcel import Parcel, reread
from fairledger.delivery.telling import Delivery
from fairledger.media.booting import wants_argument
from fairledger.media.contents import contents_of
from fairledger.media.disc import head_of
from fairledger.media.medium import Medium, look_at
from fairledger.media.stretches import Within
from fairledger.media.volumes import stick_of, volume_of
from fairledger.model.errors import LedgerError
from fairledger.model.finding import Severity
from fairledger.storage.files import read_whole

_DISCS = ("answer-disc", "iso", "machine", "base")


class ReadBack(Struct, frozen=True, kw_only=True):
    """What stands there."""

    where: str
    """The answer file, as the medium itself names it."""
    taken: bool | None
    """Whether the installer takes it by itself, as looking at the medium tells; None where that tells nothing."""
    report: Report | None
    """What is found in it."""
    wrong: tuple[str, ...] = ()
    """What is not as it was planned."""

    @property
    def good(self) -> bool:
        """Whether it came to what was planned."""
        return not self.wrong


def read_back(delivery: Delivery, parcel: Parcel, kind: str) -> ReadBack:
    """Looks at the place as anybody would who knows nothing of the delivery."""
    wrong: list[str] = []
    taken: bool | None = None
    report: Report | None = None
    where = delivery.answers
    try:
        wrong += differing_in(delivery.wanted)
        if kind in _DISCS:
            report, inner = _from_disc(where, parcel)
            wrong += [] if inner else ["the disc does not hold the answer file"]
            name = inner
        else:
            report = reread(where, parcel)
            name = where.name
        if kind in (*_DISCS, "stick"):
            medium = look_at(where if kind in _DISCS else where.parent)
            found = next((one for one in medium.answers if one.path.casefold() == name.casefold()), None)
            taken = found.first if found is not None else False
            if kind == "base" and found is not None:
                taken = None  # a system that is there already looks for it, and no medium tells of that
            if parcel.route.typed and delivery.plan.by_itself:
                wrong += _menus(medium, name)
    except LedgerError as error:
        wrong.append(f"it cannot be read back: {error.message}")
    wrong += _differs(delivery, parcel, report, taken=taken)
    return ReadBack(where=str(where), taken=taken, report=report, wrong=tuple(wrong))


def differing_in(wanted: Sequence[tuple[Path, bytes]]) -> list[str]:
    """The files that do not hold what was meant. Raises `FileTroubleError` for those that cannot be read."""
    return [f"{path} does not hold what was written" for path, data in wanted if read_whole(path) != data]


def _differs(delivery: Delivery, parcel: Parcel, report: Report | None, *, taken: bool | None) -> Iterator[str]:
    """Where what stands there is not what was planned."""
    by_itself = delivery.plan.by_itself and not parcel.route.typed
    if taken is False and by_itself:
        yield "the installer does not take it by itself, as it stands there"
    if taken and delivery.plan.by_itself is False:
        yield "the installer takes it by itself, which was not meant"
    before = {one.rule for one in parcel.report.findings if one.severity == Severity.ERROR}
    after = [one for one in report.findings if one.severity == Severity.ERROR] if report is not None else []
    for one in after:
        if one.rule not in before:
            yield f"in the file that stands there: {one.message}"


def _menus(medium: Medium, name: str) -> Iterator[str]:
    """Entries that start an installer and do not name the answer file."""
    for one in medium.entries:
        if wants_argument(one) and not (one.answers or "").casefold().endswith(f"/{name}".casefold()):
            yield f"{one.file}: the entry {one.title} does not name {name}"


def _from_disc(path: Path, parcel: Parcel) -> tuple[Report | None, str]:
    """What is found in the answer file on a disc, and what it is called there."""
    volume = volume_of(stick_of(path)) if head_of(path) is None else None
    found = contents_of(path, volume.place if volume is not None else None, places=True)
    answers = parcel.files[0]
    sizes = dict(found.files)
    for name, places in found.places.items():
        if sizes[name] != len(answers.data):
            continue
        with path.open("rb") as file:
            if Within(file, places, sizes[name]).read() != answers.data:
                continue
        with tempfile.TemporaryDirectory(prefix="fairledger-") as folder:
            copy = Path(folder) / Path(answers.name).name
            copy.touch(0o600)
            copy.write_bytes(answers.data)
            return reread(copy, parcel), name
    return None, ""
