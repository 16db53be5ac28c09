"""The volumes of a stick: what stands in front of its file systems, and which these are.

Sources: the UEFI specification (GPT, and the table of older firmware), and the vendor's descriptions of FAT and exFAT.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from pathlib import Path
from typing import IO, NamedTuple

from msgspec import Struct

from fairledger.storage.looking import trouble

_SECTORS = (512, 4096)
_MOST_ENTRIES = 128
_EXTENDED = (0x05, 0x0F, 0x85)
_GUARD = 0xEE
FAT = "FAT"


class Volume(Struct, frozen=True, kw_only=True):
    """A file system in a file."""

    place: int
    """Where it begins, in bytes."""
    size: int
    form: str
    """``FAT``, ``exFAT``, ``NTFS``; empty where nobody knows it."""
    label: str | None = None


class Partition(NamedTuple):
    """A row of a partition table."""

    number: int
    place: int
    """Where it begins, in bytes."""
    size: int
    kind: str
    """``0xef`` and the like, or the 32 digits of a GUID in the order of its bytes."""


class Stick(Struct, frozen=True, kw_only=True):
    """What the first sectors of a stick tell."""

    table: str
    """``mbr`` or ``gpt``; empty where one file system fills it all."""
    volumes: tuple[Volume, ...]


def stick_of(path: Path) -> Stick | None:
    """The volumes of a stick's image; None where it is none. Raises `FileTroubleError` where nothing can be read."""
    try:
        with path.open("rb") as file:
            size = file.seek(0, 2)
            whole = _volume(file, 0, size)
            if whole.form:
                return Stick(table="", volumes=(whole,))
            table, places = _partitions(file, size)
            # what points past the end belongs to another stick, or to nothing
            found = [_volume(file, one.place, min(one.size, size - one.place)) for one in places if one.place < size]
    except OSError as error:
        raise trouble(path, error) from error
    return Stick(table=table, volumes=tuple(found)) if found else None


def volume_of(stick: Stick | None) -> Volume | None:
    """The volume of a stick that is looked into: its largest one with FAT."""
    readable = [one for one in stick.volumes if one.form == FAT] if stick is not None else []
    return max(readable, key=lambda one: one.size, default=None)


def table_of(path: Path) -> str:
    """The kind of partition table in front of a disc that is a stick as well; empty without one."""
    return partitions_of(path)[0]


def holds_fat(path: Path, place: int) -> bool:
    """Whether a volume with FAT begins at a byte of a file. Raises `FileTroubleError`."""
    try:
        with path.open("rb") as file:
            return _volume(file, place, 0).form == FAT
    except OSError as error:
        raise trouble(path, error) from error


def partitions_of(path: Path) -> tuple[str, list[Partition]]:
    """The kind of a partition table (``mbr``, ``gpt``; empty without one), and its rows."""
    try:
        with path.open("rb") as file:
            return _partitions(file, file.seek(0, 2))
    except OSError as error:
        raise trouble(path, error) from error


def _partitions(file: IO[bytes], size: int) -> tuple[str, list[Partition]]:
    for sector in _SECTORS:
        file.seek(sector)
        head = file.read(92)
        if head[:8] == b"EFI PART" and len(head) == 92:
            return "gpt", list(_gpt(file, head, sector, size))
    file.seek(0)
    front = file.read(512)
    if len(front) < 512 or front[510:] != b"\x55\xaa":
        return "", []
    rows = [struct.unpack_from("<B3xB3xII", front, 446 + 16 * at) for at in range(4)]
    if any(active not in (0, 0x80) for active, *_ in rows):
        return "", []
    kept = [
        Partition(number, begin * 512, length * 512, f"{kind:#04x}")
        for number, (_, kind, begin, length) in enumerate(rows, 1)
        if kind and length and kind not in _EXTENDED
    ]
    return ("mbr", kept) if any(kind not in (0, _GUARD) for _, kind, *_ in rows) else ("", [])


def _gpt(file: IO[bytes], head: bytes, sector: int, size: int) -> Iterator[Partition]:
    place, count, length = struct.unpack_from("<QII", head, 72)
    if length < 128 or length > 4096 or place * sector >= size:
        return
    file.seek(place * sector)
    rows = file.read(min(count, _MOST_ENTRIES) * length)
    for number, at in enumerate(range(0, len(rows) - 127, length), 1):
        begin, end = struct.unpack_from("<QQ", rows, at + 32)
        if rows[at : at + 16] != bytes(16) and begin <= end:
            yield Partition(number, begin * sector, (end - begin + 1) * sector, rows[at : at + 16].hex())


def _volume(file: IO[bytes], place: int, size: int) -> Volume:
    file.seek(place)
    front = file.read(512)
    name, label = front[3:11], b""
    if name == b"EXFAT   ":
        form = "exFAT"
    elif name == b"NTFS    ":
        form = "NTFS"
    elif len(front) == 512 and front[510:] == b"\x55\xaa" and front[0] in (0xEB, 0xE9) and _is_fat(front):
        form, label = FAT, front[71:82] if front[82:87] == b"FAT32" else front[43:54]
    else:
        form = ""
    told = label.decode("cp437").strip(" \0")
    return Volume(place=place, size=size, form=form, label=told if told and told != "NO NAME" else None)


def _is_fat(front: bytes) -> bool:
    sector, cluster, reserved, copies = struct.unpack_from("<HBHB", front, 11)
    powers = sector in (512, 1024, 2048, 4096) and cluster and cluster & (cluster - 1) == 0
    return bool(powers) and reserved > 0 and copies in (1, 2)
