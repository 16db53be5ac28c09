"""Deliveries that are cut short: what is put into a folder is noted there before, and taken back next time."""

from __future__ import annotations

from collections.abc import Sequence
from hashlib import sha256
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.model.errors import FileTroubleError
from fairledger.storage.files import read_bytes, read_whole, write_file
from fairledger.storage.looking import inside, is_file, is_folder, is_there
from fairledger.storage.together import Piece, swept, write_together

NAME = ".fairledger-delivery.json"
_BEFORE = ".fairledger-before"


class _Noted(Struct, frozen=True):
    """A file that is put there."""

    path: str
    """From the folder on, with ``/``."""
    digest: str
    replaces: bool


class _Journal(Struct, frozen=True):
    files: tuple[_Noted, ...]


def unfinished(folder: Path) -> bool:
    """Whether a delivery into a folder was cut short."""
    return is_there(folder / NAME)


def take_back(folder: Path) -> tuple[Path, ...]:
    """Puts back what stood there before a delivery that was cut short. Raises `FileTroubleError`."""
    if not is_folder(folder) or not unfinished(folder):
        return ()
    try:
        noted = msgspec.json.decode(read_bytes(folder / NAME), type=_Journal).files
    except msgspec.DecodeError as error:
        remedy = "look at what stands there, and take that file away"
        raise FileTroubleError(
            "its note of a delivery cannot be read", file=str(folder / NAME), remedy=remedy
        ) from error
    back = []
    for one in noted:
        if not inside(folder, one.path):
            continue  # a note that somebody else wrote leads nowhere else
        path, before = folder / one.path, _before(folder / one.path)
        swept(path.parent)
        if is_file(before):
            before.replace(path)
            back.append(path)
        elif not one.replaces and is_file(path) and sha256(read_whole(path)).hexdigest() == one.digest:
            path.unlink()
            back.append(path)
    (folder / NAME).unlink(missing_ok=True)
    return tuple(back)


def deliver(folder: Path, pieces: Sequence[Piece], kept: Sequence[Piece] = ()) -> None:
    """Puts files into a folder, the last one last; ``kept`` are copies of what is changed, and stay.

    What is noted before lets the next run take back a run that was killed. Raises `FileTroubleError`.
    """
    noted = [
        _Noted(one.path.relative_to(folder).as_posix(), sha256(one.data).hexdigest(), is_there(one.path))
        for one in pieces
    ]
    write_file(folder / NAME, msgspec.json.encode(_Journal(tuple(noted))), replace=True)
    befores = []
    try:
        for one in pieces:
            if is_there(one.path):
                before = _before(one.path)
                write_file(before, read_whole(one.path), replace=True, private=True)
                befores.append(before)
        write_together([*kept, *pieces], replace=True)
    except BaseException:
        _clear(folder, befores)
        raise
    _clear(folder, befores)


def _clear(folder: Path, befores: Sequence[Path]) -> None:
    for before in befores:
        before.unlink(missing_ok=True)
    (folder / NAME).unlink(missing_ok=True)


def _before(path: Path) -> Path:
    return path.with_name(f".{path.name}{_BEFORE}")
