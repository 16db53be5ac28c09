"""Where files are delivered to: a stick, a share, a folder, an answer disc; each makes a plan first."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterator
from pathlib import Path, PurePosixPath

from msgspec import Struct

from fairledger.delivery.answerdisc import disc_of
from fairledger.delivery.fill import Made
from fairledger.delivery.journal import deliver, unfinished
from fairledger.delivery.parcel import ALL, BY_COMMANDS, Parcel, allowed
from fairledger.delivery.plan import Plan, Step
from fairledger.media.booting import given_argument, wants_argument
from fairledger.media.contents import known
from fairledger.media.medium import Medium, look_at
from fairledger.model.errors import FileTroubleError, RefusedError, WrongUseError
from fairledger.model.finding import Severity
from fairledger.model.showing import visible
from fairledger.model.suggest import did_you_mean
from fairledger.storage.files import read_bytes, write_file
from fairledger.storage.looking import entries, inside, is_file, is_folder, is_there
from fairledger.storage.together import Piece

KINDS = {"stick": "stick", "share": "share", "folder": "plain", "generalise": "generalise", "answer-disc": "disc"}
"""Kinds of places, and the route that leads there."""
_SPARE = 64 << 10
"""Bytes that a file system takes for itself."""
_HELD = "held-"


class How(Struct, frozen=True, kw_only=True):
    """What is said along with a delivery."""

    hold: bool = False
    """Under a name that nothing takes by itself."""
    replace: bool = False
    wipes: tuple[str, ...] = ()
    """What somebody allows to be lost."""
    label: str = ""


class Delivery(Struct, frozen=True, kw_only=True):
    """A plan, and what carries it out."""

    plan: Plan
    answers: Path
    """Where the answer file will lie, or the disc with it."""
    run: Callable[[], None]
    wanted: tuple[tuple[Path, bytes], ...] = ()
    """What stands where once it is done."""


def place_of(said: str) -> tuple[str, Path]:
    """``KIND:PLACE`` as it was said. Raises `WrongUseError`."""
    kind, colon, place = said.partition(":")
    if kind not in KINDS or not colon or not place:
        hint = did_you_mean(kind, KINDS) if kind not in KINDS else f"write {kind}:FOLDER"
        raise WrongUseError(f"{said!r} is no place", remedy=f"{hint}, as in stick:/media/STICK")
    return kind, Path(place)


def planned(parcel: Parcel, kind: str, place: Path, how: How) -> Delivery:
    """What a delivery will do. Raises `FileTroubleError` for places where nothing can be put, `WrongUseError`."""
    if kind == "answer-disc":
        return _disc(parcel, place, how)
    if kind != "folder" and not is_folder(place):
        told = "there is no such folder" if not is_there(place) else "this is no folder"
        remedy = "name where the stick is mounted" if kind == "stick" else "make it first"
        raise FileTroubleError(told, file=str(place), remedy=remedy)
    return _Into(parcel, kind, place, how).delivery()


def carried_out(delivery: Delivery) -> None:
    """Does what was planned. Raises `RefusedError` where something it needs is missing, `FileTroubleError`."""
    if delivery.plan.needs:
        first, *_ = delivery.plan.needs
        raise RefusedError("nothing was delivered", file=str(delivery.answers), remedy=first)
    delivery.run()


class _Into:
    """A delivery into a folder that stands for itself, or is the top of a stick or a share."""

    def __init__(self, parcel: Parcel, kind: str, folder: Path, how: How) -> None:
        self.parcel, self.kind, self.folder, self.how = parcel, kind, folder, how
        self.route = parcel.route
        self.there = {path.name.casefold(): path for path in entries(folder)} if is_folder(folder) else {}
        self.medium: Medium | None = look_at(folder) if kind == "stick" else None
        self.needs: list[str] = []
        self.cares: list[str] = []
        self.steps: list[Step] = []
        self.pieces: list[Piece] = []
        self.kept: list[Piece] = []
        self.wanted: list[tuple[Path, bytes]] = []

    def delivery(self) -> Delivery:
        """All of it."""
        if is_folder(self.folder) and unfinished(self.folder):
            self.cares.append("a delivery was cut short here: what it left is taken back before anything else is done")
        if self.medium is not None and self.medium.system.family is None:
            self.cares.append("no installer stands on it: it brings the answer file beside the installer's own medium")
        answers, *beside = self.parcel.files
        menus = 0 if self.how.hold else self._menus()
        for one in beside:
            self._put(one.name, one)
        name = held_name(answers.name) if self.how.hold else answers.name
        where = self._put(name, answers)
        self._others(name)
        self._room()
        if self.kind == "share" and any(one.private for one in self.parcel.files):
            self.cares.append("it holds secrets, and only you may read it: whoever serves it needs that right too")
        by_itself = menus > 0 or self._taken(name)
        plan = Plan(
            steps=tuple(self.steps),
            needs=(*self.needs, *_wanting(self.parcel, self.how, by_itself=by_itself)),
            wipes=self.parcel.wipes,
            by_itself=by_itself,
            then=tuple(_then(self.parcel, self.how, name, by_itself=by_itself, label=self._label())),
            cares=(*self.cares, *_cares(self.parcel)),
        )
        return Delivery(plan=plan, answers=where, run=self._run, wanted=tuple(self.wanted))

    def _run(self) -> None:
        if not is_folder(self.folder):
            self.folder.mkdir(parents=True)
        deliver(self.folder, self.pieces, self.kept)

    def _put(self, name: str, one: Made) -> Path:
        """One file at its place; under the very name of one that only differs in its letters' size."""
        if not inside(self.folder, name) and is_there(self.folder):
            raise FileTroubleError("a link there leads elsewhere", file=str(self.folder / name), remedy="take it away")
        path = self.folder / name
        same = self.there.get(name.casefold()) if "/" not in name else None
        if same is not None and same.name != name:
            path = same
        self._piece(path, one.data, private=one.private, source=self.parcel.subject.file)
        return path

    def _piece(self, path: Path, data: bytes, *, private: bool, source: str) -> None:
        if is_folder(path):
            raise FileTroubleError("a folder stands where a file is to be put", file=str(path), remedy="take it away")
        self.wanted.append((path, data))
        old = read_bytes(path) if is_file(path) else None
        if old == data:
            return
        action = "write" if old is None else "replace"
        if old is not None and not self.how.replace:
            self.needs.append(f"--replace, since {path} stands there already")
        self.steps.append(Step(action=action, path=str(path), bytes=len(data), source=source))
        self.pieces.append(Piece(path, data, private))

    def _menus(self) -> int:
        """Gives the entries of boot menus the parameter where the installer needs one. How many files changed."""
        if self.medium is None or not self.route.typed:
            return 0
        wanted = [one for one in self.medium.entries if wants_argument(one)]
        if not wanted:
            return 0
        label = self._label()
        if not label and "LABEL=LABEL" in self.route.typed:
            self.needs.append("--label LABEL, since nobody knows the volume's label")
            return 0
        argument = _labelled(self.route.typed, label)
        files = sorted({one.file for one in wanted})
        for name in files:
            path = self.folder / name
            if not inside(self.folder, name):
                raise FileTroubleError("a link there leads elsewhere", file=str(path), remedy="take it away")
            old = read_bytes(path)
            new = given_argument(name, old, argument)
            if new == old:
                continue
            beside = path.with_name(f"{path.name}.before")
            if not is_there(beside):
                self.kept.append(Piece(beside, old))
            self.steps.append(
                Step(action="change", path=str(path), bytes=len(new), source=f"its copy is {beside.name}")
            )
            self.pieces.append(Piece(path, new))
            self.wanted.append((path, new))
        return len(files)

    def _label(self) -> str:
        if self.how.label or self.medium is None:
            return self.how.label
        labels = {label for one in self.medium.entries for label in one.labels}
        return self.medium.label or (labels.pop() if len(labels) == 1 else "")

    def _others(self, name: str) -> None:
        """What stands there that the installer takes too."""
        family = self.parcel.subject.family.name
        for one in known().answers:
            path = self.folder / one.path
            other = self.there.get(one.path.casefold(), path)
            if one.family == family and one.path != name.casefold() and is_file(other):
                self.cares.append(f"{other} stands there too: {one.takes}")

    def _taken(self, name: str) -> bool | None:
        """Whether the installer takes a file of that name there by itself, as looking at media has it."""
        if self.kind != "stick":
            return False
        label = self._label()
        for one in known().answers:
            if one.family == self.parcel.subject.family.name and one.path == name.casefold() and not one.later:
                if not one.label or one.label == label:
                    return True
                if not label:
                    self.cares.append(f"if the volume is labelled {one.label}, {one.takes}")
                    return None
        return False

    def _room(self) -> None:
        wanted = sum(len(one.data) for one in (*self.pieces, *self.kept))
        here = next((one for one in (self.folder, *self.folder.absolute().parents) if is_folder(one)), None)
        if here is None:
            return
        free = shutil.disk_usage(here).free
        if free < wanted + _SPARE:
            told = f"there is room for {free:,} bytes, and {wanted:,} are wanted"
            raise FileTroubleError(told, file=str(self.folder), remedy="make room first")


