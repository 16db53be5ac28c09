"""What a disk's table allows, and sizes, numbers and formats that cannot be meant."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.seats import Seat
from fairledger.catalog.setting import Setting
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.rules.volumes import all_parts
from fairledger.checks.view import View
from fairledger.intent.disk import DISK
from fairledger.model.sheet import visible
from fairledger.model.size import Size

_DISK = "[[answers.windowsPE.Microsoft-Windows-Setup.DiskConfiguration.Disk]]\nDiskID = 0\nWillWipeDisk = true\n"
_MADE = 'CreatePartitions = {{ CreatePartition = [{{ Order = 1, Type = "EFI", Size = 300 }}, {}] }}\n'
_GROWS = '{ Order = 2, Type = "Primary", Extend = true }'
_CHANGED = "ModifyPartitions = {{ ModifyPartition = [{{ Order = 1, PartitionID = 2, {} }}] }}\n"
_TARGET = "[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage.InstallTo]\nDiskID = 0\nPartitionID = 2\n"
_LAYOUT = (
    '[disk]\nfate = "{}"\npartition = [{{ role = "firmware", size = "{}" }}, {{ role = "system", size = "rest" }}]\n'
)
_USUAL = {"firmware": 8 * 1024, "reserved": 1024, "boot": 32 * 1024, "recovery": 128 * 1024}
"""More than these, in MiB, no such partition needs."""
_ANY = 256 * 1024 * 1024
"""More, in MiB, no disk has."""


def _is_disk(setting: Setting) -> object:
    return setting.path.endswith("DiskConfiguration/Disk")


def _types(disk: Seat) -> list[Seat]:
    return list(disk.all("CreatePartitions/CreatePartition/Type"))


def _gpt(disk: Seat) -> bool:
    return any(one.text in ("EFI", "MSR") for one in _types(disk))


@rule(
    "extended-on-gpt",
    "error",
    "GPT knows no extended and logical partitions: setup cannot lay the disk out.",
    fires=_DISK + _MADE.format('{ Order = 2, Type = "Logical", Size = 40000 }'),
    silent=_DISK + _MADE.format(_GROWS),
)
def extended_on_gpt(view: View) -> Iterator[Hit]:
    """Extended and logical partitions beside those that only GPT has."""
    for disk in view.where(_is_disk):
        for kind in _types(disk) if _gpt(disk) else ():
            if kind.text in ("Extended", "Logical"):
                told = f"a partition of the type {kind.text} stands beside those of a GPT disk"
                yield at(kind, told, "write Primary: GPT has room for more of them than anybody needs")


@rule(
    "partition-type-of-other-table",
    "warning",
    "The partition's type is written as the other kind of disk writes it: it is not set, or setup stops.",
    fires=_DISK + _MADE.format(_GROWS) + _CHANGED.format('TypeID = "0x27"'),
    silent=_DISK + _MADE.format(_GROWS) + _CHANGED.format('TypeID = "de94bba4-06d1-4d40-a16a-bfd50179d6ac"'),
)
def partition_type_of_other_table(view: View) -> Iterator[Hit]:
    """Numbers of MBR on GPT disks, identifiers of GPT on disks for BIOS firmware."""
    for disk in view.where(_is_disk):
        for kind in disk.all("ModifyPartitions/ModifyPartition/TypeID"):
            short = (kind.text or "").lower().startswith("0x")
            if short and _gpt(disk):
                hint = "write the identifier, such as de94bba4-06d1-4d40-a16a-bfd50179d6ac for a recovery partition"
                yield at(kind, f"{kind.text} is a type for MBR, and the disk has GPT", hint)
            elif kind.text and not short and not _gpt(disk) and view.facts.firmware == "bios":
                told = "an identifier for GPT stands on a disk that BIOS firmware starts from"
                yield at(kind, told, "write the number, such as 0x27 for a recovery partition")


@rule(
    "system-partition-unformatted",
    "warning",
    "The partition that receives the system is made and never formatted: setup may refuse it.",
    fires=_DISK + _MADE.format(_GROWS) + _CHANGED.format('Label = "Windows"') + _TARGET,
    silent=_DISK + _MADE.format(_GROWS) + _CHANGED.format('Format = "NTFS"') + _TARGET,
)
def system_partition_unformatted(view: View) -> Iterator[Hit]:
    """The install target among the partitions that are made, without a format."""
    for chosen in view.where(_is_install_target):
        disk_id, number = chosen.child("DiskID"), chosen.child("PartitionID")
        for disk in view.where(_is_disk):
            same = disk.child("DiskID")
            kinds = [kind.text for kind in _types(disk)]
            if disk_id is None or number is None or same is None or same.text != disk_id.text:
                continue
            changes = disk.all("ModifyPartitions/ModifyPartition")
            mine = [one for one in changes if (given := one.child("PartitionID")) and given.text == number.text]
            place = int(number.text) - 1 if number.text is not None and number.text.isdecimal() else -1
            if kinds[place : place + 1] == ["Primary"] and not any(one.child("Format") for one in mine):
                told = f"partition {number.text} receives the system, and nothing formats it"
                yield at(mine[0] if mine else number, told, "give it Format NTFS among the changed partitions")


def _is_install_target(setting: Setting) -> object:
    return setting.path.endswith("OSImage/InstallTo")


@rule(
    "partition-changed-twice",
    "warning",
    "The same partition is changed twice: probably one of the numbers is another one.",
    fires=_DISK
    + _MADE.format(_GROWS)
    + _CHANGED.replace("}}] }}", "}}, {{ Order = 2, PartitionID = 2 }}] }}").format('Label = "C"'),
    silent=_DISK + _MADE.format(_GROWS) + _CHANGED.format('Label = "C"'),
)
def partition_changed_twice(view: View) -> Iterator[Hit]:
    """Two changes with one number."""
    for disk in view.where(_is_disk):
        seen: set[str] = set()
        for change in disk.all("ModifyPartitions/ModifyPartition"):
            number = change.child("PartitionID")
            if number is not None and number.text and number.text in seen:
                yield at(number, f"partition {number.text} is changed twice", "correct the number, or join the two")
            seen.add(number.text if number is not None and number.text else "")
    there: set[str] = set()
    for seat in view.where(_is_taken):
        if seat.text and seat.text in there:
            yield at(seat, f"{visible(seat.text)} is used twice", "name another partition for one of them")
        there.add(seat.text or "")


def _is_taken(setting: Setting) -> object:
    return setting.name in ("--onpart", "--usepart")


@rule(
    "install-target-both",
    "warning",
    "The system is to go to a stated partition and to any free one: setup takes one of the two, or stops.",
    fires=_TARGET + "[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage]\n"
    "InstallToAvailablePartition = true\n",
    silent=_TARGET,
)
def install_target_both(view: View) -> Iterator[Hit]:
    """Two ways of naming the target."""
    for seat in view.where(_takes_any):
        if seat.text == "true" and seat.parent is not None and seat.parent.child("InstallTo") is not None:
            told = "any free partition is to receive the system, and a stated one too"
            yield at(seat, told, "keep the one that is meant")


def _takes_any(setting: Setting) -> object:
    return setting.name == "InstallToAvailablePartition"


@rule(
    "logical-alone",
    "error",
    "Logical partitions lie inside an extended one, which is made before them; and nothing else can be in that one.",
    fires=_DISK + _MADE.format('{ Order = 2, Type = "Logical", Size = 40000 }').replace('"EFI"', '"Primary"'),
    silent=_DISK + _MADE.format('{ Order = 2, Type = "Primary", Size = 40000 }').replace('"EFI"', '"Primary"'),
)
def logical_alone(view: View) -> Iterator[Hit]:
    """Logical partitions without an extended one, and systems sent to the extended one itself."""
    for disk in view.where(_is_disk):
        rows = [(row.child("Order"), row.child("Type")) for row in disk.all("CreatePartitions/CreatePartition")]
        kinds = {
            order.text.strip(): kind for order, kind in rows if kind is not None and order is not None and order.text
        }
        texts = [kind.text for _, kind in rows if kind is not None]
        for kind in kinds.values() if "Extended" not in texts else ():
            if kind.text == "Logical":
                yield at(kind, "a logical partition is made, and no extended one", "make the extended one before it")
        number = disk.child("DiskID")
        for seat in view.where(_is_target):
            beside = seat.parent.child("DiskID") if seat.parent is not None else None
            here = number is not None and beside is not None and number.text == beside.text
            aimed = kinds.get((seat.text or "").strip()) if here else None
            if aimed is not None and aimed.text == "Extended":
                yield at(seat, "the system is sent to the extended partition", "name one that can be formatted")


def _is_target(setting: Setting) -> object:
    return setting.path.endswith("InstallTo/PartitionID")


@rule(
    "disk-kept-and-laid-out",
    "warning",
    "Partitions are made on a disk that is not wiped: where anything is on it already, their numbers are others.",
    reads=("disk",),
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
    "warning",
    "The partition is far larger than anything of its kind: another unit was probably meant.",
    reads=("disk",),
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


@rule(
    "most-below-size",
    "error",
    "A partition's largest size is smaller than its size: there is no size that it could have.",
    fires="#version=RHEL9\npart / --size=20000 --grow --maxsize=8000\n",
    silent="#version=RHEL9\npart / --size=8000 --grow --maxsize=20000\n",
)
def most_below_size(view: View) -> Iterator[Hit]:
    """Bounds of growing that exclude each other."""
    for seat in view.where(_is_most):
        size = seat.parent.child("--size") if seat.parent is not None else None
        texts = (seat.text or "", size.text or "" if size is not None else "")
        if all(one.isascii() and one.isdecimal() for one in texts) and int(texts[0][:12]) < int(texts[1][:12]):
            yield at(seat, f"it may grow to {texts[0]} MiB, and has {texts[1]} already", "correct one of the two")


def _is_most(setting: Setting) -> object:
    return setting.name == "--maxsize"


@rule(
    "boot-drive-other",
    "warning",
    "The boot loader is written to a disk that gets nothing else: the machine starts from another one, or not at all.",
    reads=("disk",),
    fires="#version=RHEL9\nclearpart --all --drives=sda\npart / --size=9000 --ondisk=sda\n"
    "bootloader --boot-drive=sdb\n",
    silent="#version=RHEL9\nclearpart --all --drives=sda\npart / --size=9000 --ondisk=sda\n"
    "bootloader --boot-drive=sda\n",
)
def boot_drive_other(view: View) -> Iterator[Hit]:
    """Boot loaders away from all disks that are used, where these are named."""
    used = [disk.which for _, disk in view.each(DISK) if not disk.ignored and (disk.partition or disk.fate == "wipe")]
    if not used or not all(isinstance(one, str) and one.isalnum() for one in used):
        return
    for seat in view.where(_is_boot_drive):
        if seat.text and seat.text.isalnum() and seat.text not in used:
            told = f"the boot loader goes to {seat.text}, and nothing else does"
            yield at(seat, told, f"name {' or '.join(str(one) for one in used)}")


def _is_boot_drive(setting: Setting) -> object:
    return setting.name == "--boot-drive"
