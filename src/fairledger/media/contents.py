"""What stands on a disc or in a folder, before anybody says what that means."""

from __future__ import annotations

import os
import subprocess
import sys
from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.media.imagefile import ImageFile
from fairledger.model.errors import FileTroubleError

SECONDS = 5
MEMORY = 300 << 20
MOST_FILES = 100_000
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
    starts: tuple[tuple[str, str | None], ...] = ()
    """What starts it (``bios``, ``uefi``) by the boot records, and from which file where that is known."""
    problems: tuple[str, ...] = ()


def contents_of(path: Path) -> Contents:
    """What stands on a disc or in a folder, looked at by another process with little time and memory.

    Raises `FileTroubleError` where that comes to nothing.
    """
    # -P: what lies in the folder where this runs, which may be the medium itself, is never imported
    command = [sys.executable, "-P", "-m", "fairledger.media.inside", str(path)]
    try:
        done = subprocess.run(  # noqa: S603 - our own module
            command, capture_output=True, timeout=SECONDS, check=False, stdin=subprocess.DEVNULL
        )
    except subprocess.TimeoutExpired as error:
        raise _too_much(path) from error
    except OSError as error:
        raise FileTroubleError("it cannot be looked at: no process can be begun", file=str(path)) from error
    if done.returncode == _TOO_MUCH or done.returncode < 0:
        raise _too_much(path)
    try:
        return msgspec.msgpack.decode(done.stdout, type=Contents)
    except msgspec.DecodeError as error:
        raise FileTroubleError("it cannot be looked at", file=str(path), remedy="is it copied whole?") from error


_TOO_MUCH = 9


def _too_much(path: Path) -> FileTroubleError:
    remedy = "name the image file in it, or a folder with less"
    return FileTroubleError("there are too many files to be looked into", file=str(path), remedy=remedy)


def narrowed() -> None:
    """Takes the memory from this process that it shall not have, where the system can do so."""
    if os.name != "posix":
        return
    import resource

    for limit in (resource.RLIMIT_DATA, resource.RLIMIT_CPU):
        value = MEMORY if limit == resource.RLIMIT_DATA else SECONDS + 1
        resource.setrlimit(limit, (value, value))
