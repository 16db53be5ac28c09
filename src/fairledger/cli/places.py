"""Where something stands, as it is told."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from fairledger.profiles.library import SHIPPED


def place_of(file: str, line: int | None, main: str, profiles: Mapping[str, str]) -> str:
    """A line; with its file's name, or its profile's, unless only one file says anything.

    ``main`` is the file that is told of, ``profiles`` are the names of its profiles by their files.
    """
    if file == main:
        return f"{Path(file).name}, line {line}" if profiles else f"line {line}"
    return f"{profiles.get(file) or short_name(file)}, line {line}"


def short_name(file: str) -> str:
    """A file as a person would call it: a shipped profile by its name, others by their path."""
    path = Path(file)
    if path.is_relative_to(SHIPPED):
        return f"shipped profile {path.relative_to(SHIPPED).with_suffix('').as_posix()}"
    return file
