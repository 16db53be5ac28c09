"""Layouts of disks in their details: sizes, labels, letters, what starts the machine, encryption."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.checks.claims import CATALOG, KICKSTART, PRACTICE, SELF, UEFI, WINDOWS, WINDOWS_DISKS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.rules.disks import has_extended
from fairledger.checks.view import View
from fairledger.intent.disk import DISK, Disk, Partition
from fairledger.intent.volume import VOLUME
from fairledger.model.finding import Severity
from fairledger.model.places import Placed
from fairledger.model.showing import visible
from fairledger.model.size import Size

_HEAD = '[disk]\nfate = "wipe"\npartition = [\n'
_FIRMWARE = '{ role = "firmware", size = "300 MiB" },\n'
_SYSTEM = '{ role = "system", size = "rest" },\n'
_GOOD = _HEAD + _FIRMWARE + _SYSTEM + "]\n"
_LINUX = "#version=RHEL9\nclearpart --all --initlabel\npart /boot --fstype=xfs --size=1024\n"
_GROUP = (
    "#version=RHEL9\nclearpart --all\npart pv.01 --size=1 --grow\nvolgroup station pv.01\n"
    "logvol / --vgname=station --name=root --size=9000\n"
)
_ROOT = _LINUX + "part / --fstype=xfs --size=9000 --grow\n"


def _parts(view: View) -> list[tuple[Disk, Partition, Placed]]:
    """Every partition with its disk and its place."""

    def listed() -> list[tuple[Disk, Partition, Placed]]:
        return [
            (disk, part, view.intent.placed("disk", at, "partition", place))
            for at, disk in view.each(DISK)
            for place, part in enumerate(disk.partition)
        ]

    return view.kept.once("parts", listed)


def _fixed(part: Partition) -> int | None:
    """The size of a made partition that neither grows nor is a share, in MiB."""
    known = isinstance(part.size, Size) and not part.size.percent and part.made and not part.grow
    return part.size.mib if known and isinstance(part.size, Size) else None


@rule(
    "system-partition-small",
    Severity.WARNING,
    "The partition for the system is too small for it: the installation stops half-way, or the first updates fail.",
    source=f"{CATALOG}, what the system takes at least",
    fires=_HEAD + _FIRMWARE + '{ role = "system", size = "9 GiB" },\n]\n',
    silent=_HEAD + _FIRMWARE + '{ role = "system", size = "90 GiB" },\n]\n',
)
def system_partition_small(view: View) -> Iterator[Hit]:
    """System partitions of a fixed size below what the system needs."""
    least = (view.target.least_system_mib if view.target else 0) or view.limits.system_least_mib
    # the system may lie in a volume as well as in a partition
    rows = [(part, spot) for _, part, spot in _parts(view)]
    for at, volume in view.each(VOLUME):
        rows += [
            (part, view.intent.placed("volume", at, "partition", place)) for place, part in enumerate(volume.partition)
        ]
    for part, spot in rows:
        size = _fixed(part)
        if part.role == "system" and size is not None and size < least:
            told = f"the system's partition has {Size(mib=size)}; less than {Size(mib=least)} is too little"
            yield Hit(spot, told, "make it larger, or let it take the rest")


@rule(
    "firmware-partition-small",
    Severity.WARNING,
    "The firmware system partition is too small for what the installer puts there.",
    source=WINDOWS_DISKS,
    fires=_HEAD + '{ role = "firmware", size = "50 MiB" },\n' + _SYSTEM + "]\n",
    silent=_GOOD,
)
def firmware_partition_small(view: View) -> Iterator[Hit]:
    """Firmware system partitions below 100 MiB."""
    for _, part, spot in _parts(view):
        size = _fixed(part)
        if part.role == "firmware" and size is not None and size < 100:
            told = f"the firmware system partition has {size} MiB"
            yield Hit(spot, told, "give it 100 MiB or more; 260 MiB also fits disks with large sectors")


@rule(
    "recovery-partition-small",
    Severity.WARNING,
    "The recovery partition cannot hold the recovery system with the room that its updates need.",
    source=WINDOWS_DISKS,
    fires=_HEAD + _FIRMWARE + '{ role = "recovery", size = "200 MiB" },\n' + _SYSTEM + "]\n",
    silent=_HEAD + _FIRMWARE + '{ role = "recovery", size = "1 GiB" },\n' + _SYSTEM + "]\n",
)
def recovery_partition_small(view: View) -> Iterator[Hit]:
    """Recovery partitions below 300 MiB, and those below what the release wants."""
    wanted = view.target.least_recovery_mib if view.target else 0
    for _, part, spot in _parts(view):
        size = _fixed(part)
        # an active one is the boot partition of an older layout that also recovers
        if part.role != "recovery" or part.active or size is None:
            continue
        if size < 300:
            yield Hit(spot, f"the recovery partition has {size} MiB", "give it 1 GiB")
        elif view.target is not None and size < wanted:
            told = f"the recovery partition has {size} MiB; updates of {view.target.name} want {wanted} or more"
            yield Hit(spot, told, "give it 1 GiB", Severity.ADVICE)


@rule(
    "boot-partition-small",
    Severity.WARNING,
    "The partition for the boot loader's files is full after a few updates of the kernel.",
    source=f"{KICKSTART}, recommended partitions",
    fires=_ROOT.replace("--size=1024", "--size=200"),
    silent=_ROOT,
)
def boot_partition_small(view: View) -> Iterator[Hit]:
    """Separate boot partitions below 500 MiB, where kernels live in them."""
    for _, part, spot in _parts(view):
        size = _fixed(part)
        # 1 or 2 MiB: the room that a boot loader needs on a GPT disk of a BIOS machine, no place for files
        if view.limits.mounts and part.role == "boot" and part.mount in (None, "/boot") and size and 2 < size < 500:
            yield Hit(spot, f"/boot has {size} MiB", "give it 1 GiB")


@rule(
    "drive-letter",
    Severity.WARNING,
    "X is the letter of setup itself while it runs: no partition gets it.",
    source=f"{WINDOWS}, ModifyPartition/Letter; X is setup's own",
    fires=_GOOD.replace('size = "rest"', 'size = "rest", letter = "X"'),
    silent=_GOOD.replace('size = "rest"', 'size = "rest", letter = "C"'),
)
def drive_letter(view: View) -> Iterator[Hit]:
    """Setup's own letter."""
    for _, part, spot in _parts(view):
        if part.letter == "X" and view.limits.drive_letters:
            yield Hit(spot, "X is the letter of setup itself while it runs", "choose another, from C to W, Y or Z")