def _disc(parcel: Parcel, place: Path, how: How) -> Delivery:
    """An answer disc for one machine."""
    if place.suffix.lower() != ".iso":
        remedy = f"name the file: answer-disc:{place}/answers.iso; a folder goes with --roster"
        raise WrongUseError(f"{str(place)!r} is no name of a disc", remedy=remedy)
    label = how.label or parcel.route.label or "ANSWERS"
    answers, *beside = parcel.files
    name = held_name(answers.name) if how.hold else answers.name
    data = disc_of([*beside, Made(name, answers.role, answers.data, answers.private)], label)
    private = any(one.private for one in parcel.files)
    by_itself = not how.hold and parcel.route.by_itself and label == (parcel.route.label or label)
    needs = []
    old = read_bytes(place) if is_file(place) else None
    if old is not None and old != data and not how.replace:
        needs.append(f"--replace, since {place} stands there already")
    step = Step(
        action="make" if old is None else "replace", path=str(place), bytes=len(data), source=parcel.subject.file
    )
    plan = Plan(
        steps=(step,) if old != data else (),
        needs=(*needs, *_wanting(parcel, how, by_itself=by_itself)),
        wipes=parcel.wipes,
        by_itself=by_itself,
        then=tuple(_then(parcel, how, name, by_itself=by_itself, label=label, disc=True)),
        cares=tuple(_cares(parcel)),
    )

    def run() -> None:
        if old != data:
            write_file(place, data, replace=how.replace, private=private)

    return Delivery(plan=plan, answers=place, run=run, wanted=((place, data),))


