"""Looking into a disc, in the process that may be killed."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import AbstractContextManager
from functools import partial
from operator import methodcaller
from pathlib import Path
from typing import IO, Any, cast

from fairledger.media.contents import MOST_FILES
from fairledger.media.stretches import Entry, Stretch, Within, merged

_DEEPEST = 60
_SECTOR = 2048
_UEFI = 0xEF
_FORMS = (("joliet", "has_joliet"), ("rock ridge", "has_rock_ridge"), ("udf", "has_udf"))
_HOLDS_OTHERS = methodcaller("is_dir")
"""Asks a record of a disc, not the system."""


class Disc:
    """A disc whose directories are all read."""

    def __init__(self, path: Path) -> None:
        """Raises whatever the library raises."""
        import pycdlib

        self._disc: Any = pycdlib.PyCdlib()
        self._file = path.open("rb")
        try:
            self._disc.open_fp(self._file)
        except BaseException:
            self._file.close()
            raise
        disc = self._disc
        way = "udf_path" if disc.has_udf() else "rr_path" if disc.has_rock_ridge() else ""
        self._way = way or ("joliet_path" if disc.has_joliet() else "iso_path")
        self.forms = ("iso 9660", *(name for name, has in _FORMS if getattr(disc, has)()))

    def close(self) -> None:
        """Lets the file go."""
        self._file.close()

    def files(self) -> list[Entry]:
        """Its files. Raises `MemoryError` for too many, `ValueError` for folders in each other without end."""
        found: list[Entry] = []
        for name, record in self._walked("/", 0):
            # a file of several pieces has a record for each, and the library counts the first one only
            pieces = self._stretches(record) if self._way != "udf_path" else ()
            size = sum(length for _, length in pieces) or int(record.get_data_length())
            found.append(Entry(name[1:], size, partial(self._stretches, record)))
            if len(found) > MOST_FILES:
                raise MemoryError
        return found

    def opened(self, one: Entry, file: IO[bytes]) -> AbstractContextManager[IO[bytes]]:
        """A file of it; of those whose record does not tell where it lies, the library's own."""
        try:
            return cast("AbstractContextManager[IO[bytes]]", Within(file, one.stretches(), one.size))
        except ValueError:
            found: AbstractContextManager[IO[bytes]] = self._disc.open_file_from_iso(**{self._way: f"/{one.name}"})
            return found

    def starts(self) -> Iterator[tuple[str, int]]:
        """What the boot records start: the firmware, and the byte where its file begins."""
        catalog = self._disc.eltorito_boot_catalog
        if catalog is None:
            return
        rows = [(catalog.validation_entry.platform_id, [catalog.initial_entry])]
        rows += [(section.platform_id, section.section_entries) for section in catalog.sections]
        for platform, entries in rows:
            for entry in entries:
                yield "uefi" if platform == _UEFI else "bios", int(entry.get_rba()) * _SECTOR

    def _walked(self, above: str, depth: int) -> Iterator[tuple[str, Any]]:
        if depth > _DEEPEST:
            raise ValueError("too deep")
        for record in self._disc.list_children(**{self._way: above}):
            name = self._name(record) if record is not None else ""
            if not name:
                continue
            here = f"{above.rstrip('/')}/{name}"
            if _HOLDS_OTHERS(record):
                yield from self._walked(here, depth + 1)
            else:
                yield here, record

    def _name(self, record: Any) -> str:
        """A file's name; empty for a folder itself, the one above, and names that lead anywhere else."""
        way = self._way
        rock_ridge = record.rock_ridge if way == "rr_path" else None
        raw = rock_ridge.name() if rock_ridge is not None else record.file_identifier()
        if raw in (b"", b".", b"..", b"\0", b"\1", b"/"):
            return ""
        encoding = "utf-16-be" if way == "joliet_path" else "utf-8"
        if way == "udf_path":
            encoding = getattr(record.file_ident, "encoding", "") or encoding
        name = str(raw.decode(encoding, "replace"))
        name = name.partition(";")[0].rstrip(".") if way == "iso_path" else name
        return "" if "/" in name else name

    def _stretches(self, record: Any) -> tuple[Stretch, ...]:
        """Where a file's bytes lie. Raises `ValueError` where the record does not tell it."""
        found: list[Stretch] = []
        if self._way != "udf_path":
            one = record
            while one is not None and len(found) <= MOST_FILES:
                found.append((int(one.extent_location()) * _SECTOR, int(one.data_length)))
                one = one.data_continuation
            return merged(found)
        begin = self._disc.udf_main_descs.partitions[0].part_start_location
        for one in record.alloc_descs:
            if not hasattr(one, "log_block_num") or type(one).__name__ == "UDFInlineAD":
                raise ValueError("its bytes stand in its record")
            found.append(((begin + one.log_block_num) * _SECTOR, one.extent_length & 0x3FFFFFFF))
        return merged(found)