@rule(
    "partitions-too-many",
    Severity.ERROR,
    "A disk with an MBR holds four partitions.",
    source="the form of a master boot record",
    fires=_HEAD
    + '{ role = "boot", size = "500 MiB", active = true },\n'
    + '{ role = "data", size = "9 GiB" },\n' * 3
    + _SYSTEM
    + "]\n",
    silent=_HEAD + '{ role = "boot", size = "500 MiB", active = true },\n' + _SYSTEM + "]\n",
)
def partitions_too_many(view: View) -> Iterator[Hit]:
    """More than four made partitions on an MBR, where nobody makes an extended one."""
    if view.limits.extends_by_itself or has_extended(view):
        return
    for at, disk in view.each(DISK):
        made = sum(part.made for part in disk.partition)
        # on a kept disk nobody knows what is there already
        if disk.fate == "wipe" and disk.table == "mbr" and made > 4:
            told = f"{made} partitions are made on a disk with an MBR"
            yield Hit(view.intent.placed("disk", at), told, "make four at most, or use GPT with UEFI firmware")


@rule(
    "label-long",
    Severity.ERROR,
    "A volume's label is longer than its file system allows: the formatting fails.",
    source="the limits of the file systems: FAT32 11, NTFS 32, XFS 12, ext 16 characters",
    fires=_GOOD.replace('"300 MiB"', '"300 MiB", label = "Larkmoor firmware"'),
    silent=_GOOD.replace('"300 MiB"', '"300 MiB", label = "System"'),
)
def label_long(view: View) -> Iterator[Hit]:
    """Labels beyond 11 characters on FAT32, 12 on XFS, 16 on ext, 32 on NTFS."""
    most = {"fat32": 11, "ntfs": 32, "xfs": 12, "ext4": 16, "ext3": 16, "ext2": 16}
    for _, part, spot in _parts(view):
        # without a word the firmware system partition becomes FAT32
        form = part.format or ("fat32" if part.role == "firmware" else None)
        limit = most.get(form or "")
        if limit and isinstance(part.label, str) and len(part.label) > limit:
            told = f"the label {visible(part.label)} has {len(part.label)} characters, {form} allows {limit}"
            yield Hit(spot, told, "shorten it")


