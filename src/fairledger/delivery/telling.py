"""What a plan tells: what must be allowed, what is lost, and what is done at the machine."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path, PurePosixPath

from msgspec import Struct

from fairledger.delivery.machine import Machine
from fairledger.delivery.parcel import ALL, BY_COMMANDS, Parcel, allowed
from fairledger.delivery.plan import Plan
from fairledger.media.programs import Progress
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.showing import visible

_HELD = "held-"
_IN_MENUS = pattern(r"[A-Za-z0-9 _.+@:-]{1,32}")


class How(Struct, frozen=True, kw_only=True):
    """What is said along with a delivery."""

    hold: bool = False
    """Under a name that nothing takes by itself."""
    replace: bool = False
    wipes: tuple[str, ...] = ()
    """What somebody allows to be lost."""
    label: str = ""
    fat: bool = False
    """An answer disc in the form of a stick."""
    server: str = ""
    """The address at which machines reach the place."""
    base: Path | None = None
    """A generalised system's disk, over which that of a machine lies."""
    source: Path | None = None
    """The installer's own medium, from which something is made."""


class Delivery(Struct, frozen=True, kw_only=True):
    """A plan, and what carries it out."""

    plan: Plan
    answers: Path
    """Where the answer file will lie, or the disc with it."""
    run: Callable[[Progress], None]
    name: str = ""
    """The answer file's path, on a disc that is more than an answer disc."""
    machine: Machine | None = None
    """A virtual machine that starts with it."""
    wanted: tuple[tuple[Path, bytes], ...] = ()
    """What stands where once it is done."""


_FROM = {"it": "from it", "beside": "with the disc attached beside the installer's own"}


def cares(parcel: Parcel) -> Iterator[str]:
    """What was found that is no error, and more than advice."""
    for one in parcel.report.findings:
        if one.severity == Severity.WARNING and one.rule != _OTHER:
            yield one.message


def held_name(name: str) -> str:
    """The name under which a file is held back: one that no installer looks for."""
    folder, slash, last = name.rpartition("/")
    return f"{folder}{slash}{_HELD}{last}"


def usable_label(label: str) -> bool:
    """Whether a label can stand in a boot menu, so that nothing in it ends the word around it."""
    return bool(_IN_MENUS.fullmatch(label))


def labelled(line: str, label: str) -> str:
    """What is typed, with the volume's label where that is known; a blank in it is written as loaders want it."""
    return line.replace("LABEL=LABEL", f"LABEL={label.replace(' ', _BLANK)}") if label else line


_BLANK = "\\x20"
_OTHER = "medium-release"
"""The rule by which a medium is of another release: what would be told elsewhere is refused here."""


def wanting(parcel: Parcel, how: How, *, by_itself: bool | None) -> Iterator[str]:
    """What must be allowed in words, or be other than it is."""
    yield from (f"another medium: {one.message}" for one in parcel.report.findings if one.rule == _OTHER)
    if parcel.wipes and by_itself is not False and not allowed(parcel.wipes, how.wipes):
        said = " ".join(f"--wipes '{one}'" for one in parcel.wipes)
        yield f"{said}, since the installer takes the file by itself and asks nobody; or --hold"
    elif how.wipes and not allowed(parcel.wipes, how.wipes):
        lost = ", ".join(f"'{one}'" for one in parcel.wipes) or "nothing"
        yield f"other words for --wipes: what is lost is {lost}"


def then(
    parcel: Parcel, how: How, name: str, *, by_itself: bool | None, label: str, medium: str = "it"
) -> Iterator[str]:
    """What is done at the machine, in two lines."""
    route = parcel.route
    machine = visible(parcel.machine) or "the machine"
    attached = _FROM[medium]
    if by_itself:
        yield f"start {machine} {attached}: the installer takes {name} by itself"
    elif how.hold and route.held:
        line = labelled(route.held.replace("FILE", PurePosixPath(name).name), label)
        yield f"start {machine} {attached}, and there type: {line}"
    elif route.typed:
        yield f"there type: {labelled(route.typed, label)}"
    else:
        yield f"it goes to {route.goes}"
    yield from [parcel.route.at] if parcel.route.at and not by_itself and not how.hold else []
    yield from parcel.route.also if not by_itself else ()
    yield from lost(parcel)


def lost(parcel: Parcel) -> Iterator[str]:
    """What is lost at the machine."""
    machine = visible(parcel.machine) or "the machine"
    for one in parcel.wipes:
        if one == BY_COMMANDS:
            yield f"{machine} also loses {one}: look at them with fairledger explain"
            continue
        what = "every disk of" if one == ALL else f"{visible(one)} of"
        yield f"{what} {machine} is wiped, and all that is on it is lost"
