"""Rules of pure syntax: what commands and their options can and cannot say beside each other."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.passes import pass_names
from fairledger.catalog.setting import Setting
from fairledger.checks.claims import KICKSTART
from fairledger.checks.rule import Hit, at, found_by_reader, rule
from fairledger.checks.view import View
from fairledger.intent.disk import DISK
from fairledger.model.finding import Severity
from fairledger.model.sheet import visible

_FIRST = "#version=RHEL9\n"
_SCRIPT = _FIRST + "%post\necho station\n%end\n"


@rule(
    "most-below-size",
    Severity.ERROR,
    "A partition's largest size is smaller than its size: there is no size that it could have.",
    source=f"{KICKSTART}, part --maxsize",
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
    Severity.WARNING,
    "The boot loader is written to a disk that gets nothing else: the machine starts from another one, or not at all.",
    source=f"{KICKSTART}, bootloader --boot-drive",
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


@rule(
    "partition-taken-twice",
    Severity.WARNING,
    "The same partition is used for two things: probably one of the names is another one.",
    source=f"{KICKSTART}, part --onpart",
    fires=_FIRST + "part / --onpart=sda2\npart /home --onpart=sda2\n",
    silent=_FIRST + "part / --onpart=sda2\npart /home --onpart=sda3\n",
)
def partition_taken_twice(view: View) -> Iterator[Hit]:
    """Two uses of one partition that is there already."""
    there: set[str] = set()
    for seat in view.where(_is_taken):
        if seat.text and seat.text in there:
            yield at(seat, f"{visible(seat.text)} is used twice", "name another partition for one of them")
        there.add(seat.text or "")


def _is_taken(setting: Setting) -> object:
    return setting.name in ("--onpart", "--usepart")


def _is_boot_drive(setting: Setting) -> object:
    return setting.name == "--boot-drive"


_HEAD = "#version=RHEL9\nclearpart --all --initlabel\n"
_GROUP = (
    _HEAD + "part pv.01 --size=1 --grow\nvolgroup station pv.01\nlogvol / --vgname=station --name=root --size=9000\n"
)


@rule(
    "pool-unknown",
    Severity.ERROR,
    "A thin volume lies in a pool that nothing makes, or a pool is not said to be one.",
    source=f"{KICKSTART}, logvol --thinpool, --poolname",
    fires=_GROUP + "logvol /srv --vgname=station --name=srv --thin --poolname=pool --size=5000\n",
    silent=_GROUP + "logvol none --vgname=station --name=pool --thinpool --size=5000\n"
    "logvol /srv --vgname=station --name=srv --thin --poolname=pool --size=5000\n",
)
def pool_unknown(view: View) -> Iterator[Hit]:
    """Names of pools that no volume with --thinpool has."""
    setup = pass_names(view.family.name)[0]
    volumes = view.seats.find(setup, "logvol", "")
    names = [one.child("--name") for one in volumes if one.child("--thinpool") is not None]
    made = {name.text for name in names if name is not None}
    for seat in view.seats.find(setup, "logvol", "--poolname"):
        if seat.text and seat.text not in made:
            told = f"no volume called {visible(seat.text)} is made with --thinpool"
            yield Hit(seat.place, told, "make the pool, or correct the name")


_MEMBERS = ("--bondslaves", "--bridgeslaves", "--teamslaves")


@rule(
    "member-itself",
    Severity.ERROR,
    "A bond or a bridge is made of other interfaces: it cannot be one of its own members.",
    source=f"{KICKSTART}, network --bondslaves, --bridgeslaves",
    fires=_FIRST + "network --device=eno1 --bondslaves=eno1,eno2\n",
    silent=_FIRST + "network --device=bond0 --bondslaves=eno1,eno2\n",
)
def member_itself(view: View) -> Iterator[Hit]:
    """Members of the device's own name."""
    for seat in view.where(_are_members):
        device = seat.parent.child("--device") if seat.parent is not None else None
        if device is not None and device.text and device.text in (seat.text or "").split(","):
            told = f"{visible(device.text)} is to be a member of itself"
            yield at(seat, told, "give the whole a name of its own, such as bond0")


def _are_members(setting: Setting) -> object:
    return setting.name in _MEMBERS


found_by_reader(
    "line-unreadable",
    Severity.ERROR,
    "A line with an open quote, or a %end that closes nothing, makes the installer stop.",
    source=KICKSTART,
    fires='#version=RHEL9\nlang "en_GB.UTF-8\n',
    silent=_SCRIPT,
    family="kickstart",
)
found_by_reader(
    "section-open",
    Severity.ERROR,
    "A section that is not closed swallows what follows, or makes the installer stop.",
    source=f"{KICKSTART}, %end",
    fires="#version=RHEL9\n%post\necho station\n",
    silent=_SCRIPT,
    family="kickstart",
)
found_by_reader(
    "file-binary",
    Severity.ERROR,
    "An answer file is text.",
    source=KICKSTART,
    fires="#version=RHEL9\nlang en\x01\n",
    silent=_SCRIPT,
    family="kickstart",
)
found_by_reader(
    "file-included",
    Severity.ADVICE,
    "Another file is taken in while the installer reads; what stands there is not known here.",
    source=f"{KICKSTART}, %include",
    fires="#version=RHEL9\n%include /tmp/disks.ks\n",
    silent=_SCRIPT,
    family="kickstart",
)
found_by_reader(
    "include-broken",
    Severity.ERROR,
    "A file that is taken in is not there, leaves the folder, or takes itself in.",
    source=f"{KICKSTART}, %include",
    given="--root .",
    fires="#version=RHEL9\n%include /larkmoor/disks.ks\n",
    silent=_SCRIPT,
    family="kickstart",
)
