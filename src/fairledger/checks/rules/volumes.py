"""Mount points, volume groups and RAID: what makes a layout that nothing can be installed on."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.seats import Seat
from fairledger.checks.claims import HYPERVISOR, KICKSTART, SELF
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.disk import DISK, MOUNT_POINTS, Partition
from fairledger.intent.volume import VOLUME
from fairledger.model.finding import Severity
from fairledger.model.places import Placed
from fairledger.model.size import Size

_HEAD = "#version=RHEL9\nclearpart --all --initlabel\n"
_PLAIN = _HEAD + "part /boot --fstype=xfs --size=1024\npart / --fstype=xfs --size=9000 --grow\n"
_GROUP = (
    _HEAD + "part pv.01 --size=1 --grow\nvolgroup station pv.01\nlogvol / --vgname=station --name=root --size=9000\n"
)
_CONSOLE = (
    "accepteula\nvirtualdisk console --size={} --onvmfs=store\n"
    "part / --fstype=ext3 --size=5000 --onvirtualdisk=console\n"
)
_RAID = _HEAD + "part raid.01 --size=9000\npart raid.02 --size=9000\nraid / --level={} --device=root raid.01 raid.02\n"
_ROOM = 4
"""MiB that a virtual disk needs beyond the partitions in it."""


def all_parts(view: View) -> list[tuple[Partition, Placed]]:
    """Every partition and volume, with its place."""

    def listed() -> list[tuple[Partition, Placed]]:
        made = [("disk", at, disk.partition) for at, disk in view.each(DISK)]
        made += [("volume", at, volume.partition) for at, volume in view.each(VOLUME)]
        return [
            (part, view.intent.placed(name, at, "partition", place))
            for name, at, parts in made
            for place, part in enumerate(parts)
        ]

    return view.kept.once("volumes", listed)


def _mount(part: Partition) -> str | None:
    where = MOUNT_POINTS.get(part.role) or part.mount
    return where if isinstance(where, str) and where.startswith("/") else None


@rule(
    "mount-twice",
    Severity.ERROR,
    "Two partitions are mounted at the same place.",
    source=SELF,
    fires=_PLAIN + "part / --fstype=ext4 --size=5000\n",
    silent=_PLAIN,
)
def mount_twice(view: View) -> Iterator[Hit]:
    """Mount points given twice, over disks and volumes."""
    seen: set[str] = set()
    rows: list[tuple[object, Placed]] = [
        (part.member or (_mount(part) if view.limits.mounts else None), spot) for part, spot in all_parts(view)
    ]
    # subvolumes are mounted too, and stand in no section
    others = (seat for seat in view.having("mount-point") if id(seat.node) not in view.understood)
    rows += [(seat.text, seat) for seat in others if seat.text and seat.text.startswith("/")]
    for where, spot in rows:
        # a placeholder may come to anything; "none" is said of what is mounted nowhere
        if not isinstance(where, str) or where == "none":
            continue
        if where in seen and where.startswith("/"):
            yield Hit(spot, f"two partitions are mounted at {where}", "mount one of them somewhere else")
        elif where in seen:
            yield Hit(spot, f"{where} is made twice", "give each a name of its own")
        seen.add(where)


@rule(
    "root-missing",
    Severity.ERROR,
    "Partitions are laid out, but none is mounted at the root: there is nowhere to install.",
    source=f"{KICKSTART}, part",
    fires=_HEAD + "part /home --fstype=xfs --size=9000\n",
    silent=_GROUP,
)
def root_missing(view: View) -> Iterator[Hit]:
    """Layouts without a root."""
    rows = all_parts(view)
    elsewhere = any(seat.text == "/" for seat in view.having("mount-point"))  # by commands of other kinds
    if (
        view.limits.mounts
        and rows
        and not elsewhere
        and not any(_mount(part) == "/" or _open(part) for part, _ in rows)
    ):
        yield Hit(rows[0][1], "no partition is mounted at /", "mount one there")


def _open(part: Partition) -> bool:
    # a placeholder may become the root when it is filled
    return part.mount is not None and not isinstance(part.mount, str)


@rule(
    "boot-inside-group",
    Severity.WARNING,
    "The root is in a volume group and nothing outside it holds /boot: the boot loader cannot be installed there.",
    source=f"{KICKSTART}, recommended partitions",
    fires=_GROUP,
    silent=_GROUP + "part /boot --size=1024\n",
)
def boot_inside_group(view: View) -> Iterator[Hit]:
    """Volume groups with everything in them."""
    outside = [part for _, disk in view.each(DISK) for part in disk.partition]
    outside += [part for _, volume in view.each(VOLUME) if volume.kind == "raid" for part in volume.partition]
    # what a file takes in may make it, and so does the option that asks for it
    made = bool(view.unseen) or any(view.having("adds-boot"))
    if made or not view.limits.mounts or any(part.role == "boot" or _mount(part) == "/boot" for part in outside):
        return
    for at, volume in view.each(VOLUME):
        for place, part in enumerate(volume.partition):
            if volume.kind == "group" and _mount(part) == "/":
                told = "the root is in a volume group, and nothing outside it holds /boot"
                yield Hit(view.intent.placed("volume", at, "partition", place), told, "make a partition for /boot")


@rule(
    "raid-too-few",
    Severity.ERROR,
    "A RAID of this level needs more members: the installer stops.",
    source=f"{KICKSTART}, raid --level",
    fires=_RAID.format(5),
    silent=_RAID.format(1),
)
def raid_too_few(view: View) -> Iterator[Hit]:
    """Members beyond the spare ones, against what each level is made of."""
    for place, volume in view.each(VOLUME):
        # one member is enough where the level is unknown, so that nothing is claimed of it
        least = _MEMBERS.get(str(volume.level or "").upper().removeprefix("RAID"), 1)
        if volume.kind == "raid" and 0 < len(volume.members) < least:
            told = f"a RAID of the level {volume.level} has {len(volume.members)} members, and needs {least}"
            yield Hit(view.intent.placed("volume", place, "members"), told, "add members, or choose another level")


_MEMBERS = {"0": 2, "1": 2, "4": 3, "5": 3, "6": 4, "10": 4}


@rule(
    "member-unused",
    Severity.ERROR,
    "A partition is made for a volume group or RAID that does not take it.",
    source=f"{KICKSTART}, volgroup, raid",
    fires=_GROUP + "part pv.02 --size=5000\n",
    silent=_GROUP,
)
def member_unused(view: View) -> Iterator[Hit]:
    """Members that nobody uses."""
    volumes = view.intent.get(VOLUME) or ()
    used = {member for volume in volumes for member in volume.members}
    # commands for subvolumes name their partitions in settings of their own
    used.update(seat.text for seat in view.having("members") if seat.text)
    for part, spot in all_parts(view):
        if part.member is not None and part.member not in used:
            yield Hit(spot, f"{part.member} is made, but nothing uses it", "name it in a group or RAID, or take it out")


@rule(
    "member-unknown",
    Severity.ERROR,
    "A volume group or RAID is made of something that nobody makes.",
    source=f"{KICKSTART}, volgroup, raid",
    fires=_GROUP.replace("volgroup station pv.01", "volgroup station pv.01 pv.07"),
    silent=_GROUP,
)
def member_unknown(view: View) -> Iterator[Hit]:
    """Members that do not exist."""
    made = {part.member for part, _ in all_parts(view) if part.member is not None}
    volumes = view.intent.get(VOLUME)
    for at, volume in enumerate(volumes or ()):
        for member in volume.members:
            # other members are disks or partitions that are there already
            if isinstance(member, str) and member.startswith(("pv.", "raid.")) and member not in made:
                told = f"{volume.name} is made of {member}, which nobody makes"
                yield Hit(view.intent.placed("volume", at, "members"), told, f"make a partition {member}")


@rule(
    "plan-with-partitions",
    Severity.ERROR,
    "The installer's own plan and partitions of one's own exclude each other.",
    source=f"{KICKSTART}, autopart",
    fires=_PLAIN + "autopart --type=lvm\n",
    silent=_HEAD + "autopart --type=lvm\n",
)
def plan_with_partitions(view: View) -> Iterator[Hit]:
    """Automatic layouts mixed with own ones."""
    disks, volumes = view.intent.get(DISK) or (), view.intent.get(VOLUME) or ()
    planned = next((at for at, disk in enumerate(disks) if disk.plan is not None), None)
    if planned is not None and (volumes or any(disk.partition for disk in disks)):
        spot = view.intent.placed("disk", planned, "plan")
        yield Hit(spot, "the installer's own plan stands beside own partitions", "keep one of the two")


@rule(
    "mount-format",
    Severity.ERROR,
    "The file system cannot be used where it is mounted.",
    source=f"{KICKSTART}, part --fstype",
    fires=_HEAD + "part / --fstype=vfat --size=9000\n",
    silent=_PLAIN,
)
def mount_format(view: View) -> Iterator[Hit]:
    """Roots on file systems without owners and rights; mount points that are no paths."""
    for part, spot in all_parts(view):
        if not view.limits.mounts:
            return
        if _mount(part) not in (None, "/boot/efi") and part.format == "fat32" and part.role != "firmware":
            yield Hit(spot, f"{_mount(part)} cannot be on FAT", "use xfs or ext4")
        mount = part.mount
        if part.role == "swap" and part.format not in (None, "swap"):
            yield Hit(
                spot, f"swap space is not formatted with {part.format}", "leave the file system out", Severity.WARNING
            )
        if part.role == "data" and isinstance(mount, str) and not mount.startswith("/") and mount != "none":
            yield Hit(spot, f"{mount!r} is no mount point", "begin it with /, or write swap, pv.01, raid.01")


@rule(
    "format-gone",
    Severity.ERROR,
    "The release has no such file system any more: its installer cannot make it.",
    source="the release notes of the target's vendor",
    fires=_HEAD + "part / --fstype=btrfs --size=9000\n",
    silent=_PLAIN,
)
def format_gone(view: View) -> Iterator[Hit]:
    """File systems of older releases, and of other lines."""
    for part, spot in all_parts(view):
        if part.format in view.limits.formats_gone:
            yield Hit(spot, f"the release has no {part.format}", "use xfs or ext4")


@rule(
    "group-too-small",
    Severity.ERROR,
    "The volumes of a group are larger than what the group is made of.",
    source="arithmetic over the sizes that are stated",
    fires=_GROUP.replace("part pv.01 --size=1 --grow", "part pv.01 --size=5000"),
    silent=_GROUP,
)
def group_too_small(view: View) -> Iterator[Hit]:
    """Sums of volumes against the sizes of their group's members, where these are known."""
    parts = {part.member: part for part, _ in all_parts(view) if part.member is not None}
    volumes = view.intent.get(VOLUME)
    for at, volume in enumerate(volumes or ()):
        shares = sum(part.size.percent for part in volume.partition if isinstance(part.size, Size))
        if volume.kind == "group" and shares > 100:
            told = f"the shares of the volumes in {volume.name} come to {shares}%"
            yield Hit(view.intent.placed("volume", at), told, "let them come to 100% at most")
        members = [parts.get(member) for member in volume.members]
        known = [
            part.size.mib
            for part in members
            if part and isinstance(part.size, Size) and not (part.grow or part.size.percent)
        ]
        # one member that grows, or is not known, and the sum says nothing
        if volume.kind != "group" or not members or len(known) != len(members):
            continue
        # what lies in a pool takes its room from that
        spots = [view.intent.placed("volume", at, "partition", place) for place in range(len(volume.partition))]
        pooled = [isinstance(spot, Seat) and spot.having("in-a-pool") is not None for spot in spots]
        own = [part.size for part, inside in zip(volume.partition, pooled, strict=True) if not inside]
        total = sum(size.mib for size in own if isinstance(size, Size))
        if total > sum(known):
            told = f"the volumes in {volume.name} come to {total} MiB, the group has {sum(known)} MiB"
            yield Hit(view.intent.placed("volume", at), told, "make them smaller, or its members larger")


