"""What was written for a roster: the manifest for everybody, and by what edited files are known."""

from __future__ import annotations

import hmac
import json
from collections.abc import Iterable
from hashlib import sha256
from pathlib import Path
from secrets import token_bytes

import msgspec
from msgspec import Struct

from fairledger.model.errors import FileTroubleError
from fairledger.storage.files import read_bytes, unmarked, write_file
from fairledger.storage.looking import is_there

MANIFEST = "manifest.jsonl"
_WRITTEN = ".fairledger-written"
"""Keyed digests of whole files, secrets included: for the owner's eyes only, and worth nothing without the key."""


class Entry(Struct, frozen=True):
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

    def line(self) -> str:
        """The entry as a line of JSON."""
        told = {name: getattr(self, name) for name in self.__struct_fields__}
        return json.dumps(told, ensure_ascii=True) + "\n"


def read_manifest(folder: Path) -> dict[str, Entry]:
    """The entries of a manifest by their files; none where there is no manifest. Raises `FileTroubleError`."""
    path = folder / MANIFEST
    if not is_there(path):
        return {}
    out = {}
    for number, line in enumerate(unmarked(read_bytes(path), str(path)).splitlines(), 1):
        try:
            entry = msgspec.json.decode(line, type=Entry)
        except (msgspec.DecodeError, RecursionError) as error:
            remedy = "take the manifest away: all is then compared anew"
            raise FileTroubleError("this is no manifest of ours", file=str(path), line=number, remedy=remedy) from error
        out[entry.file] = entry
    return out


def write_manifest(folder: Path, entries: Iterable[Entry]) -> None:
    """Replaces the manifest. Raises `FileTroubleError`."""
    text = "".join(one.line() for one in sorted(entries, key=lambda one: (one.row, one.file)))
    write_file(folder / MANIFEST, text.encode(), replace=True)


class Written:
    """Whether files are as they were written last."""

    def __init__(self, folder: Path) -> None:
        self._path = folder / _WRITTEN
        self._known: dict[str, str] = {}
        self._key = token_bytes(32)
        if is_there(self._path):
            first, *rows = unmarked(read_bytes(self._path), str(self._path)).splitlines() or [""]
            try:
                self._key = bytes.fromhex(first)
            except ValueError:
                rows = []
            self._known = {name: digest for digest, _, name in (row.partition(" ") for row in rows)}

    def untouched(self, file: str, data: bytes) -> bool:
        """Whether a file still holds what was written."""
        return hmac.compare_digest(self._known.get(file, ""), self._digest(data))

    def note(self, file: str, data: bytes) -> None:
        """That a file was written."""
        self._known[file] = self._digest(data)

    def forget(self, file: str) -> None:
        """That a file is gone."""
        self._known.pop(file, None)

    def keep(self) -> None:
        """Puts it down, readable by the owner only. Raises `FileTroubleError`."""
        rows = [self._key.hex(), *(f"{digest} {name}" for name, digest in self._known.items())]
        write_file(self._path, ("\n".join(rows) + "\n").encode(), replace=True, private=True)

    def _digest(self, data: bytes) -> str:
        return hmac.new(self._key, data, sha256).hexdigest()[:32]
