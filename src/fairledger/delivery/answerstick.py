"""Answer discs in the form of a stick: a small volume with FAT that holds an answer file and what belongs to it."""

from __future__ import annotations

import struct
import tempfile
import warnings
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from threading import Lock
from typing import Any

from fairledger.delivery.fill import Made
from fairledger.media.fat_change import files_in
from fairledger.model.errors import FileTroubleError, WrongUseError

_SMALL, _LEAST, _MOST = 1440 << 10, 16 << 20, 512 << 20
"""Bytes: a volume with 12 bits an entry, the least and the most with 16, both far from where one becomes the other."""
_CLUSTER, _ENTRY = 16 << 10, 1 << 10
"""Room that a file takes at most beyond its own, in its clusters and in folders."""
_GEOMETRY = struct.pack("<HH", 32, 64)
_GEOMETRY_AT = 24
_NUMBER = 0x4C4D5246
"""Of every volume: the same files make the same bytes."""
_MOST_LABEL = 11
_LETTERS = frozenset("ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_")
_PATCHED = Lock()


def stick_of(files: Sequence[Made], label: str) -> bytes:
    """The bytes of a volume with FAT. The same files and label make the same bytes.

    Raises `WrongUseError` for a label that none can have and for more than it can hold, `FileTroubleError` where what
    was made does not hold what was meant.
    """
    if not label or len(label) > _MOST_LABEL or not set(label) <= _LETTERS:
        remedy = f"take up to {_MOST_LABEL} capital letters, digits and underscores"
        raise WrongUseError(f"a stick cannot have the label {label!r}", remedy=remedy)
    wanted = sum(len(one.data) + _CLUSTER + _ENTRY for one in files)
    size = _SMALL if sum(len(one.data) + _ENTRY * 2 for one in files) < _SMALL // 2 else max(_LEAST, wanted * 5 // 4)
    if size > _MOST:
        raise WrongUseError(f"it would have {size:,} bytes", remedy="make it as a disc: leave --as fat out")
    with tempfile.TemporaryDirectory(prefix="fairledger-") as folder:
        path = Path(folder) / "stick.img"
        path.touch(0o600)
        with _one_moment():
            _make(path, -(-size >> 20) << 20 if size > _SMALL else size, files, label)
        data = bytearray(path.read_bytes())
    _mend(data)
    made = bytes(data)
    if files_in(made) != {one.name: one.data for one in files}:
        raise FileTroubleError("the stick does not hold what was meant", file=label, remedy="make it as a disc")
    return made


def _mend(data: bytearray) -> None:
    """What the library leaves out, and other programs want: the shape of a disk, and how a table of clusters begins."""
    data[_GEOMETRY_AT : _GEOMETRY_AT + 4] = _GEOMETRY
    sector, reserved, copies, size = struct.unpack_from("<HxHBxxxxxH", data, 11)
    for copy in range(copies):
        at = (reserved + copy * size) * sector
        data[at + 1 : at + 3] = b"\xff\xff"


def _make(path: Path, size: int, files: Sequence[Made], label: str) -> None:
    from pyfatfs.PyFat import PyFat
    from pyfatfs.PyFatFS import PyFatFS

    warnings.simplefilter("ignore")
    kind = PyFat.FAT_TYPE_FAT12 if size == _SMALL else PyFat.FAT_TYPE_FAT16
    empty = PyFat()
    empty.mkfs(str(path), fat_type=kind, size=size, label=label, volume_id=_NUMBER)
    empty.close()
    volume: Any = PyFatFS(str(path))
    try:
        for one in files:
            above = PurePosixPath(one.name).parent
            if str(above) != ".":
                volume.makedirs(f"/{above}", recreate=True)
            with volume.openbin(f"/{one.name}", "w") as file:
                file.write(one.data)
    finally:
        volume.close()


@contextmanager
def _one_moment() -> Iterator[None]:
    """Lets the library see one moment, which it writes beside every name."""
    import pyfatfs.DosDateTime
    import pyfatfs.PyFatFS

    known: Any = pyfatfs.DosDateTime.DosDateTime
    now = known.now
    with _PATCHED:
        known.now = staticmethod(lambda tz=None: known(2000, 1, 1))  # noqa: ARG005 - as it is called
        try:
            yield
        finally:
            known.now = now