def _cares(parcel: Parcel) -> Iterator[str]:
    """What was found that is no error, and more than advice."""
    for one in parcel.report.findings:
        if one.severity == Severity.WARNING and one.rule != _OTHER:
            yield one.message


def held_name(name: str) -> str:
    """The name under which a file is held back: one that no installer looks for."""
    folder, slash, last = name.rpartition("/")
    return f"{folder}{slash}{_HELD}{last}"


def _labelled(line: str, label: str) -> str:
    """What is typed, with the volume's label where that is known; a blank in it is written as loaders want it."""
    return line.replace("LABEL=LABEL", f"LABEL={label.replace(' ', _BLANK)}") if label else line


_BLANK = "\\x20"
_OTHER = "medium-release"
"""The rule by which a medium is of another release: what would be told elsewhere is refused here."""


def _wanting(parcel: Parcel, how: How, *, by_itself: bool | None) -> Iterator[str]:
    """What must be allowed in words, or be other than it is."""
    yield from (f"another medium: {one.message}" for one in parcel.report.findings if one.rule == _OTHER)
    if parcel.wipes and by_itself is not False and not allowed(parcel.wipes, how.wipes):
        said = " ".join(f"--wipes '{one}'" for one in parcel.wipes)
        yield f"{said}, since the installer takes the file by itself and asks nobody; or --hold"
    elif how.wipes and not allowed(parcel.wipes, how.wipes):
        lost = ", ".join(f"'{one}'" for one in parcel.wipes) or "nothing"
        yield f"other words for --wipes: what is lost is {lost}"


def _then(
    parcel: Parcel, how: How, name: str, *, by_itself: bool | None, label: str, disc: bool = False
) -> Iterator[str]:
    """What is done at the machine, in two lines."""
    route = parcel.route
    machine = visible(parcel.machine) or "the machine"
    attached = "with the disc attached beside the installer's own" if disc else "from it"
    if by_itself:
        yield f"start {machine} {attached}: the installer takes {name} by itself"
    elif how.hold and route.held:
        line = _labelled(route.held.replace("FILE", PurePosixPath(name).name), label)
        yield f"start {machine} {attached}, and there type: {line}"
    elif route.typed:
        yield f"there type: {_labelled(route.typed, label)}"
    else:
        yield f"it goes to {route.goes}"
    for one in parcel.wipes:
        if one == BY_COMMANDS:
            yield f"{machine} also loses {one}: look at them with fairledger explain"
            continue
        what = "every disk of" if one == ALL else f"{visible(one)} of"
        yield f"{what} {machine} is wiped, and all that is on it is lost"
