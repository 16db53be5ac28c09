"""Sizes of disks and partitions."""

from __future__ import annotations

from msgspec import Struct

from fairledger.model.pattern import pattern
from fairledger.model.values import Template, Text, form, formed

UNITS = {
    "MiB": 1024**2,
    "GiB": 1024**3,
    "TiB": 1024**4,
    "MB": 10**6,
    "GB": 10**9,
    "TB": 10**12,
}
"""Bytes in a unit. Powers of 1024 and of 1000 are never mixed up silently: both are written out."""

_SIZE = pattern(r"(\d{1,12}(?:\.\d{1,6})?)\s*([A-Za-z]+|%)")

WRITTEN = r"\s*(\d{1,12}(\.\d{1,6})?\s*(MiB|GiB|TiB|MB|GB|TB)|([1-9]\d?|100)\s*%)\s*"
"""How sizes are written, for forms that know patterns only."""


class Size(Struct, frozen=True):
    """How large a partition is: whole MiB, or a percentage of the disk."""

    mib: int = 0
    percent: int = 0
    """1 to 100; when it is set, ``mib`` is zero."""

    def __str__(self) -> str:
        if self.percent:
            return f"{self.percent}%"
        return f"{self.mib // 1024} GiB" if self.mib and self.mib % 1024 == 0 else f"{self.mib} MiB"

    def resolved(self, disk_mib: int | None) -> int | None:
        """In MiB; None for a percentage of a disk whose size nobody knows."""
        if not self.percent:
            return self.mib
        return None if disk_mib is None else disk_mib * self.percent // 100


def parse_size(text: str) -> Size:
    """Reads ``512 MiB``, ``40 GiB``, ``100 GB`` or ``20%``; decimal units are rounded down to whole MiB.

    Raises ValueError with a sentence that says what is wrong and how to write it.
    """
    match = _SIZE.fullmatch(text.strip())
    if not match:
        raise ValueError(f"{text!r} is no size: write a number and a unit, as in 512 MiB, 40 GiB or 20%")
    number, unit = float(match[1]), match[2]
    if unit == "%":
        if not (1 <= number <= 100 and number == int(number)):
            raise ValueError(f"{text!r} is no share of a disk: percentages go from 1% to 100%, whole")
        return Size(percent=int(number))
    if unit not in UNITS:
        near = next((name for name in UNITS if name.casefold() == unit.casefold()), None)
        told = f"write {match[1]} {near}" if near else "units are " + ", ".join(UNITS) + " and %"
        raise ValueError(f"{text!r} has an unknown unit {unit}: {told}")
    mib = int(number * UNITS[unit] // UNITS["MiB"])
    if mib == 0:
        raise ValueError(f"{text!r} is less than 1 MiB")
    return Size(mib=mib)


_IN_MIB = "mib"


def open_size(text: Template) -> Text:
    """A size that is not known yet, in MiB once it is filled; what is no size with a unit then stands as it is."""
    return formed(text, _IN_MIB)


@form(_IN_MIB)
def _in_mib(text: str) -> str:
    try:
        size = parse_size(text)
    except ValueError:
        return text
    return text if size.percent else str(size.mib)
