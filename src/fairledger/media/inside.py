"""The process that looks into a medium: it writes what it found to standard output, and may be killed.

What is found soon is written before what takes long, so that it is known if there is too much of that.
"""

from __future__ import annotations

import os
import stat
import struct
import sys
from collections.abc import Callable, Iterable
from contextlib import AbstractContextManager, closing, suppress
from functools import partial
from pathlib import Path
from typing import IO, cast

import msgspec

from fairledger.media.contents import MOST_FILES, MOST_TEXT, Contents, known, narrowed
from fairledger.media.disc import head_of
from fairledger.media.imagefile import ImageFile, read_images
from fairledger.media.isoreader import ElaborateError, IsoDisc
from fairledger.media.stretches import Entry, Stretch, Within
from fairledger.media.trees import Trees
from fairledger.media.udfreader import UdfDisc
from fairledger.model.errors import FileTroubleError
from fairledger.storage.looking import is_folder

Opener = Callable[[Entry], AbstractContextManager[IO[bytes]]]


def main() -> int:
    """Looks into what the first argument names, at the volume that begins at the byte of the second one.

    With a third one it tells of all files where they lie.
    """
    narrowed()
    path, volume, all_ = Path(sys.argv[1]), sys.argv[2], len(sys.argv) > 3
    try:
        if is_folder(path):
            _say(_of_folder(path))
        elif volume != "-":
            _say(_of_volume(path, int(volume), all_places=all_))
        else:
            _say(_usual(path))
            _say(_of_disc(path, all_places=all_))
    except MemoryError:
        return 9
    return 0


def _say(found: Contents) -> None:
    data = msgspec.msgpack.encode(found)
    sys.stdout.buffer.write(struct.pack("<Q", len(data)) + data)
    sys.stdout.buffer.flush()


def _of_folder(path: Path) -> Contents:
    files: list[Entry] = []
    problems: list[str] = []
    for above, folders, names in os.walk(path, onerror=lambda error: problems.append(_unread(error))):
        folders.sort()
        here = Path(above).relative_to(path).as_posix()
        for name in sorted(names):
            way = name if here == "." else f"{here}/{name}"
            try:
                found = os.lstat(os.path.join(above, name))  # noqa: PTH118 - many of them
            except OSError:
                continue
            if not stat.S_ISREG(found.st_mode):  # a link leads elsewhere, and a pipe would be waited for
                continue
            files.append(Entry(way, found.st_size, tuple))
        if len(files) > MOST_FILES:
            raise MemoryError
    listed = _Read(problems)
    listed.look(files, lambda one: cast("IO[bytes]", (path / one.name).open("rb")))
    named = [Entry(one.name.encode("utf-8", "replace").decode(), one.size, tuple) for one in files]
    return listed.contents(named)


def _unread(error: OSError) -> str:
    return f"a folder cannot be looked into: {error.strerror}"


def _usual(path: Path) -> Contents:
    """What the usual places of a disc hold."""
    paths = (*known().texts, *known().images, *(one.path for one in known().answers))
    try:
        with path.open("rb") as file:
            disc = IsoDisc(file)
            reader = UdfDisc(file) if _is_udf(path) else disc
            return _told(file, [*reader.files(paths)], disc.starts(), partly=True)
    except Exception as error:  # noqa: BLE001 - whatever a broken disc makes of it
        return Contents(problems=(_unreadable(error),), partly=True)


def _of_disc(path: Path, *, all_places: bool) -> Contents:
    """What all of a disc holds. Raises `MemoryError` for too much."""
    try:
        head = head_of(path)
        forms = head.forms if head is not None else ()
        with path.open("rb") as file, suppress(ElaborateError):
            disc = IsoDisc(file)
            reader = UdfDisc(file) if "udf" in forms else disc
            files = reader.all_files(MOST_FILES)
            told = (*forms, *(("rock ridge",) if disc.rock_ridge else ()))
            return _told(file, files, disc.starts(), forms=told, all_places=all_places)
        return _of_library(path, all_places=all_places)
    except MemoryError:
        raise
    except Exception as error:  # noqa: BLE001 - whatever a broken disc makes a reader of discs do
        return Contents(problems=(_unreadable(error),))


def _is_udf(path: Path) -> bool:
    head = head_of(path)
    return head is not None and "udf" in head.forms


