"""Disks and partitions: what makes setup stop, wipe the wrong thing, or not boot."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from pathlib import PurePath

from fairledger.catalog.routes import routes_of
from fairledger.catalog.seats import Seat
from fairledger.checks.claims import CATALOG, KICKSTART, PRACTICE, UEFI, WINDOWS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.disk import DISK, Disk, Partition
from fairledger.model.finding import Severity
from fairledger.model.showing import visible
from fairledger.model.size import Size
from fairledger.model.target import Target

_FIRMWARE = '[[disk.partition]]\nrole = "firmware"\nsize = "300 MiB"\n'
_SYSTEM = '[[disk.partition]]\nrole = "system"\nsize = "rest"\n'
_WIPE = '[disk]\nfate = "wipe"\n'
_GOOD = _WIPE + _FIRMWARE + _SYSTEM


def _parts(view: View) -> Iterator[tuple[int, int, Partition]]:
    for at, disk in view.each(DISK):
        for place, part in enumerate(disk.partition):
            yield at, place, part


def has_extended(view: View) -> bool:
    """Whether partitions lie inside an extended one: what is said of order and number does not hold then."""
    return any(view.saying("inside-another"))


@rule(
    "partition-grows-before-last",
    Severity.ERROR,
    "Only the last partition of a disk can take the rest: whatever comes after it finds no room.",
    source=f"{WINDOWS}, CreatePartition/Extend",
    fires=_WIPE + _FIRMWARE + _SYSTEM + '[[disk.partition]]\nrole = "data"\nsize = "20 GiB"\n',
    silent=_GOOD,
)
def partition_grows_before_last(view: View) -> Iterator[Hit]:
    """Growing partitions with others made after them, or beside other growing ones."""
    if not view.limits.one_growing_partition_last or has_extended(view):
        return
    for at, disk in view.each(DISK):
        # a script of our own makes what comes behind the growing one, once setup is through
        made = [place for place, part in enumerate(disk.partition) if part.made and not disk.by_script]
        for place in made[:-1]:
            if disk.partition[place].grow:
                after = disk.partition[place + 1 :]
                told = "another partition that grows" if any(one.grow for one in after) else "other partitions"
                yield Hit(
                    view.intent.placed("disk", at, "partition", place, "grow"),
                    f"partition {place + 1} takes all that is left, but {told} come after it",
                    "let only the last partition grow, and give the others a size",
                )


@rule(
    "partition-grows-with-size",
    Severity.ERROR,
    "A partition has a size or takes the rest, not both: setup refuses the layout.",
    source=f"{WINDOWS}, CreatePartition/Extend and Size",
    fires=_WIPE + _FIRMWARE + '[[disk.partition]]\nrole = "system"\nsize = "40 GiB"\ngrow = true\n',
    silent=_GOOD,
)
def partition_grows_with_size(view: View) -> Iterator[Hit]:
    """Growing partitions with a size of their own."""
    for at, place, part in _parts(view):
        if view.limits.grow_excludes_size and part.made and part.grow and part.size is not None:
            spot = view.intent.placed("disk", at, "partition", place, "grow")
            yield Hit(spot, f"partition {place + 1} has a size and also takes the rest", "take one of them out")


@rule(
    "partition-without-size",
    Severity.ERROR,
    "A partition that is made needs a size, unless it takes the rest.",
    source=f"{CATALOG}, what each installer says of sizes",
    fires=_WIPE + '[[disk.partition]]\nrole = "firmware"\n' + _SYSTEM,
    silent=_GOOD,
)
def partition_without_size(view: View) -> Iterator[Hit]:
    """Made partitions with neither size nor growth."""
    for at, place, part in _parts(view):
        spot = view.intent.placed("disk", at, "partition", place)
        by_itself = part.by_memory or (isinstance(spot, Seat) and spot.having("sizes-itself") is not None)
        if part.made and part.size is None and not part.grow and not by_itself:
            yield Hit(spot, f"partition {place + 1} has no size", "give it a size, or let it take the rest")


@rule(
    "partition-not-made",
    Severity.ERROR,
    "A partition is changed that is not there: on a wiped disk, only what is made exists.",
    source=f"{WINDOWS}, ModifyPartition/PartitionID",
    fires=_GOOD + '[[disk.partition]]\nmade = false\nnumber = 7\nformat = "ntfs"\n',
    silent=_GOOD,
)
def partition_not_made(view: View) -> Iterator[Hit]:
    """Changes to partitions of a wiped disk that nobody makes."""
    for at, disk in view.each(DISK):
        if disk.fate != "wipe":
            continue
        count = sum(part.made for part in disk.partition)
        for place, part in enumerate(disk.partition):
            if not part.made and part.number is not None:
                spot = view.intent.placed("disk", at, "partition", place)
                told = f"partition {part.number} is changed but never made; the disk gets {count}"
                yield Hit(spot, told, "correct the number, or make the partition")


@rule(
    "firmware-partition-missing",
    Severity.ERROR,
    "This firmware starts only from a firmware system partition, and a wiped disk has none left.",
    source=f"{UEFI}, the system partition",
    fires=_WIPE + _SYSTEM,
    silent=_GOOD,
)
def firmware_partition_missing(view: View) -> Iterator[Hit]:
    """Wiped disks that receive the system without the partition that the firmware starts from."""
    anywhere = {part.role for _, disk in view.each(DISK) for part in disk.partition}
    for at, disk in view.each(DISK):
        if disk.fate != "wipe" or not disk.partition or not (_receives(disk) or view.limits.mounts):
            continue
        # where partitions are mounted, the firmware may start from a disk and the system lie on another
        roles = anywhere if view.limits.mounts else {part.role for part in disk.partition}
        # another command makes it, in words that are no partition of ours
        if _made_elsewhere(view):
            continue
        spot = view.intent.placed("disk", at)
        firmware = view.facts.firmware
        if firmware is None:
            # only disks for one firmware have a reserved partition: it tells where nobody says which there is
            firmware = next(iter(view.limits.reserved_for), None) if "reserved" in roles else None
        if firmware in view.limits.firmware_partition_for and "firmware" not in roles:
            told = f"the disk is wiped and gets no firmware system partition; {firmware.upper()} machines cannot start"
            yield Hit(spot, told, "make one of 100 MiB or more, formatted with FAT32, before the others")
        active = any(part.active for part in disk.partition)
        both = view.limits.firmware_partition_for and view.limits.active_partition_for
        if firmware is None and both and "firmware" not in roles and not active:
            told = "the disk gets neither a firmware system partition nor an active one; nothing starts from it"
            yield Hit(spot, told, "UEFI machines need a firmware system partition, BIOS machines an active one")
        if firmware in view.limits.active_partition_for and not active:
            told = f"no partition is active; {firmware.upper()} machines cannot start"
            yield Hit(spot, told, "mark the partition that starts the machine: active = true")
        if firmware in view.limits.active_partition_for and "firmware" in roles:
            told = f"the layout is for UEFI firmware, the machines are said to have {firmware.upper()}"
            yield Hit(spot, told, "use a layout for this firmware")


@rule(
    "firmware-partition-format",
    Severity.ERROR,
    "The firmware reads its system partition only with FAT32.",
    source=f"{UEFI}, the file system of the system partition",
    fires=_WIPE + _FIRMWARE + 'format = "ntfs"\n' + _SYSTEM,
    silent=_GOOD,
)
def firmware_partition_format(view: View) -> Iterator[Hit]:
    """Firmware system partitions with another file system, and systems on that one."""
    for at, place, part in _parts(view):
        spot = view.intent.placed("disk", at, "partition", place, "format")
        if part.role == "firmware" and part.format not in ("fat32", None):
            yield Hit(spot, f"the firmware system partition is formatted with {part.format.upper()}", "use FAT32")
        if part.role == "firmware" and part.format is None and part.made and view.limits.drive_letters:
            yield Hit(spot, "the firmware system partition is made and not formatted", "use FAT32", Severity.WARNING)
        if part.role == "system" and part.format == "fat32" and view.limits.drive_letters:
            yield Hit(spot, "the system cannot be installed on FAT32", "use NTFS")


@rule(
    "install-target-missing",
    Severity.ERROR,
    "Disks are laid out, but nothing says where the system goes: setup stops and asks.",
    source=f"{WINDOWS}, ImageInstall, InstallTo",
    fires=_WIPE + _FIRMWARE + '[[disk.partition]]\nrole = "data"\nsize = "rest"\n',
    silent=_GOOD,
)
def install_target_missing(view: View) -> Iterator[Hit]:
    """Layouts without a partition for the system."""
    disks = view.intent.get(DISK) or ()
    if not view.limits.installs_to_stated_partition or not disks or any(disk.fate == "ask" for disk in disks):
        return
    if not any(_receives(disk) for disk in disks) and not any(view.having("from-server")):
        spot = view.intent.placed("disk", 0)
        yield Hit(spot, "no partition receives the system", 'give one partition the role "system"')


@rule(
    "install-target-wrong",
    Severity.ERROR,
    "The system is sent to a partition that does not exist or cannot hold it.",
    source=f"{WINDOWS}, ImageInstall, InstallTo/PartitionID",
    fires=_WIPE + "install_to = 1\n" + _FIRMWARE + '[[disk.partition]]\nrole = "data"\nsize = "rest"\n',
    silent=_GOOD,
)
def install_target_wrong(view: View) -> Iterator[Hit]:
    """Install targets that point nowhere, or at a partition of another purpose."""
    disks = view.intent.get(DISK) or ()
    for at, disk in enumerate(disks):
        number = disk.install_to
        if not isinstance(number, int):
            continue
        spot = view.intent.placed("disk", at, "install_to")
        # numbers count what is made, in its order: a partition that is only changed makes none
        made = [part for part in disk.partition if part.made]
        if disk.fate == "wipe" and not 1 <= number <= len(made):
            told = f"the system goes to partition {number} of disk {disk.which}, which gets only {len(made)}"
            yield Hit(spot, told, "count the made partitions from 1, the reserved one included")
        elif 1 <= number <= len(made) and made[number - 1].role in ("firmware", "reserved", "recovery"):
            role = {"firmware": "firmware system", "reserved": "reserved"}.get(made[number - 1].role, "recovery")
            told = f"the system goes to partition {number} of disk {disk.which}, which is the {role} partition"
            yield Hit(spot, told, "name the partition that is made for the system")
        elif any(other.fate == "wipe" for other in disks) and disk.fate == "keep" and not disk.partition:
            told = f"the system goes to disk {disk.which}, which is not laid out, while another disk is wiped"
            yield Hit(spot, told, "is the disk's number right?", Severity.WARNING)


@rule(
    "drive-letter-twice",
    Severity.ERROR,
    "Two volumes cannot have the same drive letter.",
    source=f"{WINDOWS}, ModifyPartition/Letter",
    fires=_GOOD.replace('role = "firmware"', 'role = "firmware"\nletter = "C"') + 'letter = "C"\n',
    silent=_GOOD + 'letter = "C"\n',
)
def drive_letter_twice(view: View) -> Iterator[Hit]:
    """Letters given twice, over all disks."""
    seen: set[str] = set()
    for at, place, part in _parts(view):
        if isinstance(part.letter, str):
            letter = part.letter.strip().upper()
            if letter in seen:
                spot = view.intent.placed("disk", at, "partition", place, "letter")
                yield Hit(spot, f"the drive letter {letter} is given twice", "give one of them another letter")
            seen.add(letter)


@rule(
    "disk-too-small",
    Severity.ERROR,
    "The partitions are larger than the disk that the draft states.",
    source="arithmetic over the sizes that are stated",
    fires='[draft]\ntarget = "windows-11-24h2"\ndisk_size = "64 GiB"\n'
    + _WIPE
    + _FIRMWARE
    + '[[disk.partition]]\nrole = "system"\nsize = "80 GiB"\n',
    silent='[draft]\ntarget = "windows-11-24h2"\ndisk_size = "64 GiB"\n' + _GOOD,
)
def disk_too_small(view: View) -> Iterator[Hit]:
    """Sums of partitions against a stated disk."""
    for at, disk in view.each(DISK):
        if view.facts.disk_mib is None or disk.fate != "wipe":
            continue
        # a share counts nothing here, so that the sum is what the disk needs at least
        total = sum(part.size.mib for part in disk.partition if part.made and isinstance(part.size, Size))
        if total > view.facts.disk_mib:
            told = f"the partitions of disk {disk.which} come to {total} MiB, the disk has {view.facts.disk_mib} MiB"
            yield Hit(view.intent.placed("disk", at), told, "make them smaller, or correct disk_size")


@rule(
    "disk-wiped",
    Severity.ADVICE,
    "A disk is wiped without a question: worth knowing before the file reaches a machine with data on it.",
    source=PRACTICE,
    fires=_GOOD,
    silent='[disk]\nfate = "keep"\ninstall_to = 3\n',
)
def disk_wiped(view: View) -> Iterator[Hit]:
    """Says which disk loses everything."""
    for at, disk in view.each(DISK):
        if disk.fate == "wipe":
            spot = view.intent.placed("disk", at, "fate")
            # the hypervisor takes "first" with a kind of disk behind it
            first = isinstance(disk.which, str) and disk.which.partition(":")[0] == "first"
            which = "every disk that is found" if disk.which is None else f"disk {disk.which}"
            which = "the first disk that is found" if first else which
            which = f"the disk that is chosen ({disk.choose})" if disk.choose else which
            told = f"{which} is wiped without a question; a stick in the machine may be counted as a disk too"
            hint = "make sure that this is the disk you mean"
            if _picked_up(view):
                hint += "; the installer picks up a file of this name by itself: keep the medium apart"
            yield Hit(spot, told, hint)
        for place, part in enumerate(disk.partition):
            if not part.made and part.device is not None and part.format is not None:
                told = f"partition {visible(str(part.device))} is made anew without a question"
                spot = view.intent.placed("disk", at, "partition", place)
                yield Hit(spot, told, "make sure that this is the partition you mean")
    for one in view.scripted:
        for wiped in (one_of for one_of in one.intent.get(DISK) or () if one_of.fate == "wipe"):
            which = f"disk {visible(str(wiped.which))}" if wiped.which is not None else "every disk that is found"
            told = f"commands that a script writes wipe {which} without a question"
            yield Hit(one.intent.placed("disk", 0), told, "make sure that this is the disk you mean")


def _picked_up(view: View) -> bool:
    """Whether the answer file has a name that the installer looks for by itself."""
    return view.target is not None and PurePath(view.file).name.casefold() in _looked_for(view.target)


@cache
def _looked_for(target: Target) -> frozenset[str]:
    """The names that its installer looks for by itself."""
    # a file whose name is typed at the start is not found by accident
    routes = [one for one in routes_of(target) if one.name != "plain" and not one.typed]
    return frozenset(PurePath(one.file).name.casefold() for one in routes) - {""}


@rule(
    "disk-ignored-and-used",
    Severity.ERROR,
    "A disk is to be left alone and used at once: the installer stops.",
    source=f"{KICKSTART}, ignoredisk",
    fires="#version=RHEL9\nignoredisk --only-use=sda\nclearpart --all\npart / --size=9000 --ondisk=sdb\n",
    silent="#version=RHEL9\nignoredisk --only-use=sda\nclearpart --all\npart / --size=9000 --ondisk=sda\n",
)
def disk_ignored_and_used(view: View) -> Iterator[Hit]:
    """Disks that are ignored but get partitions, or are wiped by name."""
    for at, disk in view.each(DISK):
        if disk.ignored and disk.partition:
            spot = view.intent.placed("disk", at, "partition", 0)
            yield Hit(spot, f"disk {disk.which} is left alone, but gets partitions", "take one of the two out")
        elif disk.ignored and disk.fate == "wipe" and disk.which is not None:
            spot = view.intent.placed("disk", at)
            yield Hit(
                spot,
                f"disk {disk.which} is left alone, but to be wiped",
                "name the disk that is used",
                Severity.WARNING,
            )


@rule(
    "bios-boot-missing",
    Severity.ERROR,
    "BIOS machines start from a GPT disk only with a small boot partition without a file system.",
    source=f"{KICKSTART}, part biosboot, reqpart",
    fires='[draft]\ntarget = "el-9"\nfirmware = "bios"\n[disk]\nwhich = "sda"\nfate = "wipe"\ntable = "gpt"\n'
    + _SYSTEM,
    silent='[draft]\ntarget = "el-9"\nfirmware = "bios"\n[disk]\nwhich = "sda"\nfate = "wipe"\ntable = "mbr"\n'
    + _SYSTEM,
)
def bios_boot_missing(view: View) -> Iterator[Hit]:
    """GPT disks of BIOS machines without the partition that their boot loader needs."""
    for at, disk in view.each(DISK):
        gpt = disk.fate == "wipe" and disk.table == "gpt" and disk.partition
        needed = view.facts.firmware in view.limits.boot_partition_for
        reserved = any(part.role == "reserved" for part in disk.partition)
        if gpt and needed and not reserved and not _made_elsewhere(view):
            told = f"disk {disk.which} gets a GPT, and no boot partition for BIOS firmware"
            yield Hit(view.intent.placed("disk", at), told, 'add role = "reserved", size = "1 MiB"')


def _made_elsewhere(view: View) -> bool:
    """Whether a command makes what the firmware needs by itself, or another file may."""
    return bool(view.blocks("makes-boot") or view.unseen)


def _receives(disk: Disk) -> bool:
    return disk.install_to is not None or any(part.role == "system" for part in disk.partition)
