"""Discs in the form ISO 9660, with the names of Rock Ridge or Joliet: single places of them, or all directories.

A library reads every directory and keeps an object for each entry, which takes a second for ten thousand; most discs
need only what stands here. What they may hold besides is refused (`Elaborate`), and left to the library.
Sources: ECMA-119, and the descriptions of Rock Ridge and El Torito.
"""

from __future__ import annotations

import struct
from collections.abc import Iterable, Iterator
from typing import IO, NamedTuple

from fairledger.media.stretches import Entry, Stretch, merged

_SECTOR = 2048
_FIRST, _MOST = 16, 64
_MOST_DIRECTORY = 64 << 20
_DEEPEST = 60
_UNICODE = (b"%/@", b"%/C", b"%/E")
_BOOT_SECTOR = 17
_BOOT_MARK = b"EL TORITO SPECIFICATION"
_MOST_BOOTS = 32
_BOOT_UNIT = 512
_UEFI = 0xEF
_FOLDER, _GOES_ON = 0x02, 0x80
_LEADS_ELSEWHERE = (b"CL", b"PL", b"RE")
"""Rock Ridge: folders that were moved up since they stood too deep."""


class ElaborateError(Exception):
    """The disc uses what is not read here."""


class _Found(tuple[str, bool, tuple[Stretch, ...]]):
    """A name, whether it is a folder, and where its bytes lie."""

    __slots__ = ()


class BootRecord(NamedTuple):
    """What firmware starts from a disc."""

    firmware: str
    """``bios`` or ``uefi``."""
    place: int
    """The byte where it begins."""
    size: int
    """How many bytes of it are read, which may be fewer than it has."""


def boots_in(file: IO[bytes]) -> Iterator[BootRecord]:
    """The boot records of a disc, in their order."""
    file.seek(_BOOT_SECTOR * _SECTOR)
    record = file.read(_SECTOR)
    if record[:7] != b"\0CD001\1" or record[7:30] != _BOOT_MARK or len(record) < _SECTOR:
        return
    file.seek(struct.unpack_from("<I", record, 71)[0] * _SECTOR)
    rows = file.read(_SECTOR)
    platform = rows[1] if len(rows) == _SECTOR and rows[0] == 1 else None
    left = 1
    for at in range(32, min(len(rows), _MOST_BOOTS * 32), 32):
        kind = rows[at]
        if kind in (0x90, 0x91):
            platform, left = rows[at + 1], struct.unpack_from("<H", rows, at + 2)[0]
        elif kind in (0x88, 0) and left > 0 and platform is not None:
            left -= 1
            if kind == 0x88:
                sectors, begin = struct.unpack_from("<HI", rows, at + 6)
                firmware = "uefi" if platform == _UEFI else "bios"
                yield BootRecord(firmware, begin * _SECTOR, sectors * _BOOT_UNIT)


