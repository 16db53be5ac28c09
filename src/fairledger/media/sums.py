"""Whether a medium is what its maker wrote: the sums that it carries itself.

They tell a bad copy, not a forgery: whoever changes a file can change its sum as well.
Sources: ``isomd5sum`` (the sum that installers of its family put into a disc's head), ``.treeinfo``, lists of sums as
``md5sum`` and ``sha256sum`` write them, and the integrity table of image files.
"""

from __future__ import annotations

import hashlib
import struct
from collections.abc import Callable, Iterator, Mapping
from configparser import ConfigParser
from configparser import Error as ConfigError
from contextlib import AbstractContextManager
from pathlib import Path
from typing import IO, cast

from msgspec import Struct

from fairledger.media.contents import Contents, contents_of
from fairledger.media.disc import head_of
from fairledger.media.imagefile import MAGIC
from fairledger.media.stretches import Within
from fairledger.media.volumes import stick_of, volume_of
from fairledger.model.errors import FileTroubleError
from fairledger.model.pattern import pattern
from fairledger.storage.looking import inside, is_file, is_folder, must_be_file, size_of, trouble

Progress = Callable[[str, int, int], None]
"""Told what is summed, how many bytes of it, and of how many."""
_CHUNK = 1 << 20
_SECTOR = 2048
_PRIMARY = 16 * _SECTOR
_APPLICATION, _APPLICATION_SIZE = 883, 512
_DISC_SIZE = 80
_IMPLANTED = pattern(r"ISO MD5SUM = ([0-9a-f]{32});SKIPSECTORS = ([0-9]{1,6})")
_TABLE, _INTEGRITY = 48, 124
_HEAD = 208
_LISTS = (("md5sum.txt", "md5"), ("md5sums", "md5"), ("sha256sum.txt", "sha256"), ("sha256sums", "sha256"))
_LINE = pattern(r"([0-9a-fA-F]{32,128}) [ *]?(.+)")
_SKIPPED = 15
"""Sectors at the end that are left out of a disc's own sum, as its makers do."""
_PARTS, _OF_EACH, _PIECE = 20, 3, 32768
"""How many parts have short sums, how many digits each, and in which pieces a disc is summed for them."""
_KINDS = ("md5", "sha1", "sha256", "sha512")
_MOST_LIST = 16 << 20
_MOST_ROWS = 1 << 20


class Summed(Struct, frozen=True):
    """Something whose sum was worked out."""

    what: str
    kind: str
    holds: bool | None
    """Whether it is the one that the medium carries; None where that could not be told."""
    why: str = ""
    whole: bool = False
    """Whether it is of all that the medium holds, and not of one of its files."""


def sums_of(path: Path, progress: Progress = lambda _what, _done, _of: None) -> Iterator[Summed]:
    """Works out what the medium carries sums of; nothing comes where it carries none. Raises `FileTroubleError`."""
    try:
        if is_folder(path):
            yield from _of_files(_InFolder(path), progress)
            return
        must_be_file(path)
        size = size_of(path)
        with path.open("rb") as file:
            if file.read(len(MAGIC)) == MAGIC:
                yield from _integrity(file, size, path.name, progress)
                return
            whole = list(_implanted(file, size, path.name, progress))
            yield from whole
            if not whole:
                yield from _of_files(_within(path, file), progress)
    except OSError as error:
        raise trouble(path, error) from error


class _InFolder:
    """The files of a folder."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def size(self, name: str) -> int | None:
        """A file's bytes; None where there is no such file, or it leads elsewhere."""
        place = self._folder / name
        return size_of(place) if inside(self._folder, name) and is_file(place) else None

    def readable(self, name: str) -> bool:  # noqa: ARG002 - a folder's files can be read
        """Whether it is known where the file lies."""
        return True

    def open(self, name: str) -> AbstractContextManager[IO[bytes]]:
        """One of them."""
        return (self._folder / name).open("rb")


class _InDisc:
    """The files of a disc or a stick."""

    def __init__(self, file: IO[bytes], found: Contents) -> None:
        self._file = file
        self._sizes = dict(found.files)
        self._places = found.places

    def size(self, name: str) -> int | None:
        """A file's bytes; None where there is no such file."""
        return self._sizes.get(name)

    def readable(self, name: str) -> bool:
        """Whether it is known where the file lies."""
        return name in self._places

    def open(self, name: str) -> AbstractContextManager[IO[bytes]]:
        """One of them."""
        return cast("IO[bytes]", Within(self._file, self._places[name], self._sizes[name]))


