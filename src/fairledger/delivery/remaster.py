"""An installer's own disc made anew with the answer file on it: made beside its place, read back, then moved there."""

from __future__ import annotations

import os
from pathlib import Path

from fairledger.delivery import menus
from fairledger.delivery.parcel import Parcel
from fairledger.delivery.plan import Plan, Step
from fairledger.delivery.rebuild import Changes, by_genisoimage, by_xorriso
from fairledger.delivery.rebuilt import differing
from fairledger.delivery.telling import Delivery, How, cares, held_name, labelled, then, usable_label, wanting
from fairledger.media.contents import Contents, contents_of, known
from fairledger.media.fat_change import files_in, with_files
from fairledger.media.medium import DISC, Medium, look_at
from fairledger.media.original import Original
from fairledger.media.programs import Progress, free_in, lacking
from fairledger.media.sums import implanted, is_implanted, renewed
from fairledger.model.errors import FileTroubleError, RefusedError, WrongUseError
from fairledger.storage.files import into_place
from fairledger.storage.looking import is_folder, is_there, real
from fairledger.storage.working import unfinished_work, working_beside

_SPARE = 16 << 20
"""Bytes by which a disc that is made anew may be larger."""

_IMAGE = "the boot image"
_MENUS_OF = {
    "bios": ("isolinux/", "syslinux", "boot/grub", "boot.cfg", "isolinux.cfg"),
    "uefi": ("efi/", "boot/grub"),
}
"""How the paths of menus begin that a firmware's loaders show."""