class IsoDisc:
    """A disc, of which only those folders are read that are asked for."""

    def __init__(self, file: IO[bytes]) -> None:
        """``file`` is open and stays so."""
        self._file = file
        self._known: dict[Stretch, dict[str, _Found]] = {}
        primary, joliet = self._roots()
        self.rock_ridge = primary is not None and self._has_rock_ridge(primary)
        self._wide = joliet is not None and not self.rock_ridge
        self._root = joliet if self._wide else primary

    def files(self, paths: Iterable[str]) -> Iterator[Entry]:
        """Those of some paths (in lower case) that are there. Raises `ElaborateError`."""
        for path in paths:
            found = self._at(path)
            if found is not None:
                yield found

    def all_files(self, most: int) -> list[Entry]:
        """Every file. Raises `MemoryError` for more than that, `ValueError` for folders in each other without end."""
        found: list[Entry] = []
        if self._root is not None:
            self._walk(self._root, "", set(), found, most)
        return found

    def starts(self) -> Iterator[tuple[str, int]]:
        """What the boot records start: the firmware, and the byte where its file begins."""
        for one in boots_in(self._file):
            yield one.firmware, one.place

    def _roots(self) -> tuple[Stretch | None, Stretch | None]:
        """The root folders of the older form and of that with wide names."""
        primary = joliet = None
        for sector in range(_FIRST, _FIRST + _MOST):
            self._file.seek(sector * _SECTOR)
            head = self._file.read(_SECTOR)
            if len(head) < _SECTOR or head[1:6] != b"CD001" or head[0] == 255:
                break
            if head[0] == 2 and head[88:91] in _UNICODE:
                joliet = _stretch(head, 156)
            if head[0] == 1:
                primary = _stretch(head, 156)
        return primary, joliet

    def _has_rock_ridge(self, root: Stretch) -> bool:
        """Whether the root folder's own record begins with its mark. Raises `ElaborateError` for a shifted one."""
        data = self._read(root)
        own = data[: data[0]] if data else b""
        if own[34:36] != b"SP" or own[38:40] != b"\xbe\xef":
            return False
        if own[40] != 0:
            raise ElaborateError
        return True

    def _at(self, path: str) -> Entry | None:
        here, names = self._root, []
        found: _Found | None = None
        for part in path.split("/"):
            found = self._folder(here).get(part) if here is not None else None
            if found is None:
                return None
            name, folder, stretches = found
            names.append(name)
            here = stretches[0] if folder else None
        return _entry("/".join(names), found) if found is not None and not found[1] else None

    def _walk(self, where: Stretch, above: str, seen: set[int], out: list[Entry], most: int) -> None:
        if where[0] in seen or above.count("/") > _DEEPEST:
            raise ValueError("folders in each other")
        seen.add(where[0])
        for found in self._records(self._read(where)):
            name, folder, stretches = found
            if folder:
                self._walk(stretches[0], f"{above}{name}/", seen, out, most)
            else:
                out.append(_entry(f"{above}{name}", found))
            if len(out) > most:
                raise MemoryError

    def _folder(self, where: Stretch) -> dict[str, _Found]:
        """What stands in a folder, by names in lower case."""
        if where not in self._known:
            self._known[where] = {found[0].lower(): found for found in self._records(self._read(where))}
        return self._known[where]

    def _read(self, where: Stretch) -> bytes:
        place, size = where
        self._file.seek(place)
        return self._file.read(min(size, _MOST_DIRECTORY))

    def _records(self, data: bytes) -> Iterator[_Found]:
        at = 0
        before: list[Stretch] = []
        while at < len(data):
            length = data[at]
            if length == 0:  # no record reaches over the end of a sector
                at = (at // _SECTOR + 1) * _SECTOR
                continue
            record = data[at : at + length]
            at += length
            name = self._name(record) if len(record) >= 34 else ""
            if not name:
                continue
            if record[1]:
                raise ElaborateError
            before.append(_stretch(record, 0))
            if record[25] & _GOES_ON:
                continue
            yield _Found((name, bool(record[25] & _FOLDER), merged(before)))
            before = []

    def _name(self, record: bytes) -> str:
        """The name of a record; empty for a folder itself, the one above, and names that lead anywhere else."""
        width = record[32]
        raw = record[33 : 33 + width]
        if raw in (b"\0", b"\1"):
            return ""
        if self._wide:
            name = raw.decode("utf-16-be", "replace").partition(";")[0]
        else:
            rest = record[33 + width + (1 - width % 2) :]
            name = _long(rest) if self.rock_ridge else ""
            name = name or raw.decode("latin-1").partition(";")[0].rstrip(".")
        return "" if "/" in name or name in (".", "..") else name


def _entry(name: str, found: _Found) -> Entry:
    stretches = found[2]
    return Entry(name, sum(length for _, length in stretches), lambda: stretches)


def _stretch(record: bytes, at: int) -> Stretch:
    place, size = struct.unpack_from("<I4xI", record, at + 2)
    return place * _SECTOR, size


def _long(rest: bytes) -> str:
    """The long name of a record. Raises `ElaborateError` where some of it stands elsewhere, as does the folder."""
    out, at = b"", 0
    while at + 4 <= len(rest) and rest[at + 2] >= 4:
        kind = rest[at : at + 2]
        if kind == b"NM":
            out += rest[at + 5 : at + rest[at + 2]]
        elif kind == b"CE" or kind in _LEADS_ELSEWHERE:
            raise ElaborateError
        at += rest[at + 2]
    return out.decode("utf-8", "replace")