def _within(path: Path, file: IO[bytes]) -> _InDisc:
    volume = volume_of(stick_of(path)) if head_of(path) is None else None
    if volume is None and head_of(path) is None:
        raise FileTroubleError("this is no medium that can be looked at", file=str(path))
    found = contents_of(path, volume.place if volume is not None else None, places=True)
    if found.partly or (found.problems and not found.files):
        raise FileTroubleError(f"its files cannot be summed: {found.problems[-1]}", file=str(path))
    return _InDisc(file, found)


def _implanted(file: IO[bytes], size: int, name: str, progress: Progress) -> Iterator[Summed]:
    file.seek(_PRIMARY)
    head = file.read(_SECTOR)
    found = _IMPLANTED.search(head[_APPLICATION : _APPLICATION + _APPLICATION_SIZE].decode("latin-1"))
    if found is None or head[1:6] != b"CD001":
        return
    whole = struct.unpack_from("<I", head, _DISC_SIZE)[0] * _SECTOR
    wanted = whole - int(found[2]) * _SECTOR
    if not 0 < wanted <= size:
        yield Summed(name, "md5", holds=False, why=f"the disc has {whole:,} bytes, and the file {size:,}")
        return
    told = hashlib.md5(usedforsecurity=False)
    # the sum was worked out when there were blanks in its own place
    blank = range(_PRIMARY + _APPLICATION, _PRIMARY + _APPLICATION + _APPLICATION_SIZE)
    file.seek(0)
    told.update(file.read(min(blank.start, wanted)))
    told.update(b" " * max(0, min(blank.stop, wanted) - blank.start))
    file.seek(blank.stop)
    _rest(file, told.update, blank.stop, wanted, name, progress)
    yield Summed(name, "md5", holds=told.hexdigest() == found[1], whole=True)


def is_implanted(path: Path) -> bool:
    """Whether a disc carries its own sum. Raises `FileTroubleError`."""
    try:
        with path.open("rb") as file:
            file.seek(_PRIMARY + _APPLICATION)
            return _IMPLANTED.search(file.read(_APPLICATION_SIZE).decode("latin-1")) is not None
    except OSError as error:
        raise trouble(path, error) from error


def implanted(path: Path, progress: Progress = lambda _what, _done, _of: None) -> None:
    """Puts a disc's own sum into its head, where installers of its family look for it. Raises `FileTroubleError`.

    With it go short sums of its parts, by which a bad copy is told sooner.
    """
    try:
        with path.open("r+b") as file:
            file.seek(_PRIMARY + _DISC_SIZE)
            wanted = struct.unpack("<I", file.read(4))[0] * _SECTOR - _SKIPPED * _SECTOR
            file.seek(_PRIMARY + _APPLICATION)
            file.write(b" " * _APPLICATION_SIZE)
            file.seek(0)
            told, parts = _summed_by_parts(file, wanted, progress)
            text = f"ISO MD5SUM = {told};SKIPSECTORS = {_SKIPPED};RHLISOSTATUS=0;FRAGMENT SUMS = {parts};"
            text += f"FRAGMENT COUNT = {_PARTS};"
            file.seek(_PRIMARY + _APPLICATION)
            file.write(text.encode().ljust(_APPLICATION_SIZE))
    except OSError as error:
        raise trouble(path, error) from error