class Remaster:
    """One disc, for one machine."""

    def __init__(self, parcel: Parcel, place: Path, how: How) -> None:
        """Raises `WrongUseError` for places that are none, `FileTroubleError` for originals that cannot be read."""
        if how.source is None:
            raise WrongUseError("nobody said which disc is made anew", remedy="name the original: --from DISC.iso")
        if place.suffix.lower() != ".iso" or is_folder(place):
            raise WrongUseError(f"{str(place)!r} is no name of a disc", remedy=f"name the file: iso:{place}/new.iso")
        if is_there(place) and real(place) == real(how.source):
            raise RefusedError("the original is never changed", file=str(place), remedy="name another file")
        self.parcel, self.place, self.how = parcel, place, how
        self.medium: Medium = look_at(how.source)
        if self.medium.kind != DISC:
            raise FileTroubleError("this is no disc", file=str(how.source), remedy="name an ISO image")
        self.found: Contents = contents_of(how.source, places=True)
        if self.found.partly or not self.found.files:
            told = "its directories cannot be read as a whole, so that nobody could tell whether the new disc is right"
            raise FileTroubleError(told, file=str(how.source), remedy="use an answer disc beside it")
        self.original = Original(how.source, self.found)
        self.label = self.medium.label or ""
        self.program = "genisoimage" if "udf" in self.found.forms else "xorriso"
        self.needs: list[str] = []
        self.cares: list[str] = []

    def delivery(self) -> Delivery:
        """What is done, and what carries it out."""
        answers, *beside = self.parcel.files
        name = held_name(answers.name) if self.how.hold else answers.name
        added = {self._named(one): data for one, data in ((name, answers.data), *((a.name, a.data) for a in beside))}
        self._fits()
        changes = self._changes(added)
        told_of = self._menus_of(changes)
        missing = lacking(self.program)
        if missing:
            self.needs.append(missing)
        if is_there(self.place) and not self.how.replace:
            self.needs.append(f"--replace, since {self.place} stands there already")
        by_itself: bool | None = not self.how.hold and (bool(told_of) or not self.parcel.route.typed)
        untold = self._untold(told_of) if by_itself and self.parcel.route.typed else []
        for firmware in untold:
            by_itself = None
            self.cares.append(
                f"nobody knows which menu {firmware} shows: none was found that could be told of the file"
            )
        if self.parcel.route.typed and not told_of and not self.how.hold:
            self.needs.append("another medium: no boot menu on it starts an installer that can be told of the file")
        if unfinished_work(self.place):
            self.cares.append("making this disc was cut short, or goes on: what was left is cleared away first")
        plan = Plan(
            steps=tuple(self._steps(changes)),
            needs=(*self.needs, *wanting(self.parcel, self.how, by_itself=by_itself)),
            wipes=self.parcel.wipes,
            by_itself=by_itself,
            then=tuple(then(self.parcel, self.how, name, by_itself=by_itself, label=self.label, medium="it")),
            cares=(*self.cares, *cares(self.parcel)),
        )
        return Delivery(
            plan=plan, answers=self.place, run=lambda progress: self._run(changes, progress), name=self._named(name)
        )

    def _steps(self, changes: Changes) -> list[Step]:
        size = self.original.size + sum(len(data) for data in changes.files.values())
        action = "replace" if is_there(self.place) else "make"
        steps = [Step(action=action, path=str(self.place), bytes=size, source=str(self.how.source))]
        for path, data in changes.files.items():
            there = path in self.original.sizes
            steps.append(
                Step(
                    action="change" if there else "write",
                    path=f"{self.place}:/{path}",
                    bytes=len(data),
                    source="" if there else self.parcel.subject.file,
                )
            )
        if changes.appended is not None:
            path = f"{self.place}:partition {changes.appended.number}"
            steps.append(Step(action="change", path=path, bytes=len(changes.boot_image or b"")))
        return steps

    def _named(self, name: str) -> str:
        """A file's path on the disc: the very one of what stands there in other letters."""
        return next((path for path in self.original.sizes if path.casefold() == name.casefold()), name)

    def _changes(self, added: dict[str, bytes]) -> Changes:
        """All that is other than on the original."""
        files: dict[str, bytes] = {}
        appended, boot_image = None, None
        if self.parcel.route.typed and not self.how.hold:
            argument = labelled(self.parcel.route.typed, self.label)
            texts = {path: self.original.read(path) for path, size in self.found.files if menus.is_menu(path, size)}
            files |= menus.told(texts, argument)
            for path in self.original.boot_images():
                changed = self._told_file(path, argument)
                if changed is not None:
                    files[path] = changed
            appended = self.original.appended()
            if appended is not None:
                boot_image = self._told_inside(self.original.read_partition(appended), argument)
                appended = appended if boot_image is not None else None
        clash = sorted(set(added) & set(files))
        if clash:
            raise WrongUseError(f"{clash[0]} is a part of the installer", remedy="give the script another name")
        files |= renewed({path: self.original.read(path) for path in self.original.lists()}, files)
        return Changes(files={**files, **added}, appended=appended, boot_image=boot_image)

    def _told_file(self, path: str, argument: str) -> bytes | None:
        """The same of a file; what no firmware starts may be a volume that nobody can read."""
        try:
            return self._told_inside(self.original.read(path), argument)
        except FileTroubleError:
            if path in {self.original.started(one) for one in self.original.boots}:
                raise
            return None

    def _told_inside(self, data: bytes, argument: str) -> bytes | None:
        """A volume that firmware starts from, with its menus told; None where it has none that start an installer."""
        inner = {path: text for path, text in files_in(data).items() if menus.is_menu(path, len(text))}
        new = {path: text for path, text in menus.told(inner, argument).items() if text != inner[path]}
        return with_files(data, new) if new else None

    def _menus_of(self, changes: Changes) -> tuple[str, ...]:
        """The menus that name the answer file."""
        told = [path for path, data in changes.files.items() if menus.is_menu(path, len(data))]
        told += [path for path in self.original.boot_images() if path in changes.files]
        return (*told, *([_IMAGE] if changes.boot_image is not None else []))

    def _untold(self, told_of: tuple[str, ...]) -> list[str]:
        """The kinds of firmware that start the disc, and whose menus nobody found."""
        images = {*self.original.boot_images(), _IMAGE}
        out = []
        for firmware in dict.fromkeys(one.firmware for one in self.original.boots):
            lead = _MENUS_OF[firmware]
            inside = firmware == "uefi" and not images.isdisjoint(told_of)
            if not inside and not any(path.lower().startswith(lead) for path in told_of):
                out.append(firmware.upper())
        return out

    def _fits(self) -> None:
        """Whether this installer reads the file at all."""
        family = self.parcel.subject.family.name
        if self.medium.system.family is None:
            self.needs.append("another medium: nobody knows of an installer on it")
        elif self.medium.system.family != family:
            self.needs.append(f"another medium: what stands on it reads no file of the family {family}")
        if not self.how.hold and "LABEL=LABEL" in self.parcel.route.typed and not usable_label(self.label):
            self.needs.append("another medium: its label cannot stand in a boot menu")
        if self.original.hidden() and self.program == "xorriso":
            self.needs.append("an answer disc: what firmware starts from the original lies where no program changes it")
        if self.program == "genisoimage" and not any(one.family == family for one in known().answers):
            self.needs.append("an answer disc: discs with UDF are made anew for Windows only")

    def _run(self, changes: Changes, progress: Progress) -> None:
        """Makes it beside its place, reads it back there, and moves it to its place in one step."""
        assert self.how.source is not None
        free, twice = free_in(self.place.parent), 2 if self.program == "genisoimage" else 1
        wanted = twice * (self.original.size + _SPARE)
        if free is not None and free < wanted:
            told = f"there is room for {free:,} bytes, and {wanted:,} are wanted"
            raise FileTroubleError(told, file=str(self.place), remedy="make room first, or name another place")
        with working_beside(self.place) as work:
            made = work / "new.iso"
            by = by_genisoimage if self.program == "genisoimage" else by_xorriso
            by(self.original, self.label, changes, made, progress)
            if is_implanted(self.how.source):
                implanted(made, progress)
            wrong = differing(self.original, changes, made)
            if wrong:
                remedy = "nothing was left behind; use an answer disc beside the untouched original"
                raise FileTroubleError(f"the new disc is not right: {wrong[0]}", file=str(self.place), remedy=remedy)
            if any(one.private for one in self.parcel.files):
                os.chmod(made, 0o600)  # noqa: PTH101 - as the other files of its kind
            into_place(made, self.place, replace=self.how.replace)