@rule(
    "label-twice",
    Severity.ADVICE,
    "Two volumes have one label: whoever looks for a volume by its label finds either.",
    source=PRACTICE,
    fires=_HEAD
    + _FIRMWARE
    + '{ role = "data", size = "9 GiB", label = "Readings" },\n'
    + '{ role = "system", size = "rest", label = "Readings" },\n]\n',
    silent=_GOOD,
)
def label_twice(view: View) -> Iterator[Hit]:
    """Labels that repeat."""
    seen: set[str] = set()
    for _, part, spot in _parts(view):
        label = part.label.casefold() if isinstance(part.label, str) else ""
        if label and label in seen:
            yield Hit(spot, f"the label {visible(str(part.label))} stands twice", "give each volume its own")
        seen.add(label)


@rule(
    "disk-wiped-and-empty",
    Severity.ERROR,
    "A disk is wiped and nothing is made on it: the system has no place to go.",
    source=SELF,
    fires='[disk]\nfate = "wipe"\ninstall_to = 1\n',
    silent=_GOOD,
)
def disk_wiped_and_empty(view: View) -> Iterator[Hit]:
    """Wiped disks that receive the system, without any partition."""
    for at, disk in view.each(DISK):
        target = isinstance(disk.install_to, int)
        if disk.fate == "wipe" and not disk.partition and disk.plan is None and target:
            told = f"the disk is wiped, no partition is made, and the system is to go to partition {disk.install_to}"
            yield Hit(view.intent.placed("disk", at), told, "make partitions, or keep the disk")


@rule(
    "active-on-gpt",
    Severity.WARNING,
    "Only disks with an MBR have an active partition; on GPT the mark does nothing, or stops setup.",
    source=f"{WINDOWS}, ModifyPartition/Active",
    fires=_GOOD.replace('size = "rest"', 'size = "rest", active = true'),
    silent=_GOOD,
)
def active_on_gpt(view: View) -> Iterator[Hit]:
    """Active partitions beside a firmware system partition."""
    for disk, part, spot in _parts(view):
        # setup makes these two on GPT disks only, so that they tell where the table is not stated
        if not part.active or not view.limits.active_partition_for:
            continue
        if disk.table == "gpt" or any(one.role in ("firmware", "reserved") for one in disk.partition):
            yield Hit(spot, "a partition of a GPT disk is marked active", "take the mark out")


@rule(
    "active-twice",
    Severity.ERROR,
    "One partition of a disk can be active; with two the firmware does not start.",
    source=f"{WINDOWS}, ModifyPartition/Active",
    fires=_HEAD
    + '{ role = "boot", size = "500 MiB", active = true },\n'
    + '{ role = "system", size = "rest", active = true },\n]\n',
    silent=_HEAD + '{ role = "boot", size = "500 MiB", active = true },\n' + _SYSTEM + "]\n",
)
def active_twice(view: View) -> Iterator[Hit]:
    """Disks with several active partitions."""
    for at, disk in view.each(DISK):
        active = [place for place, part in enumerate(disk.partition) if part.active]
        for place in active[1:]:
            spot = view.intent.placed("disk", at, "partition", place, "active")
            yield Hit(spot, f"partitions {active[0] + 1} and {place + 1} are both active", "mark one of them")


@rule(
    "boot-in-volume",
    Severity.WARNING,
    "The boot loader's files lie where many boot loaders cannot read them: in a volume group or on RAID.",
    source=f"{KICKSTART}, recommended partitions",
    fires="#version=RHEL9\nclearpart --all\npart pv.01 --size=1 --grow\nvolgroup station pv.01\n"
    "logvol /boot --vgname=station --name=boot --size=1024\n"
    "logvol / --vgname=station --name=root --size=9000\n",
    silent=_ROOT,
)
def boot_in_volume(view: View) -> Iterator[Hit]:
    """Boot partitions inside groups."""
    for at, volume in view.each(VOLUME):
        for place, part in enumerate(volume.partition):
            if volume.kind == "group" and (part.mount == "/boot" or part.role == "boot"):
                spot = view.intent.placed("volume", at, "partition", place)
                yield Hit(spot, "/boot is a volume of a group", "make it a partition of its own")