def _summed_by_parts(file: IO[bytes], wanted: int, progress: Progress) -> tuple[str, str]:
    """The sum of a disc, and what of it is kept for each of its parts: the first digits of its first three bytes."""
    told, parts, at, before = hashlib.md5(usedforsecurity=False), "", 0, 0
    part = max(1, wanted // (_PARTS + 1))
    while at < wanted and (data := file.read(min(_PIECE, wanted - at))):
        told.update(data)
        if at // part != before:
            before = at // part
            parts += "".join(f"{one:x}"[0] for one in told.digest()[:_OF_EACH])
        at += len(data)
        progress("summed", at, wanted)
    return told.hexdigest(), parts[: _PARTS * _OF_EACH]


def renewed(lists: Mapping[str, bytes], changed: Mapping[str, bytes]) -> dict[str, bytes]:
    """Lists of sums that stand on a medium, by their paths, with those of files that changed; only such lists."""
    out = {}
    for path, data in lists.items():
        text = data.decode("utf-8", "surrogateescape")
        new = "".join(_with_sum(line, changed) for line in text.splitlines(keepends=True))
        if new != text:
            out[path] = new.encode("utf-8", "surrogateescape")
    return out


def _with_sum(line: str, changed: Mapping[str, bytes]) -> str:
    """A line of a list, with the sum of the file that it names."""
    row = _LINE.fullmatch(line.strip())
    if row is not None:
        name, old = row[2].removeprefix("./"), row[1]
        kind = next((one for one in _KINDS if hashlib.new(one).digest_size * 2 == len(old)), "")
    else:
        before, _, told = line.partition("=")
        name, (kind, _, old) = before.strip(), told.strip().partition(":")
    if name not in changed or kind not in _KINDS or not old:
        return line
    digest = hashlib.new(kind, changed[name], usedforsecurity=False).hexdigest()
    begin = line.rindex(old) if row is None else line.index(old)
    return line[:begin] + digest + line[begin + len(old) :]


def is_list(path: str) -> bool:
    """Whether a file is a list of the sums of others, by its path on the medium."""
    return path.lower() == ".treeinfo" or path.lower() in dict(_LISTS)


def _rest(file: IO[bytes], update: Callable[[bytes], None], at: int, end: int, name: str, progress: Progress) -> None:
    while at < end and (data := file.read(min(_CHUNK, end - at))):
        update(data)
        at += len(data)
        progress(name, at, end)


def _integrity(file: IO[bytes], size: int, name: str, progress: Progress) -> Iterator[Summed]:
    """The sums of pieces from the header's end to that of the table of contents."""
    file.seek(0)
    head = file.read(_HEAD)
    if len(head) < _HEAD:
        return
    length = int.from_bytes(head[_INTEGRITY : _INTEGRITY + 7], "little")
    place = int.from_bytes(head[_INTEGRITY + 8 : _INTEGRITY + 16], "little")
    if length == 0:
        return
    table, begin = int.from_bytes(head[_TABLE : _TABLE + 7], "little"), int.from_bytes(head[56:64], "little")
    end = begin + table
    if place + length > size or length < 12 or length > _MOST_LIST or end > size:
        yield Summed(name, "sha1", holds=False, why="its table of sums lies outside of it: it was not copied whole")
        return
    file.seek(place)
    told = file.read(length)
    own, count, piece = struct.unpack_from("<III", told)
    if own != length or piece == 0 or count * 20 + 12 > length or count != -(-(end - _HEAD) // piece):
        yield Summed(name, "sha1", holds=False, why="its table of sums is damaged")
        return
    for number in range(count):
        at = _HEAD + number * piece
        file.seek(at)
        digest = hashlib.sha1(usedforsecurity=False)
        _rest(file, digest.update, at, min(at + piece, end), name, lambda _what, _done, _of: None)
        progress(name, min(at + piece, end), end)
        if digest.digest() != told[12 + number * 20 : 32 + number * 20]:
            why = f"what stands from byte {at:,} on is not what was written"
            yield Summed(name, "sha1", holds=False, why=why)
            return
    yield Summed(name, "sha1", holds=True, whole=True)


def _of_files(medium: _InFolder | _InDisc, progress: Progress) -> Iterator[Summed]:
    for name, kind, wanted in _listed(medium):
        size = medium.size(name)
        if size is None:
            yield Summed(name, kind, holds=False, why="it is not there")
            continue
        if not medium.readable(name):
            yield Summed(name, kind, holds=None, why="nobody knows where it lies")
            continue
        digest = hashlib.new(kind, usedforsecurity=False)
        with medium.open(name) as file:
            _rest(file, digest.update, 0, size, name, progress)
        yield Summed(name, kind, holds=digest.hexdigest() == wanted)


def _listed(medium: _InFolder | _InDisc) -> Iterator[tuple[str, str, str]]:
    """Files with the kind of sum and the sum that lists on the medium have for them."""
    parser = ConfigParser(interpolation=None, strict=False)
    parser.optionxform = str  # type: ignore[assignment, method-assign]
    try:
        parser.read_string(_text(medium, ".treeinfo"))
    except ConfigError:
        parser.clear()
    for name, told in parser.items("checksums") if parser.has_section("checksums") else ():
        kind, _, digest = told.partition(":")
        if kind in _KINDS:
            yield name, kind, digest.strip().lower()
    for name, kind in _LISTS:
        for line in (_text(medium, name) or _text(medium, name.upper())).splitlines()[:_MOST_ROWS]:
            found = _LINE.fullmatch(line.strip())
            if found is not None and len(found[1]) == hashlib.new(kind).digest_size * 2:
                yield found[2].removeprefix("./"), kind, found[1].lower()


def _text(medium: _InFolder | _InDisc, name: str) -> str:
    """A list; empty where it does not stand there."""
    if medium.size(name) is None or not medium.readable(name):
        return ""
    with medium.open(name) as file:
        return file.read(_MOST_LIST).decode("utf-8", "replace")
