"""A file within another one: the stretches of bytes that it is made of."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable
from typing import IO, NamedTuple

Stretch = tuple[int, int]
"""Where it begins, and how many bytes it has."""


class Entry(NamedTuple):
    """A file on a medium."""

    name: str
    """Its path with ``/``."""
    size: int
    stretches: Callable[[], tuple[Stretch, ...]]
    """Where its bytes lie in the medium's own file."""


def merged(stretches: Iterable[Stretch]) -> tuple[Stretch, ...]:
    """The same bytes in as few stretches as possible."""
    out: list[Stretch] = []
    for place, length in stretches:
        if out and sum(out[-1]) == place:
            out[-1] = (out[-1][0], out[-1][1] + length)
        else:
            out.append((place, length))
    return tuple(out)


class Within(io.RawIOBase):
    """A file that lies in another, to be read; what lies past the other's end reads as nothing."""

    def __init__(self, file: IO[bytes], stretches: Iterable[Stretch], size: int) -> None:
        self._file = file
        self._stretches = tuple(stretches)
        self._size = size
        self._at = 0

    def readable(self) -> bool:
        """It can be read."""
        return True

    def seekable(self) -> bool:
        """Any place of it can be read."""
        return True

    def tell(self) -> int:
        """Where the next byte is read."""
        return self._at

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        """Goes to a place."""
        base = {io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self._size}[whence]
        self._at = max(0, base + offset)
        return self._at

    def read(self, size: int = -1) -> bytes:
        """The next bytes; fewer where it ends."""
        left = max(0, self._size - self._at)
        left = left if size is None or size < 0 else min(size, left)
        out, skipped = [], self._at
        for place, length in self._stretches:
            if skipped >= length:
                skipped -= length
                continue
            if left <= 0:
                break
            self._file.seek(place + skipped)
            data = self._file.read(min(left, length - skipped))
            skipped = 0
            out.append(data)
            self._at += len(data)
            left -= len(data)
            if not data:
                break
        return b"".join(out)
