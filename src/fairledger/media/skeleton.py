"""An image file that lies within a disc or a stick, made readable for other programs without being copied.

Only what they read is copied, to its own place in a file that is empty else: header, tables, the list of files of one
image, and then single small files. Source: the vendor's public description of the format (see ``imagefile``).
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from fairledger.media.imagefile import MAGIC
from fairledger.media.stretches import Stretch, Within
from fairledger.model.errors import FileTroubleError

_HEAD = 208
_TABLE, _LIST = 48, 72
"""Where the header says where the table of contents and the list of images stand."""
_PLACE = struct.Struct("<QQQ")
_ROW = struct.Struct("<QQQHI20s")
_OF_FILES, _TOGETHER = 0x02, 0x10
"""Mark the list of an image's files, and what is packed together with others."""
_HEAD_OF_SOLID = 16
_IS_SOLID = 1 << 32
"""Stands in the place of the unpacked size of what holds others, packed together."""
_MOST_TABLE = 256 << 20
_CHUNK = 1 << 20


class Skeleton:
    """The file, of which some is there."""

    def __init__(self, source: Within, path: Path, size: int) -> None:
        self.path = path
        self._source = source
        self._size = size
        with path.open("wb") as file:
            file.truncate(size)

    def take(self, place: int, length: int) -> None:
        """Copies some bytes. Raises `FileTroubleError` for more than can be meant, or past the end."""
        if length > _MOST_TABLE or place + length > self._size:
            raise FileTroubleError("its tables lie outside of it, or are too large", file=str(self.path))
        self._source.seek(place)
        with self.path.open("r+b") as file:
            file.seek(place)
            while length > 0 and (data := self._source.read(min(length, _CHUNK))):
                file.write(data)
                length -= len(data)


@contextmanager
def skeleton_of(medium: Path, stretches: tuple[Stretch, ...], index: int) -> Iterator[Skeleton]:
    """The skeleton with one image's list of files. Raises `FileTroubleError`, `OSError`."""
    size = sum(length for _, length in stretches)
    with medium.open("rb") as file, TemporaryDirectory(prefix="fairledger-") as folder:
        source = Within(file, stretches, size)
        made = Skeleton(source, Path(folder) / "image.wim", size)
        made.take(0, _HEAD)
        source.seek(0)
        head = source.read(_HEAD)
        if len(head) < _HEAD or not head.startswith(MAGIC):
            raise FileTroubleError("this is no image file", file=str(medium))
        for at in (_TABLE, _LIST):
            made.take(*_place(head, at))
        place, length = _place(head, _TABLE)
        source.seek(place)
        rows = list(_rows(source.read(length)))
        for at, _, marks, unpacked in rows:
            if marks & _TOGETHER and unpacked == _IS_SOLID:
                made.take(at, _HEAD_OF_SOLID)
        lists = [row for row in rows if row[2] & _OF_FILES]
        if not 1 <= index <= len(lists):
            raise FileTroubleError(f"it has no list of the files of image {index}", file=str(medium))
        made.take(*lists[index - 1][:2])
        yield made


def _place(head: bytes, at: int) -> Stretch:
    packed, place, _ = _PLACE.unpack_from(head, at)
    return place, packed & ((1 << 56) - 1)


def _rows(table: bytes) -> Iterator[tuple[int, int, int, int]]:
    """Place, bytes, marks and unpacked size of each row."""
    for at in range(0, len(table) - _ROW.size + 1, _ROW.size):
        packed, place, unpacked, *_ = _ROW.unpack_from(table, at)
        yield place, packed & ((1 << 56) - 1), packed >> 56, unpacked
