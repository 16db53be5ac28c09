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
_OLD = '[disk]\nfate = "wipe"\npartition = [{ role = "system", size = "rest", active = true }]\n'
_FORMATTED = (
    '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="windowsPE">'
    '<component name="Microsoft-Windows-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" '
    'language="neutral" versionScope="nonSxS"><DiskConfiguration><Disk><DiskID>0</DiskID>'
    "<WillWipeDisk>true</WillWipeDisk><CreatePartitions><CreatePartition><Order>1</Order><Type>MSR</Type>"
    "<Size>16</Size></CreatePartition></CreatePartitions><ModifyPartitions><ModifyPartition><Order>1</Order>"
    "<PartitionID>1</PartitionID><Format>{0}</Format></ModifyPartition></ModifyPartitions></Disk>"
    "</DiskConfiguration></component></settings></unattend>"
)
_REACH = 2 * 1024 * 1024
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
    "table-too-small",
    Severity.WARNING,
    "A table of the older kind (MBR) reaches 2 TiB: what lies behind that on the disk is lost.",
    source=f"{PRACTICE}, 32 bits for the number of a sector",
    given="--disk-size 4TB",
    fires='[draft]\ntarget = "windows-10-22h2"\nfirmware = "bios"\ndisk_size = "4 TB"\n' + _OLD,
    silent='[draft]\ntarget = "windows-10-22h2"\nfirmware = "bios"\ndisk_size = "1 TB"\n' + _OLD,
)
def table_too_small(view: View) -> Iterator[Hit]:
    """Disks of more than 2 TiB with an MBR, or on machines that start only from one."""
    size = view.facts.disk_mib
    for place, disk in view.each(DISK):
        mbr = disk.table == "mbr" or (disk.table is None and view.facts.firmware == "bios")
        if size is not None and size > _REACH and mbr and disk.fate == "wipe" and disk.partition and place == 0:
            told = "the disk has more than 2 TiB, of which a table of the older kind reaches only the first two"
            yield Hit(view.intent.placed("disk", place), told, "use GPT, which needs UEFI firmware to start from")


@rule(
    "reserved-missing",
    Severity.ADVICE,
    "A disk with a GPT that receives the system has no reserved partition, which later tools need room for.",
    source=f"{WINDOWS}, CreatePartition/Type MSR",
    fires=_LAYOUT.format("wipe", "300 MiB"),
    silent=_LAYOUT.format("wipe", "300 MiB").replace("}, {", '}, { role = "reserved", size = "16 MiB" }, {'),
)
def reserved_missing(view: View) -> Iterator[Hit]:
    """Wiped disks for UEFI machines without it."""
    for place, disk in view.each(DISK):
        roles = {part.role for part in disk.partition}
        wanted = view.limits.drive_letters and "uefi" in view.limits.reserved_for and {"firmware", "system"} <= roles
        if wanted and disk.fate == "wipe" and "reserved" not in roles and disk.table != "mbr":
            told = "the disk gets no reserved partition"
            hint = 'add role = "reserved", size = "16 MiB", behind the firmware\'s'
            yield Hit(view.intent.placed("disk", place), told, hint)


@rule(
    "reserved-formatted",
    Severity.ERROR,
    "The reserved partition holds no file system: formatting it makes setup stop.",
    source=f"{WINDOWS}, CreatePartition/Type MSR",
    fires=_FORMATTED.format("NTFS"),
    silent=_FORMATTED.replace("<Format>{0}</Format>", ""),
)
def reserved_formatted(view: View) -> Iterator[Hit]:
    """Reserved partitions with a format or a letter."""
    for part, spot in all_parts(view):
        if part.role == "reserved" and view.limits.drive_letters and (part.format or part.letter):
            told = "the reserved partition is formatted" if part.format else "the reserved partition gets a letter"
            yield Hit(spot, told, "leave it as it is made")


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
