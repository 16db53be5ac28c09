"""Placing: finished files put where they go, and the record of what was issued."""

from __future__ import annotations

from collections.abc import Sequence
from hashlib import sha256
from pathlib import Path
from typing import Protocol

from msgspec import Struct

from fairledger import __version__
from fairledger.catalog.routes import Route
from fairledger.delivery.fill import Filled, Made
from fairledger.delivery.prepare import Prepared
from fairledger.model.errors import RefusedError
from fairledger.profiles.document import Silence
from fairledger.storage.files import write_file


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

    def put(self, files: Sequence[Made]) -> tuple[str, ...]:
        """Writes each file whole, after making sure that none stands in the way."""
        paths = [self.path / one.name for one in files]
        for path in paths if not self.replace else ():
            if path.exists():
                remedy = "allow it with --replace, or name another"
                raise RefusedError("the file exists already", file=str(path), remedy=remedy)
        for one, path in zip(files, paths, strict=True):
            write_file(path, one.data, replace=self.replace, private=one.private)
        return tuple(str(path) for path in paths)


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
