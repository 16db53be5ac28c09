"""What stands on a disc or in a folder, before anybody says what that means."""

from __future__ import annotations

import os
import subprocess
import sys
from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from fairledger.media.imagefile import ImageFile
from fairledger.media.stretches import Stretch
from fairledger.model.errors import FileTroubleError
from fairledger.model.holdings import TreeFacts
from fairledger.storage.looking import identity_of

SECONDS = 5
MEMORY = 300 << 20
MOST_FILES = 250_000
MOST_TEXT = 1 << 18
"""Bytes of a small file that are read."""


class Finds(Struct, frozen=True, kw_only=True):
    """An answer file that an installer takes without being told."""

    family: str
    path: str
    takes: str
    """How it comes to that, in words."""
    label: str = ""
    """The label of the only volume where it does; empty for any."""
    later: bool = False
    """Whether it is not for the first pass."""


class Known(Struct, frozen=True):
    """The table of files by which a medium is known, by lower-case paths."""

    texts: tuple[str, ...]
    images: tuple[str, ...]
    starts: dict[str, str]
    trees: dict[str, str]
    answers: tuple[Finds, ...]


@cache
def known() -> Known:
    """The table."""
    return msgspec.toml.decode(Path(__file__).with_name("known.toml").read_bytes(), type=Known)


class Contents(Struct, frozen=True, kw_only=True):
    """What stands on a medium."""

    label: str | None = None
    forms: tuple[str, ...] = ()
    """``iso 9660``, ``joliet``, ``rock ridge``, ``udf``; none in a folder."""
    files: tuple[tuple[str, int], ...] = ()
    """Paths with ``/``, and sizes in bytes."""
    texts: dict[str, bytes] = {}
    images: dict[str, ImageFile] = {}
    places: dict[str, tuple[Stretch, ...]] = {}
    """Where the bytes of image files, or of all files, lie in the file that was looked into."""
    starts: tuple[tuple[str, str | None], ...] = ()
    """What starts it (``bios``, ``uefi``) by the boot records, and from which file where that is known."""
    tree: TreeFacts | None = None
    """What its repositories offer; None where none stands there, or nobody knows."""
    partly: bool = False
    """Whether only the usual places were looked at."""
    problems: tuple[str, ...] = ()


def contents_of(path: Path, volume: int | None = None, *, places: bool = False) -> Contents:
    """What stands on a disc, in a folder, or in the volume that begins at a byte of a stick's image.

    It is looked at by another process with little time and memory. Where that is too little, what was found at the
    usual places is told. With ``places`` it is told of all files where they lie. Raises `FileTroubleError` where it
    comes to nothing. Nothing is looked at twice as long as nobody writes into it.
    """
    found = identity_of(path)
    same = (*found, SECONDS, MEMORY) if found is not None else None
    # who knows where all files lie knows the rest as well
    known = (_looked.get((same, volume, True)) or _looked.get((same, volume, places))) if same is not None else None
    if known is None:
        known = _looked_into(path, volume, places=places)
        if same is not None and not known.partly and found == identity_of(path):
            if len(_looked) >= _MOST_LOOKED:
                _looked.clear()
            _looked[same, volume, places] = known
    return known


_looked: dict[tuple[tuple[int, ...], int | None, bool], Contents] = {}
_MOST_LOOKED = 8


def _looked_into(path: Path, volume: int | None, *, places: bool) -> Contents:
    # -P: what lies in the folder where this runs, which may be the medium itself, is never imported
    command = [sys.executable, "-P", "-m", "fairledger.media.inside", str(path)]
    command += ["-" if volume is None else str(volume), *(["places"] if places else [])]
    try:
        done = subprocess.run(  # noqa: S603 - our own module
            command, capture_output=True, timeout=SECONDS, check=False, stdin=subprocess.DEVNULL
        )
        written, over = done.stdout, done.returncode == _TOO_MUCH or done.returncode < 0
    except subprocess.TimeoutExpired as error:
        written, over = error.stdout or b"", True
    except OSError as error:
        raise FileTroubleError("it cannot be looked at: no process can be begun", file=str(path)) from error
    found = _last(written)
    if over and found is None:
        remedy = "name the image file in it, or a folder with less"
        raise FileTroubleError(f"there are {_TOO_MANY}", file=str(path), remedy=remedy)
    if found is None:
        raise FileTroubleError("it cannot be looked at", file=str(path), remedy="is it copied whole?")
    if found.partly:
        told = f"there are {_TOO_MANY}: only the usual places were" if over else "it cannot be looked at as a whole"
        found = replace(found, problems=(*found.problems, told))
    return found


_TOO_MUCH = 9
_TOO_MANY = "too many files to be looked into"


def _last(written: bytes) -> Contents | None:
    """The last of what was written whole."""
    at, found = 0, None
    while at + 8 <= len(written):
        end = at + 8 + int.from_bytes(written[at : at + 8], "little")
        try:
            found = msgspec.msgpack.decode(written[at + 8 : end], type=Contents) if end <= len(written) else found
        except msgspec.DecodeError:
            return found
        at = end
    return found


def narrowed() -> None:
    """Takes the memory from this process that it shall not have, where the system can do so."""
    if os.name != "posix":
        return
    import resource

    for limit in (resource.RLIMIT_DATA, resource.RLIMIT_CPU):
        value = MEMORY if limit == resource.RLIMIT_DATA else SECONDS + 1
        resource.setrlimit(limit, (value, value))