@rule(
    "console-root-missing",
    Severity.ERROR,
    "The console has no file system of its own at /: nothing can be installed into it.",
    source=f"{HYPERVISOR}, part --onvirtualdisk",
    fires=_CONSOLE.format(9000).replace("part / ", "part /var/log "),
    silent=_CONSOLE.format(9000),
)
def console_root_missing(view: View) -> Iterator[Hit]:
    """Virtual disks for the console without a root."""
    disks = [(at, one) for at, one in view.each(VOLUME) if one.kind == "virtual-disk" and one.partition]
    if disks and not view.unseen and not any(_mount(part) == "/" for _, one in disks for part in one.partition):
        told = f"nothing in {disks[0][1].name} is mounted at /"
        yield Hit(view.intent.placed("volume", disks[0][0]), told, "make a partition for it")


@rule(
    "virtual-disk-small",
    Severity.ERROR,
    "The partitions in a virtual disk do not fit into it.",
    source=f"{HYPERVISOR}, virtualdisk",
    fires=_CONSOLE.format(5000),
    silent=_CONSOLE.format(5100),
)
def virtual_disk_small(view: View) -> Iterator[Hit]:
    """Sums of partitions against the virtual disk that holds them."""
    volumes = view.intent.get(VOLUME)
    for at, volume in enumerate(volumes or ()):
        if volume.kind != "virtual-disk" or not isinstance(volume.size, Size):
            continue
        total = sum(part.size.mib for part in volume.partition if isinstance(part.size, Size))
        if total + _ROOM > volume.size.mib:
            told = f"the partitions in {volume.name} come to {total} MiB, the virtual disk has {volume.size.mib} MiB"
            hint = f"give it at least {total + _ROOM} MiB"
            yield Hit(view.intent.placed("volume", at, "size"), told, hint)


