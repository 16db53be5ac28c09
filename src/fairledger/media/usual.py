"""The usual places of a disc, found without reading its other directories. (ECMA-119; the Rock Ridge names in it.)"""

from __future__ import annotations

import struct
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import IO

from fairledger.media.stretches import Entry, Stretch

_SECTOR = 2048
_FIRST, _MOST = 16, 64
_MOST_DIRECTORY = 4 << 20
_UNICODE = (b"%/@", b"%/C", b"%/E")
_BOOT_SECTOR = 17
_BOOT_MARK = b"EL TORITO SPECIFICATION"
_MOST_BOOTS = 32
_UEFI = 0xEF


class Usual:
    """A disc of which only the folders on the way to what is asked for are read."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file = file
        self._known: dict[tuple[int, int], dict[str, tuple[str, bool, Stretch]]] = {}
        self._root, self._wide = self._roots()

    def files(self, paths: Iterable[str]) -> Iterator[Entry]:
        """Those of some paths (in lower case) that are there."""
        for path in paths:
            found = self._at(path)
            if found is not None:
                name, stretch = found
                yield Entry(name, stretch[1], lambda stretch=stretch: (stretch,))  # type: ignore[misc]

    def starts(self) -> Iterator[tuple[str, int]]:
        """What the boot records start: the firmware, and the byte where its file begins. (El Torito.)"""
        self._file.seek(_BOOT_SECTOR * _SECTOR)
        record = self._file.read(_SECTOR)
        if record[:7] != b"\0CD001\1" or record[7:30] != _BOOT_MARK or len(record) < _SECTOR:
            return
        self._file.seek(struct.unpack_from("<I", record, 71)[0] * _SECTOR)
        rows = self._file.read(_SECTOR)
        platform = rows[1] if len(rows) == _SECTOR and rows[0] == 1 else None
        left = 1
        for at in range(32, min(len(rows), _MOST_BOOTS * 32), 32):
            kind = rows[at]
            if kind in (0x90, 0x91):
                platform, left = rows[at + 1], struct.unpack_from("<H", rows, at + 2)[0]
            elif kind in (0x88, 0) and left > 0 and platform is not None:
                left -= 1
                if kind == 0x88:
                    begin = struct.unpack_from("<I", rows, at + 8)[0]
                    yield "uefi" if platform == _UEFI else "bios", begin * _SECTOR
            if kind == 0x91 and left == 0:
                return

    def _roots(self) -> tuple[Stretch | None, bool]:
        """The root folder, of the form with long names where there is one, and whether it is that."""
        root: Stretch | None = None
        for sector in range(_FIRST, _FIRST + _MOST):
            self._file.seek(sector * _SECTOR)
            head = self._file.read(_SECTOR)
            if len(head) < _SECTOR or head[1:6] != b"CD001" or head[0] == 255:
                break
            if head[0] == 2 and head[88:91] in _UNICODE:
                return _stretch(head, 156), True
            if head[0] == 1:
                root = _stretch(head, 156)
        return root, False

    def _at(self, path: str) -> tuple[str, Stretch] | None:
        here, names = self._root, []
        for part in path.split("/"):
            found = self._folder(here).get(part) if here is not None else None
            if found is None:
                return None
            name, folder, stretch = found
            names.append(name)
            here = stretch if folder else None
        return None if here is not None else ("/".join(names), stretch)

    def _folder(self, where: Stretch) -> dict[str, tuple[str, bool, Stretch]]:
        """What stands in a folder, by names in lower case."""
        if where not in self._known:
            place, size = where
            self._file.seek(place)
            data = self._file.read(min(size, _MOST_DIRECTORY))
            self._known[where] = {name.lower(): (name, *rest) for name, *rest in self._records(data)}  # type: ignore[misc]
        return self._known[where]

    def _records(self, data: bytes) -> Iterator[tuple[str, bool, Stretch]]:
        at = 0
        while at < len(data):
            length = data[at]
            if length == 0:  # no record reaches over the end of a sector
                at = (at // _SECTOR + 1) * _SECTOR
                continue
            record = data[at : at + length]
            at += length
            if len(record) < 34:
                continue
            width = record[32]
            raw, rest = record[33 : 33 + width], record[33 + width + (1 - width % 2) :]
            if raw in (b"\0", b"\1"):
                continue
            name = raw.decode("utf-16-be" if self._wide else "latin-1", "replace").partition(";")[0]
            name = (None if self._wide else _long(rest)) or (name if self._wide else name.rstrip("."))
            if name and "/" not in name and name not in (".", ".."):
                yield name, bool(record[25] & 2), _stretch(record, 0)


def _stretch(record: bytes, at: int) -> Stretch:
    place, size = struct.unpack_from("<I4xI", record, at + 2)
    return place * _SECTOR, size


def _long(rest: bytes) -> str:
    """The long name of a record; empty where it stands elsewhere."""
    out, at = b"", 0
    while at + 4 <= len(rest) and rest[at + 2] >= 4:
        if rest[at : at + 2] == b"NM":
            out += rest[at + 5 : at + rest[at + 2]]
        at += rest[at + 2]
    return out.decode("utf-8", "replace")


def usual_of(path: Path, paths: Iterable[str]) -> tuple[list[Entry], list[tuple[str, int]]]:
    """The files of some paths that a disc has, and what its boot records start. Raises `OSError`."""
    with path.open("rb") as file:
        disc = Usual(file)
        return list(disc.files(paths)), list(disc.starts())
