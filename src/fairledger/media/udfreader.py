"""Discs whose directories are written as UDF: single places of them, or all directories.

As with plain discs (`isoreader`), what else there may be is refused (`ElaborateError`), and left to the library.
Source: ECMA-167, and the UDF specification as far as discs of installers use it: one partition, one kind of map.
"""

from __future__ import annotations

import struct
from collections.abc import Iterable, Iterator
from typing import IO

from fairledger.media.isoreader import ElaborateError
from fairledger.media.stretches import Entry, Stretch, Within, merged

_SECTOR = 2048
_ANCHOR = 256
_MOST_DESCRIPTORS = 64
_MOST_DIRECTORY = 64 << 20
_DEEPEST = 60
_POINTER, _PARTITION, _VOLUME, _END = 2, 5, 6, 8
_SET, _NAME, _FILE, _LONG_FILE = 256, 257, 261, 266
_FOLDER, _DELETED, _PARENT = 0x02, 0x04, 0x08
_PLAIN_MAP = 1
_SHORT, _LONG, _INLINE = 0, 1, 3
_LENGTH = 0x3FFFFFFF
_RECORDED = 0


class _Found:
    """What stands in a folder under a name."""

    __slots__ = ("block", "folder", "name")

    def __init__(self, name: str, block: int, *, folder: bool) -> None:
        self.name, self.block, self.folder = name, block, folder


class UdfDisc:
    """A disc, of which only those folders are read that are asked for."""

    def __init__(self, file: IO[bytes]) -> None:
        """``file`` is open and stays so. Raises `ElaborateError`."""
        self._file = file
        self._begin, self._root = self._volume()

    def files(self, paths: Iterable[str]) -> Iterator[Entry]:
        """Those of some paths (in lower case) that are there. Raises `ElaborateError`."""
        known: dict[int, dict[str, _Found]] = {}
        for path in paths:
            here, names, found = self._root, [], None
            for part in path.split("/"):
                if here not in known:
                    known[here] = {one.name.lower(): one for one in self._folder(here)}
                found = known[here].get(part)
                if found is None:
                    break
                names.append(found.name)
                here = found.block
            if found is not None and not found.folder:
                yield self._entry("/".join(names), found.block)

    def all_files(self, most: int) -> list[Entry]:
        """Every file. Raises `MemoryError` for more than that, `ValueError` for folders in each other without end."""
        out: list[Entry] = []
        self._walk(self._root, "", set(), out, most)
        return out

    def _walk(self, block: int, above: str, seen: set[int], out: list[Entry], most: int) -> None:
        if block in seen or above.count("/") > _DEEPEST:
            raise ValueError("folders in each other")
        seen.add(block)
        for found in self._folder(block):
            if found.folder:
                self._walk(found.block, f"{above}{found.name}/", seen, out, most)
            else:
                out.append(self._entry(f"{above}{found.name}", found.block))
            if len(out) > most:
                raise MemoryError

    def _volume(self) -> tuple[int, int]:
        """The sector where the partition begins, and the block of the root folder."""
        anchor = self._sector(_ANCHOR)
        if _tag(anchor) != _POINTER:
            raise ElaborateError
        length, place = struct.unpack_from("<II", anchor, 16)
        begin = descriptor = None
        for at in range(min(length // _SECTOR, _MOST_DESCRIPTORS)):
            data = self._sector(place + at)
            if _tag(data) == _PARTITION and begin is None:
                begin = struct.unpack_from("<I", data, 188)[0]
            elif _tag(data) == _VOLUME:
                descriptor = data
            elif _tag(data) == _END:
                break
        if begin is None or descriptor is None:
            raise ElaborateError
        size, maps = struct.unpack_from("<I", descriptor, 212)[0], struct.unpack_from("<I", descriptor, 268)[0]
        if size != _SECTOR or maps != 1 or descriptor[440] != _PLAIN_MAP:
            raise ElaborateError
        first = struct.unpack_from("<I", descriptor, 252)[0]
        files = self._sector(begin + first)
        if _tag(files) != _SET:
            raise ElaborateError
        return begin, struct.unpack_from("<I", files, 404)[0]

    def _sector(self, number: int) -> bytes:
        self._file.seek(number * _SECTOR)
        data = self._file.read(_SECTOR)
        if len(data) < _SECTOR:
            raise ElaborateError
        return data

    def _record(self, block: int) -> tuple[int, tuple[Stretch, ...]]:
        """The size of a file or folder, and where its bytes lie."""
        data = self._sector(self._begin + block)
        kind = _tag(data)
        if kind not in (_FILE, _LONG_FILE):
            raise ElaborateError
        at = 168 if kind == _FILE else 208
        before, length = struct.unpack_from("<II", data, at)
        begin, size = at + 8 + before, struct.unpack_from("<Q", data, 56)[0]
        form = struct.unpack_from("<H", data, 34)[0] & 7
        if form == _INLINE:
            return size, (((self._begin + block) * _SECTOR + begin, size),)
        step = {_SHORT: 8, _LONG: 16}.get(form)
        if step is None or begin + length > _SECTOR:
            raise ElaborateError
        out: list[Stretch] = []
        for place in range(begin, begin + length - step + 1, step):
            extent, number = struct.unpack_from("<II", data, place)
            if extent & _LENGTH == 0:
                break
            if extent >> 30 != _RECORDED:
                raise ElaborateError  # it goes on elsewhere, or was never written
            out.append(((self._begin + number) * _SECTOR, extent & _LENGTH))
        return size, merged(out)

    def _entry(self, name: str, block: int) -> Entry:
        size, stretches = self._record(block)
        return Entry(name, size, lambda: stretches)

    def _folder(self, block: int) -> Iterator[_Found]:
        size, stretches = self._record(block)
        data = Within(self._file, stretches, min(size, _MOST_DIRECTORY)).read()
        at = 0
        while at + 38 <= len(data):
            if _tag(data[at : at + 16]) != _NAME:
                raise ElaborateError
            marks, width = data[at + 18], data[at + 19]
            inner = struct.unpack_from("<I", data, at + 24)[0]
            used = struct.unpack_from("<H", data, at + 36)[0]
            raw = data[at + 38 + used : at + 38 + used + width]
            at += (38 + used + width + 3) // 4 * 4
            name = _decoded(raw)
            if marks & (_DELETED | _PARENT) or not name or "/" in name or name in (".", ".."):
                continue
            yield _Found(name, inner, folder=bool(marks & _FOLDER))


def _tag(data: bytes) -> int:
    return struct.unpack_from("<H", data)[0] if len(data) >= 2 else 0


def _decoded(raw: bytes) -> str:
    """A name of one or two bytes a character, as its first byte says."""
    if raw[:1] == b"\x10":
        return raw[1:].decode("utf-16-be", "replace")
    return raw[1:].decode("latin-1")
