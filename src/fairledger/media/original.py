"""A disc that is looked at to be made anew: its files, and what firmware starts from it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from fairledger.media.contents import Contents
from fairledger.media.isoreader import BootRecord, boots_in
from fairledger.media.stretches import Stretch, Within
from fairledger.media.sums import is_list
from fairledger.media.volumes import Partition, holds_fat, partitions_of
from fairledger.model.errors import FileTroubleError
from fairledger.storage.looking import size_of, trouble

EFI_PARTITIONS = ("0xef", "28732ac11ff8d211ba4b00a0c93ec93b")
"""Kinds of partitions that firmware starts from. (UEFI specification.)"""
_MOST_IMAGE = 64 << 20
_CODE = 432
"""Bytes of the code in front of a disc; addresses follow, which change with every disc that is made."""


class Original:
    """A disc and what was found on it."""

    def __init__(self, path: Path, found: Contents) -> None:
        """Raises `FileTroubleError` where it cannot be read."""
        self.path, self.found = path, found
        self.sizes = dict(found.files)
        self.size = size_of(path)
        self.table, self.partitions = partitions_of(path)
        self._begins = {places[0][0]: name for name, places in found.places.items() if places and self.sizes[name]}
        try:
            with path.open("rb") as file:
                self.code = file.read(_CODE)
                self.boots: tuple[BootRecord, ...] = tuple(boots_in(file))
        except OSError as error:
            raise trouble(path, error) from error

    def read(self, name: str) -> bytes:
        """A file of it. Raises `FileTroubleError`."""
        return self._bytes(self.found.places.get(name, ()), self.sizes[name])

    def read_partition(self, one: Partition) -> bytes:
        """All of a partition. Raises `FileTroubleError`."""
        return self._bytes(((one.place, one.size),), one.size)

    def _bytes(self, places: tuple[Stretch, ...], size: int) -> bytes:
        try:
            with self.path.open("rb") as file:
                data = Within(file, places, size).read()
        except OSError as error:
            raise trouble(self.path, error) from error
        if len(data) != size:
            raise FileTroubleError("it is not all there", file=str(self.path), remedy="is it copied whole?")
        return data

    def started(self, one: BootRecord) -> str | None:
        """The file that a boot record starts; None for what is no file of the tree."""
        return self._begins.get(one.place)

    def boot_images(self) -> Iterator[str]:
        """Files that are volumes with FAT, as firmware starts them."""
        for name, size in self.found.files:
            if name.lower().endswith(".img") and 512 <= size <= _MOST_IMAGE and holds_fat(self.path, self._place(name)):
                yield name

    def _place(self, name: str) -> int:
        places = self.found.places.get(name, ())
        return places[0][0] if places else 0

    def hidden(self) -> bool:
        """Whether firmware starts something that is neither a file nor a partition."""
        places = {one.place for one in self.partitions}
        return any(self.started(one) is None and one.place not in places for one in self.boots)

    def appended(self) -> Partition | None:
        """A partition behind the tree that firmware starts from; None where that is one of its files, or none."""
        for one in self.partitions:
            if one.kind in EFI_PARTITIONS and one.place not in self._begins and 512 <= one.size <= _MOST_IMAGE:
                return one
        return None

    def lists(self) -> Iterator[str]:
        """Files that hold the sums of others."""
        yield from (name for name in self.sizes if is_list(name))