@rule(
    "virtual-disk-large",
    Severity.ADVICE,
    "A virtual disk is much larger than the partitions in it, and none of them grows.",
    source="arithmetic over the sizes that are stated",
    fires=_CONSOLE.format(9000),
    silent=_CONSOLE.format(5100),
)
def virtual_disk_large(view: View) -> Iterator[Hit]:
    """Virtual disks with room that nobody uses."""
    volumes = view.intent.get(VOLUME)
    for at, volume in enumerate(volumes or ()):
        if volume.kind != "virtual-disk" or not isinstance(volume.size, Size):
            continue
        sizes = [part.size for part in volume.partition]
        # with a size that is not known nothing is said of what is left
        if any(part.grow for part in volume.partition) or not all(isinstance(size, Size) for size in sizes):
            continue
        left = volume.size.mib - sum(size.mib for size in sizes if isinstance(size, Size))
        if left > 1024:
            told = f"{left} MiB of the virtual disk {volume.name} are used by no partition"
            hint = "let one of its partitions grow, or make it smaller"
            yield Hit(view.intent.placed("volume", at, "size"), told, hint)


@rule(
    "separate-home",
    Severity.ADVICE,
    "The installer's own plan has a separate home on large disks; what is kept elsewhere gets less room.",
    source=f"{KICKSTART}, autopart --nohome",
    fires='[draft]\ntarget = "el-9"\ndisk_size = "240 GB"\n[disk]\nfate = "wipe"\nplan = {}\n',
    silent='[draft]\ntarget = "el-9"\ndisk_size = "40 GB"\n[disk]\nfate = "wipe"\nplan = {}\n',
)
def separate_home(view: View) -> Iterator[Hit]:
    """Plans that say nothing of a home, on disks large enough for one."""
    disks = view.intent.get(DISK)
    size, above = view.facts.disk_mib, view.limits.home_above_mib
    for at, disk in enumerate(disks or ()):
        if disk.plan is not None and disk.plan.home is None and above and size is not None and size >= above:
            told = f"the disk has {size // 1024} GiB, so that the installer's plan makes a separate home"
            yield Hit(view.intent.placed("disk", at, "plan"), told, "say plan.home = false if it is not wanted")
