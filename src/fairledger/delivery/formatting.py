"""The host's own commands that make an empty stick ready; they are shown, and nothing here ever runs them."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

_MOST_LABEL = 11
"""Characters of a label that FAT can hold."""


class _Way(Struct, frozen=True, kw_only=True):
    system: str
    firmware: str
    lines: tuple[str, ...]
    after: str = ""


class _Table(Struct, frozen=True):
    way: tuple[_Way, ...]


@cache
def _ways() -> tuple[_Way, ...]:
    return msgspec.toml.decode(Path(__file__).with_name("formatting.toml").read_bytes(), type=_Table).way


def commands(firmware: str | None, label: str, folder: Path, system: str = sys.platform) -> Iterator[str]:
    """The lines for a stick that a firmware starts, UEFI where nobody says which; the last may be a remark."""
    way = next((one for one in _ways() if one.system == system and one.firmware == (firmware or "uefi")), None)
    if way is None:
        return
    for line in way.lines:
        yield line.replace("LABEL", fat_label(label)).replace(
            "FOLDER", f"'{folder}'" if " " in str(folder) else str(folder)
        )
    if way.after:
        yield f"({way.after})"


def fat_label(label: str) -> str:
    """A label as FAT can hold it."""
    kept = "".join(one if one.isascii() and one.isalnum() else "_" for one in label.upper())
    return kept[:_MOST_LABEL].strip("_") or "SETUP"
