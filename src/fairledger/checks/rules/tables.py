"""What a disk's table allows, and sizes, numbers and formats that cannot be meant."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.checks.claims import PRACTICE, WINDOWS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.rules.volumes import all_parts
from fairledger.checks.view import View
from fairledger.intent.disk import DISK
from fairledger.model.finding import Severity
from fairledger.model.size import Size

_LAYOUT = (
    '[disk]\nfate = "{}"\npartition = [{{ role = "firmware", size = "{}" }}, {{ role = "system", size = "rest" }}]\n'
)
_USUAL = {"firmware": 8 * 1024, "reserved": 1024, "boot": 32 * 1024, "recovery": 128 * 1024}
"""More than these, in MiB, no such partition needs."""
_ANY = 256 * 1024 * 1024
"""More, in MiB, no disk has."""


@rule(
    "disk-kept-and-laid-out",
    Severity.WARNING,
    "Partitions are made on a disk that is not wiped: where anything is on it already, their numbers are others.",
    source=f"{WINDOWS}, WillWipeDisk, CreatePartition/Order",
    fires=_LAYOUT.format("keep", "300 MiB"),
    silent=_LAYOUT.format("wipe", "300 MiB"),
)
def disk_kept_and_laid_out(view: View) -> Iterator[Hit]:
    """Whole layouts, with the system's partition, on disks that are kept."""
    for place, disk in view.each(DISK):
        whole = any(part.role == "system" and part.made for part in disk.partition)
        if view.limits.installs_to_stated_partition and disk.fate == "keep" and whole:
            told = (
                f"partitions are made on disk {disk.which or 0}, which is not wiped; numbers count from an empty disk"
            )
            hint = "wipe the disk, or change the partitions that are there by their numbers"
            yield Hit(view.intent.placed("disk", place, "fate"), told, hint)


@rule(
    "partition-huge",
    Severity.WARNING,
    "The partition is far larger than anything of its kind: another unit was probably meant.",
    source=PRACTICE,
    fires=_LAYOUT.format("wipe", "300 GiB"),
    silent=_LAYOUT.format("wipe", "1 GiB"),
)
def partition_huge(view: View) -> Iterator[Hit]:
    """Firmware, reserved, boot and recovery partitions beyond all measure."""
    for part, spot in all_parts(view):
        most = _USUAL.get(part.role, _ANY)
        if isinstance(part.size, Size) and part.size.mib > most:
            told = f"the {part.role} partition has {part.size}; {Size(mib=most)} is more than any needs"
            yield Hit(spot, told, "is the unit right? setup counts in MiB")
