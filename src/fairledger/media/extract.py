"""A medium's files, copied out of it: into a folder, never out of that folder, and never two to one name."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import IO, cast

from fairledger.media.contents import Contents, contents_of
from fairledger.media.programs import Progress
from fairledger.media.stretches import Within
from fairledger.model.errors import FileTroubleError
from fairledger.storage.looking import files_below, is_folder, size_of, trouble

_CHUNK = 4 << 20
_NEVER = frozenset('<>:"|?*\\\0')


def folded(path: str) -> str:
    """What a name comes to on a file system that takes letters of either size for the same."""
    return unicodedata.normalize("NFC", path).casefold()


def must_fit(paths: Iterable[str], file: str) -> None:
    """Raises `FileTroubleError` for names that lead elsewhere, or of which two are one on another file system."""
    seen: dict[str, str] = {}
    for path in paths:
        parts = PurePosixPath(path).parts
        if not parts or path.startswith("/") or ".." in parts or not _NEVER.isdisjoint(path):
            raise FileTroubleError(f"the name {path!r} cannot be copied", file=file, remedy="use another medium")
        other = seen.setdefault(folded(path), path)
        if other != path:
            told = f"{other} and {path} are one name where letters of either size are the same"
            raise FileTroubleError(told, file=file, remedy="use another medium")


class Tree:
    """The files of a disc, or of a folder."""

    def __init__(self, path: Path) -> None:
        """Raises `FileTroubleError` for what cannot be read as a whole."""
        self.path = path
        self._found: Contents | None = None
        if is_folder(path):
            self.sizes = {name: size_of(path / name) for name in files_below(path)}
        else:
            self._found = contents_of(path, places=True)
            if self._found.partly or not self._found.files:
                raise FileTroubleError("its files cannot all be read", file=str(path), remedy="is it copied whole?")
            self.sizes = dict(self._found.files)

    def must_fit(self) -> None:
        """Raises `FileTroubleError` for names that lead elsewhere, or are one but for the size of their letters."""
        must_fit(self.sizes, str(self.path))

    @contextmanager
    def opened(self, name: str) -> Iterator[IO[bytes]]:
        """One of its files. Raises `FileTroubleError`."""
        try:
            if self._found is None:
                with (self.path / name).open("rb") as file:
                    yield file
            else:
                with self.path.open("rb") as file:
                    yield cast("IO[bytes]", Within(file, self._found.places.get(name, ()), self.sizes[name]))
        except OSError as error:
            raise trouble(self.path, error) from error

    def copy(self, name: str, place: Path, count: Counter) -> None:
        """One of them to a place where nothing stands. Raises `FileTroubleError` where it is not all there."""
        place.parent.mkdir(parents=True, exist_ok=True)
        with self.opened(name) as source, place.open("xb") as out:
            while data := source.read(_CHUNK):
                out.write(data)
                count.more(len(data))
        if size_of(place) != self.sizes[name]:
            raise FileTroubleError(f"{name} is not all there", file=str(self.path), remedy="is it copied whole?")


class Counter:
    """How many bytes of all were copied."""

    def __init__(self, whole: int, progress: Progress) -> None:
        self._done, self._whole, self._progress = 0, whole, progress

    def more(self, count: int) -> None:
        """So many more."""
        self._done += count
        self._progress("copied", min(self._done, self._whole), self._whole)


def extracted(path: Path, folder: Path, progress: Progress) -> None:
    """All files of a disc in a folder. Raises `FileTroubleError`."""
    tree = Tree(path)
    tree.must_fit()
    count = Counter(sum(tree.sizes.values()), progress)
    try:
        for name in tree.sizes:
            tree.copy(name, folder / name, count)
    except OSError as error:
        raise trouble(folder, error) from error
