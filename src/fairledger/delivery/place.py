"""Placing: finished files put where they go, and the record of what was issued."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from typing import Protocol

from msgspec import Struct

from fairledger import __version__
from fairledger.catalog.routes import Route
from fairledger.delivery.fill import Filled, Made
from fairledger.delivery.prepare import Prepared
from fairledger.model.errors import LedgerError
from fairledger.profiles.document import Silence
from fairledger.storage.looking import is_file
from fairledger.storage.together import Piece, write_together
from fairledger.subject.opening import opened_answers


class IssuedFile(Struct, frozen=True):
    """A file that was put somewhere."""

    where: str
    """As a person finds it."""
    role: str
    digest: str
    """SHA-256 of what stands in it."""
    private: bool


class Issued(Struct, frozen=True):
    """What was issued for a machine: enough to tell later what it got, from what, and what nobody wanted to hear."""

    machine: str
    """Its name; empty where the draft gives it none."""
    draft: str
    variant: str
    target: str
    """The target's id."""
    route: Route
    files: tuple[IssuedFile, ...]
    """The answer file first."""
    sources: tuple[tuple[str, str], ...]
    """The draft and its profiles, each with the SHA-256 of what stood in it."""
    silences: tuple[Silence, ...]
    """The rules that the draft silences, with the reasons."""
    version: str = __version__
    """The version of the program, with which the same sources give the same files."""


class Sink(Protocol):
    """Where files go: a folder, a medium, a pipe."""

    def put(self, files: Sequence[Made]) -> tuple[str, ...]:
        """Takes all files or none, and says where each is. Raises `RefusedError`, `FileTroubleError`."""


class Folder:
    """Files below a folder; without ``replace`` none that exists is touched."""

    def __init__(self, path: Path, *, replace: bool = False) -> None:
        self.path = path
        self.replace = replace
        self.stale: tuple[Path, ...] = ()
        """What the replaced answer file called, and the new one does not."""

    def put(self, files: Sequence[Made]) -> tuple[str, ...]:
        """Writes all of them together, and takes away the scripts that only the replaced answer file called."""
        pieces = [Piece(self.path / one.name, one.data, one.private) for one in files]
        if self.replace and pieces:
            called = {pieces[0].path.parent / name for name in called_by(pieces[0].path)}
            self.stale = tuple(sorted(called - {one.path for one in pieces}))
        write_together(pieces, replace=self.replace, stale=self.stale)
        return tuple(str(one.path) for one in pieces)


def called_by(path: Path) -> tuple[str, ...]:
    """The scripts of our own making that an answer file calls; none where it cannot be read."""
    with suppress(LedgerError):
        if is_file(path):
            found = opened_answers(path)
            return found.family.companions_of(found.sheet)
    return ()


def place(prepared: Prepared, filled: Filled, sink: Sink) -> Issued:
    """Puts the files of one machine into a sink. Raises as that does."""
    where = sink.put(filled.files)
    files = [
        IssuedFile(at, one.role, sha256(one.data).hexdigest(), one.private)
        for at, one in zip(where, filled.files, strict=True)
    ]
    return Issued(
        machine=filled.machine,
        draft=prepared.draft.file,
        variant=prepared.resolved.variant,
        target=prepared.target.id,
        route=prepared.route,
        files=tuple(files),
        sources=prepared.sources,
        silences=prepared.resolved.silences,
    )
