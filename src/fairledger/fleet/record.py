"""What was written for a roster: the manifest for everybody, and by what edited files are known."""

from __future__ import annotations

import hmac
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from secrets import token_bytes, token_hex
from typing import TypeVar

import msgspec
from msgspec import Struct

from fairledger.model.errors import FileTroubleError
from fairledger.model.pattern import pattern
from fairledger.storage.files import write_file
from fairledger.storage.logs import add_privately, text_lines
from fairledger.storage.looking import entries, is_there

T = TypeVar("T")
MANIFEST = "manifest.jsonl"
_MANIFESTS = pattern(r"manifest(?:-([0-9]+)-of-([0-9]+))?\.jsonl")
_WRITTEN = ".fairledger-written"
"""Keyed digests of whole files, secrets included: for the owner's eyes only, and worth nothing without the key."""

Shard = tuple[int, int]
"""Which of how many parts of a roster."""
WHOLE: Shard = (1, 1)


def mark_of(shard: Shard) -> str:
    """What stands in the names of files that are of one part only."""
    return f"-{shard[0]}-of-{shard[1]}" if shard[1] > 1 else ""


def manifest_in(folder: Path, shard: Shard = WHOLE) -> Path:
    """Where the manifest of a part stands."""
    return folder / f"manifest{mark_of(shard)}.jsonl"


def is_ours(name: str) -> bool:
    """Whether a manifest may have that name, so that no machine can."""
    return _MANIFESTS.fullmatch(name) is not None


def shards_in(folder: Path) -> dict[Shard, Path]:
    """The manifests of parts that stand in a folder. Raises `FileTroubleError`."""
    found = [(_MANIFESTS.fullmatch(path.name), path) for path in entries(folder, ".jsonl")]
    return {(int(one[1]), int(one[2])): path for one, path in found if one is not None and one[1]}


class Entry(Struct, frozen=True, omit_defaults=True):
    """A file in the manifest."""

    machine: str
    row: int
    draft: str
    variant: str | None
    file: str
    """Below the folder of the manifest, with ``/``."""
    bytes: int
    sha256: str
    """Of the file with the places of its secrets empty."""
    sources: dict[str, str | None]
    """SHA-256 of the draft and its profiles; none of one in which a secret stands."""
    left: bool = False
    """Whether its machine has left the table."""
    own: tuple[str, ...] = ()
    """What must be no other machine's, in manifests of parts: there it is looked for when they are joined."""

    def line(self) -> str:
        """The entry as a line of JSON."""
        return msgspec.json.encode(self).decode() + "\n"


class Head(Struct, frozen=True):
    """The first line of a part's manifest."""

    shard: Shard
    rows: int
    """Of the whole table."""
    table: str | None
    """Its SHA-256; none where a column fills a secret."""
    refused: tuple[int, ...] = ()
    """Rows of the part that come to no machine."""
    untold: tuple[str, ...] = ()
    """Columns that must be each machine's own, and fill a secret: those cannot be held against other parts."""

    def line(self) -> str:
        """The head as a line of JSON."""
        return msgspec.json.encode(self).decode() + "\n"


def read_entries(path: Path) -> Iterator[Entry]:
    """The entries of a manifest, one by one; none where there is no manifest. Raises `FileTroubleError`."""
    for number, line in enumerate(text_lines(path), 1) if is_there(path) else ():
        if number == 1 and line.startswith('{"shard":'):
            continue
        yield _decoded(line, Entry, path, number)


def entry_of(line: bytes) -> Entry:
    """An entry of our own making."""
    return msgspec.json.decode(line, type=Entry)


def read_head(path: Path) -> Head:
    """The first line of a part's manifest. Raises `FileTroubleError`."""
    return _decoded(next(iter(text_lines(path)), ""), Head, path, 1)


def _decoded(line: str, kind: type[T], path: Path, number: int) -> T:
    try:
        return msgspec.json.decode(line, type=kind)
    except (msgspec.DecodeError, RecursionError) as error:
        remedy = "take the manifest away: all is then compared anew"
        raise FileTroubleError("this is no manifest of ours", file=str(path), line=number, remedy=remedy) from error


