"""A medium's files, copied out of it: into a folder, never out of that folder, and never two to one name."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable
from pathlib import Path, PurePosixPath
from typing import IO

from fairledger.media.original import Original
from fairledger.media.programs import Progress
from fairledger.media.stretches import Within
from fairledger.model.errors import FileTroubleError
from fairledger.storage.looking import size_of, trouble

_CHUNK = 4 << 20
_NEVER = frozenset('<>:"|?*\\\0')


def folded(path: str) -> str:
    """What a name comes to on a file system that takes letters of either size for the same."""
    return unicodedata.normalize("NFC", path).casefold()


def must_fit(paths: Iterable[str], file: str) -> None:
    """Raises `FileTroubleError` for names that lead elsewhere, or of which two are one on another file system."""
    seen: dict[str, str] = {}
    for path in paths:
        parts = PurePosixPath(path).parts
        if not parts or path.startswith("/") or ".." in parts or not _NEVER.isdisjoint(path):
            raise FileTroubleError(f"the name {path!r} cannot be copied", file=file, remedy="use another medium")
        other = seen.setdefault(folded(path), path)
        if other != path:
            told = f"{other} and {path} are one name where letters of either size are the same"
            raise FileTroubleError(told, file=file, remedy="use another medium")


def extracted(original: Original, folder: Path, progress: Progress) -> None:
    """All files of a disc in a folder. Raises `FileTroubleError`."""
    must_fit(original.sizes, str(original.path))
    whole, done = sum(original.sizes.values()), 0
    try:
        with original.path.open("rb") as file:
            for name, size in original.found.files:
                place = folder / name
                place.parent.mkdir(parents=True, exist_ok=True)
                with place.open("xb") as out:
                    done = copied(Within(file, original.found.places.get(name, ()), size), out, done, whole, progress)
                if size_of(place) != size:
                    raise FileTroubleError(f"{name} is not all there", file=str(original.path), remedy="copy it anew")
    except OSError as error:
        raise trouble(folder, error) from error


def copied(source: IO[bytes] | Within, out: IO[bytes], done: int, whole: int, progress: Progress) -> int:
    """Copies a file; how many bytes of all are done then."""
    while data := source.read(_CHUNK):
        out.write(data)
        done += len(data)
        progress("copied", done, whole)
    return done
