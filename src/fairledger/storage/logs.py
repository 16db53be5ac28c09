"""Files of many lines, read and written line by line."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

from fairledger.model.errors import FileTroubleError
from fairledger.storage.looking import is_file, trouble

_LONGEST = 1 << 20


def text_lines(path: Path) -> Iterator[str]:
    """A file's lines without their ends. Raises `FileTroubleError` where it is no such text."""
    if not is_file(path):
        raise FileTroubleError("this is no file of lines", file=str(path), remedy="take it away")
    try:
        with path.open("rb") as file:
            number = 0
            while line := file.readline(_LONGEST + 1):
                number += 1
                if len(line) > _LONGEST:
                    raise FileTroubleError("a line has more than 1 MiB", file=str(path), line=number)
                yield line.rstrip(b"\r\n").decode("utf-8", "surrogateescape")
    except OSError as error:
        raise trouble(path, error) from error


def add_privately(path: Path, data: bytes) -> None:
    """Adds to a file that is for its owner only, and makes it. Raises `FileTroubleError`."""
    try:
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o600)
        with os.fdopen(handle, "wb") as file:
            file.write(data)
    except OSError as error:
        raise trouble(path, error) from error
