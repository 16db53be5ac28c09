"""Words of warning about commands: a table of what may be in them (words_of_warning.toml)."""

from __future__ import annotations

import re
import tomllib
from functools import cache
from pathlib import Path
from typing import Any

_TABLE = Path(__file__).parent / "words_of_warning.toml"


@cache
def _table() -> tuple[dict[str, Any], ...]:
    return tuple(tomllib.loads(_TABLE.read_text(encoding="utf-8"))["row"])


@cache
def _rows() -> tuple[tuple[str, tuple[re.Pattern[str], ...]], ...]:
    return tuple((one["word"], tuple(re.compile(text, re.IGNORECASE) for text in one["tells"])) for one in _table())


@cache
def of_disks() -> frozenset[str]:
    """The words of commands that may erase whole disks."""
    return frozenset(one["word"] for one in _table() if one.get("disks"))


def warnings_of(command: str) -> tuple[str, ...]:
    """What a reader should know of a command, each in a few words.

    >>> warnings_of("cmd /c echo station")
    ()
    """
    looked_at = command[:100_000]
    return tuple(word for word, tells in _rows() if any(tell.search(looked_at) for tell in tells))
