"""The files that are meant where a folder is named: drafts, profiles and answer files in it and below it."""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path

from msgspec import Struct

from fairledger.families.registry import family_surely
from fairledger.model.errors import FileTroubleError
from fairledger.storage.files import read_head
from fairledger.storage.looking import files_below, is_folder

_SUFFIXES = (".xml", ".ks", ".cfg", ".toml")
_OURS = re.compile(rb"^\s*\[(?:draft|profile)\]", re.MULTILINE)
_HEAD = 20_000


class Gathered(Struct, frozen=True):
    """What is to be looked at."""

    files: tuple[Path, ...]
    passed_over: tuple[Path, ...] = ()
    """Files of such names in the folders that are none: of another program, or of the catalog."""


def gathered(paths: Iterable[Path]) -> Gathered:
    """Files as they are named, and folders as what is in them.

    Raises `FileTroubleError` for a folder without any, and for one that may not be looked into.
    """
    files: list[Path] = []
    passed: list[Path] = []
    for path in paths:
        if not is_folder(path):
            files.append(path)
            continue
        here = [path / name for name in files_below(path) if _named_so(name)]
        meant = [one for one in here if _is_one(one)]
        if not meant:
            told = "the folder holds no draft, no profile and no answer file"
            raise FileTroubleError(told, file=str(path), remedy=f"they end with {', '.join(_SUFFIXES)}")
        files += meant
        known = set(meant)
        passed += [one for one in here if one not in known]
    return Gathered(tuple(dict.fromkeys(files)), tuple(passed))


def _named_so(name: str) -> bool:
    folders = name.split("/")[:-1]
    return name.lower().endswith(_SUFFIXES) and not any(one.startswith(".") for one in folders)


def _is_one(path: Path) -> bool:
    """Whether it is one of ours, or an answer file beyond doubt. What cannot be read is, so that somebody is told."""
    try:
        head = read_head(path, _HEAD)
    except FileTroubleError:
        return True
    suffix = path.suffix.lower()
    if suffix == ".toml":
        return _OURS.search(head) is not None
    if suffix == ".xml":
        return b"unattend" in head.replace(b"\0", b"")
    return suffix == ".ks" or family_surely(head, path.name) != ""
