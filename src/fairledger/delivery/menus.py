"""Boot menus of a medium: which there are, and giving them the parameter that names the answer file."""

from __future__ import annotations

from collections.abc import Mapping

from fairledger.media.booting import entries_in, given_argument, wants_argument

_NAMES = ("grub.cfg", "isolinux.cfg", "syslinux.cfg", "boot.cfg")
_MOST = 1 << 18
"""Bytes of a menu."""


def is_menu(path: str, size: int) -> bool:
    """Whether a file is a boot loader's menu, by its name."""
    return path.lower().rpartition("/")[2] in _NAMES and 0 < size <= _MOST


def told(menus: Mapping[str, bytes], argument: str) -> dict[str, bytes]:
    """Those that start an installer, with the parameter."""
    asking = {name: data for name, data in menus.items() if any(map(wants_argument, entries_in(name, data)))}
    return {name: given_argument(name, data, argument) for name, data in asking.items()}
