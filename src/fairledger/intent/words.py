"""What portable fields mean where nothing beside them says it, and what people call them."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Any

WORDS = Path(__file__).parent / "words.toml"


def authored() -> dict[str, dict[str, str]]:
    """By path: ``about``, ``words``, ``example`` and ``shown``, as far as they are given."""
    out: dict[str, dict[str, str]] = {}
    _gather(tomllib.loads(WORDS.read_text(encoding="utf-8")), "", out)
    return out


def _gather(table: dict[str, Any], path: str, out: dict[str, dict[str, str]]) -> None:
    for name, value in table.items():
        here = f"{path}.{name}" if path else name
        if set(value) <= {"about", "words", "example", "shown"} and all(isinstance(one, str) for one in value.values()):
            out[here] = value
        else:
            _gather(value, here, out)