class Written:
    """Whether files are as they were written last.

    What is about to be written is put down first, in a log of its own for each process, so that a run that is cut short
    leaves no file that the next one takes for edited; the end of a run puts the logs together.
    """

    def __init__(self, folder: Path, shard: Shard = WHOLE) -> None:
        self._folder = folder
        self._path = folder / f"{_WRITTEN}{mark_of(shard)}"
        self._known: list[tuple[bytes, set[int]]] | None = None
        self._log: Path | None = None
        self._key = b""
        self._forgotten: set[str] = set()

    def ready(self) -> None:
        """Makes it be there, and takes in what a run that was cut short has left. Raises `FileTroubleError`."""
        if not _key_of(self._path) or self._logs():
            self._key = _key_of(self._path) or token_bytes(32)
            self._keep(lambda _: True)

    def untouched(self, file: str, data: bytes) -> bool:
        """Whether a file still holds what was written. Raises `FileTroubleError`."""
        if self._known is None:
            self._known = []
            for path in entries(self._folder, beginning=_WRITTEN):
                with suppress(FileTroubleError):  # another part may put its logs together meanwhile
                    key = _key_of(path)
                    if key:
                        self._known.append((key, {hash(line) for line in _lines_of(path)}))
        return any(hash(f"{_digest(key, data)} {file}") in lines for key, lines in self._known)

    def note(self, files: Iterable[tuple[str, bytes]]) -> None:
        """That files are about to be written. Raises `FileTroubleError`."""
        text = ""
        if self._log is None:
            self._key = _key_of(self._path)
            self._log = self._path.with_name(f"{self._path.name}.{token_hex(4)}")
            text = f"{self._key.hex()}\n"
        text += "".join(f"{_digest(self._key, data)} {file}\n" for file, data in files)
        add_privately(self._log, text.encode("utf-8", "surrogateescape"))

    def forget(self, file: str) -> None:
        """That a file is gone."""
        self._forgotten.add(file)

    def keep(self, *, done: bool) -> None:
        """Puts the logs together; where all was ``done``, only what was written last counts.

        Raises `FileTroubleError`.
        """
        self._log = None
        self._key = _key_of(self._path) or token_bytes(32)
        logs = self._logs()
        if done and not logs and not self._forgotten:
            return
        anew = {hash(line.partition(" ")[2]) for path in logs for line in _lines_of(path)} if done else set()
        self._keep(lambda name: name not in self._forgotten and hash(name) not in anew)

    def _keep(self, still: Callable[[str], bool]) -> None:
        logs = self._logs()

        def lines() -> Iterator[bytes]:
            yield self._key.hex().encode() + b"\n"
            for line in _lines_of(self._path) if is_there(self._path) else ():
                if still(line.partition(" ")[2]):
                    yield f"{line}\n".encode("utf-8", "surrogateescape")
            for path in logs:
                for line in _lines_of(path) if _key_of(path) == self._key else ():
                    yield f"{line}\n".encode("utf-8", "surrogateescape")

        write_file(self._path, lines(), replace=True, private=True)
        for path in logs:
            path.unlink(missing_ok=True)

    def _logs(self) -> list[Path]:
        return [*entries(self._folder, beginning=f"{self._path.name}.")]


def _key_of(path: Path) -> bytes:
    """The key in a record's first line; empty where there is none."""
    try:
        return bytes.fromhex(next(iter(text_lines(path)), "")) if is_there(path) else b""
    except ValueError:
        return b""


def _lines_of(path: Path) -> Iterator[str]:
    """What stands below the key; a line that was cut short counts for nothing."""
    return (line for at, line in enumerate(text_lines(path)) if at and line[32:33] == " ")


def _digest(key: bytes, data: bytes) -> str:
    return hmac.new(key, data, sha256).hexdigest()[:32]
