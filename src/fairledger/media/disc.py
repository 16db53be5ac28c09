"""The first sectors of a disc: its label, and in which forms its directories are written. (ECMA-119, ECMA-167.)"""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from fairledger.storage.looking import trouble

_SECTOR = 2048
_FIRST, _MOST = 16, 64
_UNICODE = (b"%/@", b"%/C", b"%/E")


class DiscHead(Struct, frozen=True, kw_only=True):
    """What the first sectors tell."""

    label: str | None
    forms: tuple[str, ...]


def head_of(path: Path) -> DiscHead | None:
    """The head of a disc; None where it is none. Raises `FileTroubleError` where nothing can be read."""
    try:
        with path.open("rb") as file:
            file.seek(_FIRST * _SECTOR)
            data = file.read(_MOST * _SECTOR)
    except OSError as error:
        raise trouble(path, error) from error
    labels: dict[str, str] = {}
    forms: dict[str, None] = {}
    for at in range(0, len(data) - _SECTOR + 1, _SECTOR):
        mark, kind = data[at + 1 : at + 6], data[at]
        if mark == b"CD001" and kind == 1:
            forms["iso 9660"] = None
            labels["iso 9660"] = _label(data[at + 40 : at + 72], "latin-1")
        elif mark == b"CD001" and kind == 2 and data[at + 88 : at + 91] in _UNICODE:
            forms["joliet"] = None
            labels["joliet"] = _label(data[at + 40 : at + 72], "utf-16-be")
        elif mark in (b"NSR02", b"NSR03"):
            forms["udf"] = None
        elif mark not in (b"CD001", b"BEA01", b"TEA01"):
            break
    if not forms:
        return None
    # the older form has the label that boot loaders look for
    label = labels.get("iso 9660") or labels.get("joliet")
    return DiscHead(label=label or None, forms=tuple(forms))


def _label(raw: bytes, encoding: str) -> str:
    return raw.decode(encoding, "replace").rstrip(" \0")