def _of_library(path: Path, *, all_places: bool) -> Contents:
    """What a disc holds whose directories are in other forms too."""
    from fairledger.media.inside_disc import Disc

    with path.open("rb") as file, closing(Disc(path)) as disc:
        opened = partial(disc.opened, file=file)
        return _told(file, disc.files(), disc.starts(), opened, forms=disc.forms, all_places=all_places)


def _unreadable(error: Exception) -> str:
    return f"its directories cannot be read ({type(error).__name__})"


def _told(
    file: IO[bytes],
    files: list[Entry],
    starts: Iterable[tuple[str, int]],
    opened: Opener | None = None,
    *,
    forms: tuple[str, ...] = (),
    partly: bool = False,
    all_places: bool = False,
) -> Contents:
    """What files tell; ``starts`` are the bytes where those begin that firmware starts."""
    begins: dict[int, str] = {}
    for one in files:
        begins.setdefault(_begin(one), one.name)
    listed = _Read([])
    listed.look(files, opened or (lambda one: cast("IO[bytes]", Within(file, one.stretches(), one.size))))
    told = tuple((how, begins.get(at)) for how, at in starts)
    return listed.contents(files, forms=forms, starts=told, partly=partly, all_places=all_places)


def _of_volume(path: Path, place: int, *, all_places: bool) -> Contents:
    from fairledger.media.inside_fat import files_of

    try:
        label, files = files_of(path, place)
        with path.open("rb") as file:
            listed = _Read([])
            listed.look(files, lambda one: cast("IO[bytes]", Within(file, one.stretches(), one.size)))
            return listed.contents(files, label=label, all_places=all_places)
    except MemoryError:
        raise
    except Exception as error:  # noqa: BLE001 - whatever a broken volume makes a reader of volumes do
        return Contents(problems=(_unreadable(error),))


def _begin(one: Entry) -> int:
    """The byte where a file begins; -1 where nobody knows it."""
    try:
        return one.stretches()[0][0]
    except (ValueError, IndexError, AttributeError):
        return -1


def _places(one: Entry) -> tuple[Stretch, ...] | None:
    try:
        return one.stretches()
    except (ValueError, AttributeError):
        return None


class _Read:
    """What small files tell, the lists of image files, and what trees of packages offer."""

    def __init__(self, problems: list[str]) -> None:
        self._problems = problems
        self._texts: dict[str, bytes] = {}
        self._images: dict[str, ImageFile] = {}
        self._places: dict[str, tuple[Stretch, ...]] = {}
        self._trees = Trees()

    def look(self, files: list[Entry], opened: Opener) -> None:
        """Reads those that tell something, and then those of which these tell."""
        for one in files:
            self._trees.name(one.name)
        self._read(files, opened)
        wanted = self._trees.wanted
        self._read([one for one in files if one.name in wanted], opened)

    def _read(self, files: list[Entry], opened: Opener) -> None:
        for one in files:
            low = one.name.lower()
            try:
                if low in known().texts and one.size <= MOST_TEXT:
                    with opened(one) as file:
                        self._texts[low] = file.read(MOST_TEXT)
                elif low in known().images:
                    with opened(one) as file:
                        self._images[low] = read_images(file, one.size, one.name)
                    self._places[low] = one.stretches()
                elif 0 < one.size <= self._trees.wants(one.name):
                    with opened(one) as file:
                        self._trees.read(one.name, file.read(one.size))
            except FileTroubleError as error:
                self._problems.append(f"{one.name}: {error.message}")
            except Exception as error:  # noqa: BLE001 - whatever a broken disc makes a reader of discs do
                self._problems.append(f"{one.name} cannot be read ({type(error).__name__})")

    def contents(
        self,
        files: Iterable[Entry],
        *,
        label: str | None = None,
        forms: tuple[str, ...] = (),
        starts: tuple[tuple[str, str | None], ...] = (),
        partly: bool = False,
        all_places: bool = False,
    ) -> Contents:
        """All of it."""
        places = {one.name: where for one in files if (where := _places(one)) is not None} if all_places else None
        return Contents(
            label=label,
            forms=forms,
            files=tuple(sorted((one.name, one.size) for one in files)),
            texts=self._texts,
            images=self._images,
            places=self._places if places is None else places,
            starts=starts,
            tree=None if partly else self._trees.told(self._texts.get(".treeinfo", b"")),
            partly=partly,
            problems=tuple(self._problems),
        )


if __name__ == "__main__":
    raise SystemExit(main())
