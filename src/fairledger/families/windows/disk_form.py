"""What setup's disk settings can hold of a layout: the canonical form, and how partitions are numbered."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from fairledger.intent.disk import Disk, Partition
from fairledger.model.size import Size
from fairledger.model.values import Template

RECOVERY_GPT = "de94bba4-06d1-4d40-a16a-bfd50179d6ac"
RECOVERY_MBR = "0x27"
TYPES = {"firmware": "EFI", "reserved": "MSR"}
FORMATS: dict[str, Any] = {"firmware": "fat32", "reserved": None}


def distinct(value: tuple[Disk, ...]) -> tuple[Disk, ...]:
    """The disks, each number once."""
    seen: dict[object, Disk] = {}
    for disk in value:
        seen.setdefault(which_of(disk), disk)
    return tuple(seen.values())


def only_installed_to(disk: Disk) -> bool:
    """Whether nothing is done to the disk itself; it then has no answers but the install target's."""
    return not disk.partition and disk.fate == "keep" and disk.install_to not in (None, "any")


def canonical_disk(disk: Disk, disk_mib: int | None, *, taken: bool) -> Disk:
    """One disk as setup's own settings can hold it; ``taken``: another one receives the system."""
    parts: list[Partition] = []
    seen = taken
    for _, part in arranged(disk):
        parts.append(_canonical_part(part, disk_mib, second=seen))
        seen = seen or parts[-1].role == "system"
    install = disk.install_to
    numbers = numbers_of(tuple(parts))
    if taken or any(one.role == "system" for one in parts):
        install = None
    elif isinstance(install, int) and install in numbers:
        at = numbers.index(install)
        if parts[at].role in ("data", "boot"):
            parts[at], install = replace(parts[at], role="system"), None
    return Disk(
        which=which_of(disk),
        fate=disk.fate,
        table=disk.table,
        partition=tuple(parts),
        install_to=install,
        by_script=disk.by_script,
    )


def arranged(disk: Disk) -> list[tuple[int, Partition]]:
    """The partitions that setup can be told of, with their places: the made ones first, then changed ones."""
    rows = [(place, part) for place, part in enumerate(disk.partition) if part.role != "swap"]
    made = [row for row in rows if row[1].made]
    changed: dict[int, tuple[int, Partition]] = {}
    for place, part in rows:
        if not part.made and part.number is not None and part.number > len(made):
            changed.setdefault(part.number, (place, part))
    return [*made, *changed.values()]


def _canonical_part(part: Partition, disk_mib: int | None, *, second: bool) -> Partition:
    role = "data" if part.role == "system" and second else part.role
    role = "data" if role in TYPES and not part.made else role
    role = "boot" if role == "data" and part.active else role
    if role == "reserved" and part.made:
        return Partition(role=role, size=in_mib(part.size, disk_mib), grow=part.grow)
    return Partition(
        role=role,
        size=in_mib(part.size, disk_mib) if part.made else None,
        grow=part.grow,
        format=form_of(part, role),
        label=part.label,
        letter=part.letter,
        active=part.active or role == "boot",
        number=None if part.made else part.number,
        made=part.made,
    )


def which_of(disk: Disk) -> int | Template:
    """The number of the disk; names mean nothing to setup."""
    return disk.which if isinstance(disk.which, int | Template) else 0


def form_of(part: Partition, role: str) -> Any:
    """The file system: what is said if setup knows it, else what the role usually has."""
    known = part.format if part.format in ("ntfs", "fat32") else None
    return known or (FORMATS.get(role, "ntfs") if part.made else None)


def in_mib(size: Any, disk_mib: int | None) -> Any:
    """A size in whole MiB; None where it is a share of a disk of unknown size."""
    if not isinstance(size, Size):
        return size
    known = size.resolved(disk_mib)
    return Size(mib=known) if known is not None else None


def table_of(parts: tuple[Partition, ...]) -> Any:
    """The kind of partition table that the partitions need."""
    if any(part.role in TYPES for part in parts):
        return "gpt"
    return "mbr" if any(part.active for part in parts) else None


def numbers_of(parts: tuple[Partition, ...]) -> list[int | None]:
    """Each partition's number: made ones count from 1, others say theirs."""
    out: list[int | None] = []
    made = 0
    for part in parts:
        made += part.made
        out.append(made if part.made else part.number)
    return out


def target_of(parts: tuple[Partition, ...]) -> int | None:
    """Number of the partition that receives the system."""
    numbers = numbers_of(parts)
    return next((numbers[at] for at, part in enumerate(parts) if part.role == "system"), None)
