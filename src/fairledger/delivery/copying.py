"""An installer's files copied onto a stick: what starts it last, and images that no FAT32 holds in parts."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from fairledger.delivery.plan import Step
from fairledger.media import medium as media
from fairledger.media.contents import known
from fairledger.media.extract import Counter, Tree, folded
from fairledger.media.imagefile import read_image_file
from fairledger.media.medium import look_at
from fairledger.media.programs import Progress, free_in, lacking, run_program
from fairledger.model.errors import FileTroubleError, RefusedError, WrongUseError
from fairledger.storage.files import into_place
from fairledger.storage.looking import entries, inside, is_file, is_folder, is_there, real, size_of, trouble
from fairledger.storage.working import working_beside

PROGRAM = "wimlib-imagex"
_PART = 3800
"""MiB of a part, as the vendor's own examples have it."""
_GROWS = 2
"""How much larger an image may become that was packed as one."""
_IMAGES = (".wim", ".esd")
_CHUNK = 4 << 20


class Copying:
    """From a disc or folder to the top of a stick."""

    def __init__(self, source: Path, folder: Path, besides: str, *, replace: bool) -> None:
        """``besides`` is put there by others.

        Raises `FileTroubleError` for sources that cannot be read, `WrongUseError` where one lies in the other.
        """
        inner, outer = real(folder), real(source)
        if inner == outer or inner.is_relative_to(outer) or outer.is_relative_to(inner):
            raise WrongUseError(f"{folder} and {source} lie in each other", remedy="name another place")
        self.source, self.folder, self.replace = source, folder, replace
        self.medium = look_at(source)
        self.tree = Tree(source)
        self.tree.must_fit()
        for name in [one for one in self.tree.sizes if folded(one) == folded(besides)]:
            del self.tree.sizes[name]
        self.large = [name for name, size in self.tree.sizes.items() if size > media.LARGEST]
        self.split = next((one for one in self.large if one.lower().endswith(_IMAGES)), None)

    @property
    def whole(self) -> tuple[str, ...]:
        """The files that are copied as they are, those that firmware starts last."""
        starts = known().starts
        plain = [name for name in self.tree.sizes if name not in self.large]
        return tuple(sorted(plain, key=lambda name: name.lower() in starts or "bootmgr" in name.lower()))

    @property
    def parts(self) -> Path | None:
        """The first of the parts of an image that is split."""
        return (self.folder / str(self.split)).with_suffix(".swm") if self.split is not None else None

    def wanted(self) -> int:
        """Bytes of what is not there yet."""
        there = {self.split} if self._in_parts() else set()
        sizes = self.tree.sizes.items()
        return sum(size for name, size in sizes if name not in there and not self._same_size(name))

    def _same_size(self, name: str) -> bool:
        place = self.folder / name
        return is_file(place) and size_of(place) == self.tree.sizes[name]

    def steps(self) -> Iterator[Step]:
        """What is copied, and what is split."""
        size = sum(self.tree.sizes[name] for name in self.whole)
        told = f"{len(self.whole):,} files of {self.source}"
        if any(not self._same_size(name) for name in self.whole):
            yield Step(action="copy", path=str(self.folder), bytes=size, source=told)
        if self.split is not None and not self._in_parts():
            solid = ", which is packed anew before: that takes long" if self._solid() else ""
            told = f"/{self.split} in parts, since FAT32 holds no file of {self.tree.sizes[self.split]:,} bytes{solid}"
            yield Step(action="split", path=str(self.parts), bytes=self.tree.sizes[self.split], source=told)

    def _solid(self) -> bool:
        return any(one.solid for one in self.medium.files if one.size == self.tree.sizes.get(str(self.split)))

    def _stand_there(self) -> list[Path]:
        """The parts of an image that stand on the stick."""
        return [*entries(self.parts.parent, ".swm", self.parts.stem)] if self.parts is not None else []

    def _in_parts(self) -> bool:
        """Whether all parts of one image stand there that has the same images as the original's."""
        if self.parts is None or not is_file(self.parts):
            return False
        first = read_image_file(self.parts)
        found = [read_image_file(one) for one in self._stand_there()]
        whole = sorted(one.part for one in found if one.guid == first.guid) == list(range(1, first.parts + 1))
        told = [one.image for one in self.medium.images if one.file == self.split]
        return whole and len(found) == first.parts and [*first.images] == told

    def needs(self) -> Iterator[str]:
        """What must be there, or be allowed."""
        if self._stand_there() and not self._in_parts() and not self.replace:
            yield f"--replace, since parts of another image stand in {self._stand_there()[0].parent}"
        if self.medium.system.family is None:
            yield f"another medium: nobody knows of an installer on {self.source}"
        for name in self.large:
            if name != self.split:
                yield f"a stick with another file system: FAT32 does not hold /{name}"
        if self.split is not None and not self._in_parts() and (missing := lacking(PROGRAM)):
            whole, first = str(self.split).replace("/", "\\"), str(self.split).rpartition(".")[0].replace("/", "\\")
            told = f"dism /Split-Image /ImageFile:D:\\{whole} /SWMFile:E:\\{first}.swm /FileSize:{_PART}"
            yield f"{missing}; on Windows: {told}"
        others = [name for name in self.whole if is_file(self.folder / name) and not self._same_size(name)]
        if others and not self.replace:
            yield f"--replace, since {self.folder / others[0]} stands there already"
        clash = next((name for name in self.whole if not inside(self.folder, name)), None)
        if clash is not None:
            yield f"a stick without links: {self.folder / clash} leads elsewhere"
        yield from self._rooms()

    def _rooms(self) -> Iterator[str]:
        free, wanted = free_in(self.folder), self.wanted()
        if free is not None and free < wanted:
            yield f"room on the stick: there are {free:,} bytes, and {wanted:,} are wanted"
        work = self._work_bytes()
        free = free_in(Path(tempfile.gettempdir()))
        if work and free is not None and free < work:
            yield f"room for a while in {tempfile.gettempdir()}: there are {free:,} bytes, and {work:,} are wanted"

    def _work_bytes(self) -> int:
        """Bytes that are wanted for a while."""
        if self.split is None or self._in_parts():
            return 0
        size = self.tree.sizes[self.split]
        taken_out = 0 if is_folder(self.source) else size
        return taken_out + (_GROWS * size if self._solid() else 0)

    def run(self, progress: Progress) -> None:
        """Copies it. Raises `FileTroubleError`, `RefusedError` where something else stands there."""
        try:
            count = Counter(self.wanted(), progress)
            if self.split is not None and not self._in_parts():
                self._split(progress)
            for name in self.whole:
                self._copy(name, count)
            self._must_be_right()
        except OSError as error:
            raise trouble(self.folder, error) from error

    def _copy(self, name: str, count: Counter) -> None:
        place = self.folder / name
        if is_there(place):
            if self._same(name, place):
                return
            if not self.replace:
                raise RefusedError("something else stands there", file=str(place), remedy="allow it with --replace")
        with working_beside(place) as work:
            self.tree.copy(name, work / "file", count)
            into_place(work / "file", place, replace=self.replace)

    def _same(self, name: str, place: Path) -> bool:
        if not self._same_size(name):
            return False
        with self.tree.opened(name) as one, place.open("rb") as other:
            while data := one.read(_CHUNK):
                if other.read(len(data)) != data:
                    return False
        return True

    def _split(self, progress: Progress) -> None:
        """The parts stand whole beside their places before the first of them is moved."""
        first = self.parts
        assert first is not None
        name = str(self.split)
        with tempfile.TemporaryDirectory(prefix="fairledger-") as taken, working_beside(first) as work:
            image = self.source / name if is_folder(self.source) else Path(taken) / "image.wim"
            if not is_folder(self.source):
                self.tree.copy(name, image, Counter(self.tree.sizes[name], progress))
            if self._solid():
                packed = Path(taken) / "packed.wim"
                said = ["export", str(image.absolute()), "all", str(packed), "--compress=LZX"]
                run_program(PROGRAM, said, makes=packed, size=_GROWS * self.tree.sizes[name], progress=progress)
                image = packed
            said = ["split", str(image.absolute()), str(work / first.name), str(_PART)]
            run_program(PROGRAM, said)
            made = entries(work, ".swm")
            # parts of another image that are left among them would be taken for theirs
            for one in self._stand_there():
                one.unlink()
            for one in made:
                into_place(one, first.parent / one.name, replace=self.replace)

    def _must_be_right(self) -> None:
        """Raises `FileTroubleError` where the stick does not hold what the original holds."""
        for name in self.whole:
            if not self._same_size(name):
                raise FileTroubleError(f"{name} is not all there", file=str(self.folder), remedy="run it again")
        if self.parts is None:
            return
        if not self._in_parts():
            told = "the image in parts does not hold what the whole one holds"
            raise FileTroubleError(told, file=str(self.parts), remedy="run it again with --replace")
