"""What was seen in images, kept for the next time: under what tells an image apart, checked, and only so much of it."""

from __future__ import annotations

import os
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path
from typing import IO

import msgspec

from fairledger.media.imagefile import MAGIC, MOST_LIST
from fairledger.media.imagestore import Stored
from fairledger.model.errors import LedgerError
from fairledger.storage.files import write_file
from fairledger.storage.looking import changed_at, entries, is_folder, size_of

FORMAT = 2
MOST_KEPT = 40
MOST_BYTES = 16 << 20
ENDING = ".held"
_HEAD = 208
_LIST = 72
_DIGEST = 32


def folder() -> Path:
    """Where it is kept; ``FAIRLEDGER_CACHE`` names another place."""
    told = os.environ.get("FAIRLEDGER_CACHE")
    if told:
        return Path(told)
    from platformdirs import user_cache_path

    return user_cache_path("fairledger") / "media"


def identity(file: IO[bytes], size: int, index: int) -> str:
    """What tells an image apart: its file's header, with the GUID in it, its list of images, and its size."""
    file.seek(0)
    head = file.read(_HEAD)
    if len(head) < _HEAD or not head.startswith(MAGIC):
        return ""
    length = int.from_bytes(head[_LIST : _LIST + 7], "little")
    file.seek(int.from_bytes(head[_LIST + 8 : _LIST + 16], "little"))
    listed = file.read(min(length, MOST_LIST))
    return sha256(b"%d %d %d " % (FORMAT, size, index) + head + listed).hexdigest()


def kept_or(key: str, look: Callable[[], Stored]) -> Stored:
    """What is kept under a key, else what looking tells, which is then kept. Raises what looking raises."""
    place = folder() / f"{key}{ENDING}"
    known = _read(place) if key else None
    if known is None:
        known = look()
        if key and not known.problems:
            _keep(place, known)
    return known


def _read(place: Path) -> Stored | None:
    """What is kept in a file; None where there is none, or it is not what was written."""
    try:
        if size_of(place) > MOST_BYTES:
            return None
        data = place.read_bytes()
        if sha256(data[_DIGEST:]).digest() != data[:_DIGEST]:
            return None
        return msgspec.msgpack.decode(data[_DIGEST:], type=Stored)
    except (OSError, LedgerError, msgspec.DecodeError):
        return None


def _keep(place: Path, stored: Stored) -> None:
    data = msgspec.msgpack.encode(stored)
    if len(data) + _DIGEST > MOST_BYTES:
        return
    try:
        write_file(place, sha256(data).digest() + data, replace=True, private=True)
        others = sorted(entries(place.parent, ENDING), key=changed_at)
        for one in others[:-MOST_KEPT]:
            one.unlink(missing_ok=True)
    except (OSError, LedgerError):
        return  # a folder that cannot be written costs time, and nothing else


def forget() -> int:
    """Takes all of it away. How many there were."""
    if not is_folder(folder()):
        return 0
    kept = entries(folder(), ENDING)
    for one in kept:
        one.unlink(missing_ok=True)
    return len(kept)
