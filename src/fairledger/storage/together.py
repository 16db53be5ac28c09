"""Several files that are written together: all of them or none, and what stood there stays whole."""

from __future__ import annotations

import os
import re
import tempfile
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from pathlib import Path
from secrets import token_hex

from msgspec import Struct

from fairledger.model.errors import RefusedError
from fairledger.model.pattern import pattern
from fairledger.storage.files import UNFINISHED, into_place, new_mode, ready_folder
from fairledger.storage.looking import entries, is_folder, is_there, trouble

_OURS = pattern(rf"\..+\.[a-z0-9_]{{8}}{UNFINISHED}", re.DOTALL)


class Piece(Struct, frozen=True):
    """A file to be written."""

    path: Path
    data: bytes
    private: bool = False
    """For its owner only."""


def write_together(
    pieces: Sequence[Piece],
    *,
    replace: bool = False,
    stale: Iterable[Path] = (),
    then: Callable[[], None] = lambda: None,
) -> None:
    """Writes all of them or none, and takes ``stale`` files away. ``then`` is done last, and counts as one of them.

    All stand beside their places before the first is moved; each is moved in one step, and what it replaces is kept
    until all are there. Raises `RefusedError` if one exists and may not be replaced, `FileTroubleError`.
    """
    for one in pieces if not replace else ():
        if is_there(one.path):
            raise _exists(one.path)
    staged: list[Path] = []
    kept: dict[Path, Path] = {}
    moved: list[Path] = []
    try:
        for one in pieces:
            ready_folder(one.path)
            staged.append(_beside(one))
        for one in pieces:
            if is_there(one.path):
                kept[one.path] = _kept(one.path)
        for beside, one in zip(staged, pieces, strict=True):
            into_place(beside, one.path, replace=one.path in kept)
            moved.append(one.path)
        then()
        for path in stale:
            path.unlink(missing_ok=True)
    except BaseException as error:
        for path in moved:
            with suppress(OSError):
                kept.pop(path).replace(path) if path in kept else path.unlink()
        if isinstance(error, FileExistsError):
            raise _exists(Path(error.filename2 or error.filename or pieces[0].path)) from error
        if isinstance(error, OSError):
            said = Path(error.filename or pieces[0].path)
            # who reads it knows the file, not the name that it has before it is there
            named = next((one.path for one in pieces if one.path.parent == said.parent), said)
            raise trouble(named if _OURS.fullmatch(said.name) else said, error) from error
        raise
    finally:
        for path in (*staged, *kept.values()):
            path.unlink(missing_ok=True)


def swept(folder: Path) -> None:
    """Takes away what a run that was cut short has left unfinished. Raises `FileTroubleError`."""
    for path in entries(folder, UNFINISHED):
        if _OURS.fullmatch(path.name):
            path.unlink(missing_ok=True)


def _exists(path: Path) -> RefusedError:
    remedy = "allow it with --replace, or name another"
    return RefusedError("the file exists already", file=str(path), remedy=remedy)


def _kept(path: Path) -> Path:
    """What stands there under another name, without a moment in which nothing stands there."""
    other = _free(path)
    try:
        other.hardlink_to(path)
    except OSError:  # the file system has no hard links
        other.write_bytes(path.read_bytes())
    return other


def _beside(one: Piece) -> Path:
    """The whole file in its folder, under a name that nobody looks for; private from its first byte."""
    if is_folder(one.path):
        raise IsADirectoryError(21, "is a folder", str(one.path))
    beside, handle = _new(one.path)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(one.data)
        if not one.private:
            with suppress(PermissionError):  # a stick's file system may know no such rights
                beside.chmod(new_mode(one.path))
    except BaseException:
        beside.unlink(missing_ok=True)
        raise
    return beside


def _new(path: Path) -> tuple[Path, int]:
    """A new file beside another one, for its owner only, open for writing."""
    flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_BINARY", 0) | getattr(os, "O_NOFOLLOW", 0)
    while True:
        beside = path.with_name(f".{path.name[:100]}.{token_hex(4)}{UNFINISHED}")
        with suppress(FileExistsError):
            return beside, os.open(beside, flags, 0o600)


def _free(path: Path) -> Path:
    """A free name beside a file."""
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name[:100]}.")
    os.close(handle)
    Path(name).unlink()
    return Path(name)
