"""Names under which machines are kept on a disk, and what makes two of them one."""

from __future__ import annotations

import ipaddress
import unicodedata

from fairledger.model.pattern import pattern

_DEVICES = {"con", "prn", "aux", "nul", *(f"{name}{at}" for name in ("com", "lpt") for at in "0123456789¹²³")}
_SIGNS = pattern(r'[<>:"/\\|?*\x00-\x1f\x7f]')
MOST_BYTES = 200
"""Longer names are refused: files and their temporary neighbours need room for more."""


def unfit(name: str) -> str:
    """Why a name cannot be that of a folder on every disk; empty if it can. (Windows: naming files, reserved names.)"""
    if not name.strip():
        return "it is empty"
    odd = _SIGNS.search(name)
    if odd is not None:
        return f"it holds {odd[0]!r}" if odd[0].isprintable() else f"it holds U+{ord(odd[0]):04X}"
    if name in (".", "..") or name[0] == ".":
        return "it begins with a dot"
    if name[-1] in " ." or name[0] == " ":
        return "it begins with a blank, or ends with a blank or a dot"
    if name.partition(".")[0].strip().casefold() in _DEVICES:
        return "Windows takes it for a device"
    if len(name.encode("utf-8", "surrogatepass")) > MOST_BYTES:
        return f"it is longer than {MOST_BYTES} bytes"
    if not name.isascii() and any(unicodedata.category(sign) in ("Cc", "Cs", "Cf") for sign in name):
        return "it holds a character that nobody sees"
    return ""


def alike(text: str) -> str:
    """A name as a disk may see it that knows no upper and lower case, compatibility forms folded."""
    return unicodedata.normalize("NFKC", unicodedata.normalize("NFKC", text.strip()).casefold())


def address(text: str) -> str | None:
    """An IPv4 or IPv6 address in one spelling, without its prefix length; None if it is none."""
    try:
        found = ipaddress.ip_address(text.strip().partition("/")[0].partition("%")[0])
    except ValueError:
        return None
    mapped = found.ipv4_mapped if isinstance(found, ipaddress.IPv6Address) else None
    return str(mapped or found)
