"""Delivering into a folder: one that stands for itself, or the top of a stick or a share."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from fairledger.delivery.copying import Copying
from fairledger.delivery.fill import Made
from fairledger.delivery.formatting import commands
from fairledger.delivery.journal import deliver, unfinished
from fairledger.delivery.parcel import Parcel
from fairledger.delivery.placing import Placing
from fairledger.delivery.plan import Plan
from fairledger.delivery.telling import Delivery, How, cares, held_name, labelled, then, usable_label, wanting
from fairledger.media.booting import given_argument, wants_argument
from fairledger.media.contents import known
from fairledger.media.medium import Medium, look_at
from fairledger.media.programs import Progress
from fairledger.model.errors import FileTroubleError
from fairledger.storage.files import read_bytes, ready_folder
from fairledger.storage.looking import inside, is_file, is_folder


class Into:
    """A delivery into a folder that stands for itself, or is the top of a stick or a share."""

    def __init__(self, parcel: Parcel, kind: str, folder: Path, how: How) -> None:
        self.parcel, self.kind, self.folder, self.how = parcel, kind, folder, how
        self.route = parcel.route
        self.placing = Placing(folder, replace=how.replace)
        self.copying: Copying | None = None
        if kind == "stick" and how.source is not None:
            self.copying = Copying(how.source, folder, parcel.files[0].name, replace=how.replace)
        self.medium: Medium | None = (
            self.copying.medium if self.copying else look_at(folder) if kind == "stick" else None
        )
        self.needs: list[str] = []
        self.cares: list[str] = []

    def delivery(self) -> Delivery:
        """All of it."""
        if is_folder(self.folder) and unfinished(self.folder):
            self.cares.append("a delivery was cut short here: what it left is taken back before anything else is done")
        if self.medium is not None and self.medium.system.family is None:
            self.cares.append("no installer stands on it: it brings the answer file beside the installer's own medium")
        answers, *beside = self.parcel.files
        self._copied()
        menus = 0 if self.how.hold or self.copying is not None else self._menus()
        for one in beside:
            self._put(one.name, one)
        name = held_name(answers.name) if self.how.hold else answers.name
        where = self._put(name, answers)
        self._others(name)
        self.placing.must_have_room()
        if self.kind == "share" and any(one.private for one in self.parcel.files):
            self.cares.append("it holds secrets, and only you may read it: whoever serves it needs that right too")
        by_itself = menus > 0 or self._taken(name)
        plan = Plan(
            steps=tuple(self.placing.steps),
            needs=(*self.needs, *self.placing.needs, *wanting(self.parcel, self.how, by_itself=by_itself)),
            wipes=self.parcel.wipes,
            by_itself=by_itself,
            then=tuple(then(self.parcel, self.how, name, by_itself=by_itself, label=self._label())),
            cares=(*self.cares, *cares(self.parcel)),
            host=tuple(self._host()),
        )
        return Delivery(plan=plan, answers=where, run=self._run, wanted=tuple(self.placing.wanted))

    def _copied(self) -> None:
        """The installer's files, where they are to be copied too."""
        if self.copying is None:
            return
        if not self.route.copies:
            remedy = "make a disc with iso: and write it to the stick as a whole, or use an answer disc"
            self.needs.append(f"another way: this installer does not start from files that were copied; {remedy}")
            return
        self.placing.steps += self.copying.steps()
        self.needs += self.copying.needs()

    def _host(self) -> Iterator[str]:
        """How an empty stick is made ready."""
        if self.copying is not None and not self.placing.there:
            label = self.how.label or self.copying.medium.label or ""
            yield from commands(self.parcel.subject.facts.firmware, label, self.folder)

    def _run(self, progress: Progress) -> None:
        ready_folder(self.folder / "one")
        if self.copying is not None:
            self.copying.run(progress)
        deliver(self.folder, self.placing.pieces, self.placing.kept)

    def _put(self, name: str, one: Made) -> Path:
        return self.placing.put(name, one.data, self.parcel.subject.file, private=one.private)

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
        if label and not usable_label(label):
            self.needs.append(f"another label: {label!r} cannot stand in a boot menu")
            return 0
        argument = labelled(self.route.typed, label)
        files = sorted({one.file for one in wanted})
        for name in files:
            path = self.folder / name
            if not inside(self.folder, name):
                raise FileTroubleError("a link there leads elsewhere", file=str(path), remedy="take it away")
            old = read_bytes(path)
            new = given_argument(name, old, argument)
            if new == old:
                continue
            self.placing.change(path, old, new)
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
            other = self.placing.there.get(one.path.casefold(), path)
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
