"""Disks that are used again or not cleared, and names of disks that are none."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.setting import Setting
from fairledger.checks.claims import KICKSTART, PRACTICE
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.disk import DISK
from fairledger.intent.volume import VOLUME
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.showing import visible

_LINUX = "#version=RHEL9\n"
_WHOLE = _LINUX + "clearpart --all --drives=sda\n"


@rule(
    "root-kept-as-it-is",
    Severity.ERROR,
    "The system's own file system must be made anew: the installer does not install over what is there.",
    source=f"{KICKSTART}, part --noformat",
    fires=_LINUX + "part / --onpart=sda3 --noformat\n",
    silent=_LINUX + "part / --onpart=sda3 --fstype=xfs\n",
)
def root_kept_as_it_is(view: View) -> Iterator[Hit]:
    """The root that is used without being formatted."""
    for seat in view.having("keeps-content"):
        place = next((one for one in view.where(_is_mount_point) if one.parent is seat.parent), None)
        if place is not None and place.text == "/":
            yield at(seat, "the root file system is to be used as it is", "let it be formatted")


def _is_mount_point(setting: Setting) -> object:
    return "mount-point" in setting.traits


@rule(
    "partition-erased-before",
    Severity.ERROR,
    "A partition is used that is there already, and all that is on its disk is erased before.",
    source=f"{KICKSTART}, clearpart --all, part --onpart",
    fires=_WHOLE + "part / --onpart=sda3\n",
    silent=_WHOLE + "part / --onpart=sdb3\n",
)
def partition_erased_before(view: View) -> Iterator[Hit]:
    """Existing partitions of disks that are wiped."""
    wiped = {disk.which for _, disk in view.each(DISK) if disk.fate == "wipe"}
    for seat in view.having("existing-partition"):
        behind = _PARTITION.fullmatch(seat.text or "")
        if behind and wiped & {behind[1] or behind[2], None}:
            told = f"{visible(seat.text or '')} is used, and its disk is erased before"
            yield at(seat, told, "keep what is on the disk, or make the partition anew")


_PARTITION = pattern(r"(?:/dev/)?(?:((?:nvme\d+n|mmcblk|md|loop)\d+)p|((?:sd|hd|vd|xvd)[a-z]+))\d+")


@rule(
    "partition-for-a-disk",
    Severity.ERROR,
    "A partition is named where a disk belongs: the installer knows no disk of that name.",
    source=f"{KICKSTART}, --ondisk, --drives, --only-use, --boot-drive",
    fires=_LINUX + "part /boot --size=1024 --ondisk=sda1\n",
    silent=_LINUX + "part /boot --size=1024 --ondisk=sda\n",
)
def partition_for_a_disk(view: View) -> Iterator[Hit]:
    """Names of partitions among those of disks."""
    for seat in view.having("disk-name"):
        for name in (seat.text or "").split(","):
            match = _PARTITION.fullmatch(name.strip())
            if match:
                told = f"{visible(name.strip())} is a partition, and a disk is wanted"
                yield at(seat, told, f"write {match[1] or match[2]}")


@rule(
    "mirror-on-one-disk",
    Severity.WARNING,
    "Two members of a RAID lie on one disk: when it breaks, both are gone.",
    source=PRACTICE,
    fires=_LINUX + "part raid.01 --size=9000 --ondisk=sda\npart raid.02 --size=9000 --ondisk=sda\n"
    "raid / --device=root --level=1 raid.01 raid.02\n",
    silent=_LINUX + "part raid.01 --size=9000 --ondisk=sda\npart raid.02 --size=9000 --ondisk=sdb\n"
    "raid / --device=root --level=1 raid.01 raid.02\n",
)
def mirror_on_one_disk(view: View) -> Iterator[Hit]:
    """Members by the disks that hold them, where these are named."""
    on = {part.member: disk.which for _, disk in view.each(DISK) for part in disk.partition if part.member is not None}
    for place, volume in view.each(VOLUME):
        disks = [on.get(member) for member in volume.members] if volume.kind == "raid" else []
        named = [one for one in disks if one is not None]
        if len(named) > 1 and len(set(named)) < len(named):
            twice = next(one for one in named if named.count(one) > 1)
            told = f"two members of {visible(str(volume.name))} are on {visible(str(twice))}"
            yield Hit(view.intent.placed("volume", place), told, "put each member on a disk of its own")


@rule(
    "nothing-cleared",
    Severity.WARNING,
    "The installer lays out the disk by itself, and nothing is cleared for it: it stops where the disk is full.",
    source=f"{KICKSTART}, autopart, clearpart --none",
    fires=_LINUX + "clearpart --none\nautopart\n",
    silent=_LINUX + "clearpart --all\nautopart\n",
)
def nothing_cleared(view: View) -> Iterator[Hit]:
    """Plans on disks that are kept."""
    some = any(view.having("clears-some"))
    for place, disk in view.each(DISK):
        if disk.plan is not None and disk.fate == "keep" and not (some or view.unseen):
            spot = view.intent.placed("disk", place, "plan")
            told = "the installer lays out the disk, on which nothing is cleared"
            # an empty disk is enough, where it is made ready or nothing else is said
            meant = any(view.having("labels-empty")) or not any(view.having("clears-none"))
            severity = Severity.ADVICE if meant else None
            yield Hit(spot, told, "say that it is wiped, or make sure that there is room", severity)
