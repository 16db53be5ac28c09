"""Rules of pure syntax: what commands and their options can and cannot say beside each other."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fairledger.catalog.passes import pass_names
from fairledger.catalog.setting import Setting
from fairledger.checks import script_signs as signs
from fairledger.checks.claims import HYPERVISOR, KICKSTART
from fairledger.checks.rule import Hit, at, found_by_reader, rule
from fairledger.checks.rules.scripts import found_in
from fairledger.checks.view import View
from fairledger.families.kickstart.statements import taken_in
from fairledger.intent.disk import DISK
from fairledger.model.finding import Severity
from fairledger.model.places import line_below
from fairledger.model.showing import quoted, visible
from fairledger.model.suggest import slipped

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
    "section-unknown",
    Severity.ERROR,
    "A section has a name that nobody knows: the installer stops at it.",
    source=f"{KICKSTART}, the sections",
    fires=_FIRST + "%tides\nhigh 7\n%end\n",
    silent=_FIRST + "%post\necho 7\n%end\n",
    family="kickstart",
)
found_by_reader(
    "word-cut",
    Severity.WARNING,
    "A number sign inside a word without quotes: one reader begins a comment there, another reads on.",
    source=f"{KICKSTART}, comments",
    fires=_FIRST + "rootpw --plaintext Kestrel#7\n",
    silent=_FIRST + "rootpw --plaintext 'Kestrel#7' # the night's\n",
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


@rule(
    "firmware-format-word",
    Severity.WARNING,
    "The firmware's partition is made with the format efi, by which the installer knows what it is for.",
    source=f"{KICKSTART}, part --fstype",
    fires=_FIRST + "part /boot/efi --fstype=vfat --size=600\n",
    silent=_FIRST + "part /boot/efi --fstype=efi --size=600\n",
)
def firmware_format_word(view: View) -> Iterator[Hit]:
    """The firmware's partition with the format's other name."""
    for seat in view.where(_is_format):
        place = seat.parent.child("mountpoint") if seat.parent is not None else None
        if place is not None and place.text == "/boot/efi" and seat.text in ("vfat", "fat32", "fat"):
            told = f"the firmware's partition has the format {seat.text}, and not the installer's own word for it"
            yield at(seat, told, "write --fstype=efi")


def _is_format(setting: Setting) -> object:
    return setting.name == "--fstype"


@rule(
    "store-on-system-disk",
    Severity.ERROR,
    "A further data store lies on the disk that is installed to: a disk holds one, and setup stops.",
    source=f"{HYPERVISOR}, part",
    fires="accepteula\ninstall --disk=naa.1 --overwritevmfs\npart store2 --ondisk=naa.1\n",
    silent="accepteula\ninstall --disk=naa.1 --overwritevmfs\npart store2 --ondisk=naa.2\n",
)
def store_on_system_disk(view: View) -> Iterator[Hit]:
    """Stores by the disk that another command installs to."""
    taken = {
        seat.text for root in view.blocks("installs") for seat in root.children if seat.name in ("--disk", "--drive")
    }
    for seat in view.where(_is_own_disk):
        if seat.text in taken and seat.text:
            yield at(
                seat, f"{visible(seat.text)} receives the system, which makes the only store on it", "use another disk"
            )


def _is_own_disk(setting: Setting) -> object:
    return setting.name == "--ondisk"


@rule(
    "first-start-unsigned",
    Severity.ADVICE,
    "A script for the first start does not run on a machine with Secure Boot switched on, and nothing says so.",
    source=f"{HYPERVISOR}, %firstboot",
    fires="accepteula\n%firstboot --interpreter=busybox\necho wind\n",
    silent="accepteula\n%post --interpreter=busybox\necho wind\n",
)
def first_start_unsigned(view: View) -> Iterator[Hit]:
    """Scripts that only run where unsigned ones may."""
    for root in view.blocks("needs-unsigned"):
        if view.facts.firmware != "bios":
            told = "the script does not run where Secure Boot is on"
            yield at(root, told, "switch that off for the machine, or do without the script")
            return


@rule(
    "address-asked-for",
    Severity.WARNING,
    "An interface has an address without its mask, and asks a server for one: the address is passed over.",
    source=f"{KICKSTART}, network --bootproto",
    fires=_FIRST + "network --device=eno1 --bootproto=dhcp --ip=192.0.2.30\n",
    silent=_FIRST + "network --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0\n",
)
def address_asked_for(view: View) -> Iterator[Hit]:
    """What is not understood as an address, and would be lost in silence."""
    for seat in view.where(_is_own_address):
        how = seat.parent.child("--bootproto") if seat.parent is not None else None
        masked = seat.parent is not None and seat.parent.child("--netmask") is not None
        if how is not None and how.text == "dhcp" and seat.text != "dhcp" and not masked:
            yield at(seat, "the interface has an address, but asks a server for one", "say static")


def _is_own_address(setting: Setting) -> object:
    return setting.name == "--ip"


@rule(
    "section-slipped",
    Severity.WARNING,
    "A line of a script is nearly the beginning of a section, which never begins: its lines belong to the script.",
    source=f"{KICKSTART}, %end",
    fires="accepteula\n%pre\necho wind\n%fristboot\necho tide\n",
    silent="accepteula\n%pre\necho wind\n%firstboot\necho tide\n",
)
def section_slipped(view: View) -> Iterator[Hit]:
    """Names of sections with a slip of the finger."""
    for here, _, match in found_in(view, signs.SECTION, scripts="sh", own=True):
        names = (*view.catalog.names(), "%end")
        meant = slipped(match[1].lower(), [one.removeprefix("%") for one in names if one.startswith("%")])
        if meant:
            told = f"%{visible(match[1])} begins no section, and is taken for a part of the script"
            yield Hit(here, told, f"write %{meant}")


@rule(
    "script-takes-in",
    Severity.WARNING,
    "A line of a script that begins with %include is no part of it: the installer puts that file's lines there, and "
    "stops where there is no such file; a text that the script writes cannot hold such a line.",
    source=f"{KICKSTART}, %include",
    fires=_FIRST + "%post\ncat >/root/gate.ks <<END\n%include /tmp/disks.ks\nEND\n%end\n",
    silent=_FIRST + "%post\necho '%include /tmp/disks.ks' >/root/gate.ks\n%end\n",
)
def script_takes_in(view: View) -> Iterator[Hit]:
    """Lines of scripts that the installer takes for its own."""
    for seat in view.where(_is_body):
        for line in taken_in(seat.text or ""):
            file = visible(" ".join((seat.text or "").split("\n")[line].split()[1:])) or "a file"
            here = line_below(seat.place, line)
            told = f"the installer takes in {file} here, also in the midst of a text that the script writes"
            yield Hit(here, told, "write the line otherwise, such as with echo, if the script means it")


def _is_body(setting: Setting) -> object:
    return setting.form == "body"


@rule(
    "package-name",
    Severity.ERROR,
    "A line of the package section holds one name; with a comma or several names nothing bears it, and setup stops.",
    source=f"{KICKSTART}, %packages",
    fires=_FIRST + "%packages\nchrony, rsync\n%end\n",
    silent=_FIRST + "%packages\nchrony\nrsync\n%end\n",
)
def package_name(view: View) -> Iterator[Hit]:
    """Packages with a space or a comma in their names."""
    for seat in view.where(_is_package):
        if seat.text is not None and re.search(r"[\s,;]|^$|^\^", seat.text.strip()):
            told = f"nothing is called {quoted(seat.text.strip())}"
            yield at(seat, told, "write each package on a line of its own")
    for seat in view.where(_is_group):
        if seat.text is not None and seat.text.strip().endswith("-environment"):
            told = f"{visible(seat.text.strip())} is an environment, not a group"
            yield at(seat, told, f"write @^{visible(seat.text.strip())}")


def _is_group(setting: Setting) -> object:
    return setting.form == "entry" and setting.name == "group"


def _is_package(setting: Setting) -> object:
    return setting.form == "entry" and setting.name in ("package", "exclude", "environment")