@rule(
    "boot-encrypted",
    Severity.WARNING,
    "The boot partition is encrypted: the installer refuses it, or the boot loader asks before it can read anything.",
    source=f"{KICKSTART}, part --encrypted",
    fires=_ROOT.replace("--size=1024", "--size=1024 --encrypted --passphrase=Kestrel-7"),
    silent=_ROOT,
)
def boot_encrypted(view: View) -> Iterator[Hit]:
    """Encrypted boot and firmware partitions."""
    for _, part, spot in _parts(view):
        if part.encrypted and (part.role in ("boot", "firmware") or part.mount == "/boot"):
            yield Hit(spot, "the boot partition is encrypted", "encrypt the others only")


@rule(
    "passphrase-missing",
    Severity.WARNING,
    "Something is encrypted and no passphrase is given: the installer stops and asks.",
    source=f"{KICKSTART}, part --passphrase",
    fires="#version=RHEL9\nclearpart --all\nautopart --encrypted\n",
    silent="#version=RHEL9\nclearpart --all\nautopart --encrypted --passphrase=Kestrel-7\n",
)
def passphrase_missing(view: View) -> Iterator[Hit]:
    """Encryption without a passphrase."""
    told, hint = "it is encrypted, but no passphrase is given", "refer to one as a secret"
    for at, disk in view.each(DISK):
        if disk.plan is not None and disk.plan.encrypted and disk.plan.passphrase is None:
            yield Hit(view.intent.placed("disk", at, "plan", "encrypted"), told, hint)
    for _, part, spot in _parts(view):
        if part.encrypted and part.passphrase is None:
            yield Hit(spot, told, hint)
    for at, volume in view.each(VOLUME):
        for place, part in enumerate(volume.partition):
            if part.encrypted and part.passphrase is None:
                yield Hit(view.intent.placed("volume", at, "partition", place), told, hint)


@rule(
    "volume-twice",
    Severity.ERROR,
    "Two volumes of a group have one name: the second cannot be made.",
    source=f"{KICKSTART}, logvol --name",
    fires=_GROUP + "logvol /srv --vgname=station --name=root --size=9000\n",
    silent=_GROUP + "logvol /srv --vgname=station --name=srv --size=9000\n",
)
def volume_twice(view: View) -> Iterator[Hit]:
    """Names that repeat inside a group."""
    for at, volume in view.each(VOLUME):
        seen: set[object] = set()
        for place, part in enumerate(volume.partition):
            if part.name is not None and part.name in seen:
                spot = view.intent.placed("volume", at, "partition", place, "name")
                yield Hit(spot, f"the volume {visible(str(part.name))} is made twice", "give each its own name")
            seen.add(part.name)


@rule(
    "table-and-firmware",
    Severity.WARNING,
    "The kind of partition table does not go with the partition that the firmware starts from.",
    source=f"{UEFI}, GPT disks",
    fires="#version=RHEL9\nclearpart --all --initlabel --disklabel=msdos\npart /boot/efi --fstype=efi --size=600\n"
    "part / --fstype=xfs --size=9000\n",
    silent="#version=RHEL9\nclearpart --all --initlabel --disklabel=gpt\npart /boot/efi --fstype=efi --size=600\n"
    "part / --fstype=xfs --size=9000\n",
)
def table_and_firmware(view: View) -> Iterator[Hit]:
    """Firmware system partitions on disks with an MBR."""
    for at, disk in view.each(DISK):
        for place, part in enumerate(disk.partition):
            if part.role == "firmware" and disk.table == "mbr" and disk.fate == "wipe":
                spot = view.intent.placed("disk", at, "partition", place)
                told = "a firmware system partition is made on a disk with an MBR"
                yield Hit(spot, told, "use GPT: many machines with UEFI do not start otherwise")
