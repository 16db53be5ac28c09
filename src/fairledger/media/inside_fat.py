"""Looking into a volume with FAT, in the process that may be killed."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from functools import partial
from itertools import islice
from pathlib import Path
from typing import Any

from pyfatfs.PyFat import PyFat

from fairledger.media.contents import MOST_FILES
from fairledger.media.stretches import Entry, Stretch, merged

_DEEPEST = 60
_FEWEST_FAT16 = 4085
_LOWER_NAME, _LOWER_ENDING = 0x08, 0x10
"""Marks of short names that are written in small letters."""


class _Table:
    """The table of clusters, each entry read when it is asked for: a large stick has millions."""

    def __init__(self, data: bytes, bits: int) -> None:
        self._data = data
        self._bits = bits
        self._count = len(data) * 8 // bits

    def __len__(self) -> int:
        return self._count

    def __getitem__(self, at: int) -> int:
        if not 0 <= at < self._count:
            raise IndexError(at)
        if self._bits == 12:
            low = at + at // 2
            pair = int.from_bytes(self._data[low : low + 2], "little")
            return pair >> 4 if at % 2 else pair & 0xFFF
        width = self._bits // 8
        return int.from_bytes(self._data[at * width : (at + 1) * width], "little") & 0x0FFFFFFF


class _Volume(PyFat):  # type: ignore[misc]
    """A volume whose table is neither unpacked nor followed in circles."""

    def __init__(self, path: Path, place: int) -> None:
        super().__init__(offset=place)
        self._from = path, place
        self.open(str(path), read_only=True)

    def _parse_fat(self) -> None:
        path, place = self._from
        self.fat_type = self._bits()
        sector = self.bpb_header["BPB_BytsPerSec"]
        self.bytes_per_cluster = sector * self.bpb_header["BPB_SecPerClus"]
        with path.open("rb") as file:
            file.seek(place + self.bpb_header["BPB_RsvdSecCnt"] * sector)
            self.fat = _Table(file.read(self._fat_size * sector), self.fat_type)

    def _bits(self) -> int:
        """How wide the table's entries are, which the number of clusters alone decides. (The vendor's description.)

        The library forgets the room of the root folder, and so takes the wrong width near the border.
        """
        head = self.bpb_header
        if not head["BPB_FATSz16"]:
            return int(self.FAT_TYPE_FAT32)
        sectors = head["BPB_TotSec16"] or head["BPB_TotSec32"]
        clusters = (sectors - self.first_data_sector) // head["BPB_SecPerClus"]
        return int(self.FAT_TYPE_FAT12 if clusters < _FEWEST_FAT16 else self.FAT_TYPE_FAT16)

    def get_cluster_chain(self, first_cluster: int) -> Iterator[int]:
        """A file's clusters; never more than there are."""
        yield from islice(super().get_cluster_chain(first_cluster), len(self.fat))


def files_of(path: Path, place: int) -> tuple[str | None, list[Entry]]:
    """The volume's own label, and its files. Raises whatever the library raises."""
    warnings.simplefilter("ignore")
    volume = _Volume(path, place)
    found: list[Entry] = []
    labels: list[str] = []
    _walk(volume, volume.root_dir, "", 0, found, labels, place)
    return next(iter(labels), None), found


def _walk(volume: Any, folder: Any, above: str, depth: int, found: list[Entry], labels: list[str], place: int) -> None:
    if depth > _DEEPEST:
        raise ValueError("too deep")
    folders, files, specials = folder.get_entries()
    if depth == 0:
        labels += [_title(one) for one in specials if one.is_volume_id()]
    for one in files:
        name = name_of(one)
        if "/" in name or name in (".", "..") or one.is_volume_id():
            continue
        found.append(Entry(f"{above}{name}", one.get_size(), partial(_stretches, volume, one, place)))
        if len(found) > MOST_FILES:
            raise MemoryError
    for one in folders:
        name = name_of(one)
        if "/" not in name and name not in (".", ".."):
            _walk(volume, one, f"{above}{name}/", depth + 1, found, labels, place)


def name_of(one: Any) -> str:
    """A long name, or a short one in the letters in which it was written."""
    if one.lfn_entry is not None:
        return str(one)
    name, dot, ending = str(one).partition(".")
    name = name.lower() if one.ntres & _LOWER_NAME else name
    return name + dot + (ending.lower() if one.ntres & _LOWER_ENDING else ending)


def _title(one: Any) -> str:
    """A label: it has no dot between its first eight characters and the rest."""
    return bytes(one.name.name).decode("cp437", "replace").rstrip(" \0")


def _stretches(volume: Any, one: Any, place: int) -> tuple[Stretch, ...]:
    size, cluster = one.get_size(), volume.bytes_per_cluster
    if size == 0:
        return ()
    chain = islice(volume.get_cluster_chain(one.get_cluster()), size // cluster + 1)
    return merged((place + volume.get_data_cluster_address(at), cluster) for at in chain)
