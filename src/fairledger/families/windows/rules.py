"""Rules of pure syntax: what the words of these answer files can and cannot say beside each other."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache

from fairledger.catalog.seats import Seat
from fairledger.catalog.setting import Setting
from fairledger.checks.calls import calls_to, commands_of
from fairledger.checks.claims import UEFI, WINDOWS, WINDOWS_TOOLS, XML
from fairledger.checks.rule import Hit, at, found_by_reader, rule
from fairledger.checks.view import View
from fairledger.intent.disk import DISK
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.places import line_below
from fairledger.model.showing import visible
from fairledger.model.suggest import did_you_mean, nearest

_COMMAND = '[[command]]\nname = "wind"\n'
_DISK = "[[answers.windowsPE.Microsoft-Windows-Setup.DiskConfiguration.Disk]]\nDiskID = 0\nWillWipeDisk = true\n"
_MADE = 'CreatePartitions = {{ CreatePartition = [{{ Order = 1, Type = "EFI", Size = 300 }}, {}] }}\n'
_GROWS = '{ Order = 2, Type = "Primary", Extend = true }'
_CHANGED = "ModifyPartitions = {{ ModifyPartition = [{{ Order = 1, PartitionID = 2, {} }}] }}\n"
_TARGET = "[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage.InstallTo]\nDiskID = 0\nPartitionID = 2\n"


def _is_disk(setting: Setting) -> object:
    return setting.path.endswith("DiskConfiguration/Disk")


def _types(disk: Seat) -> list[Seat]:
    return list(disk.all("CreatePartitions/CreatePartition/Type"))


def _gpt(disk: Seat) -> bool:
    return any(one.text in ("EFI", "MSR") for one in _types(disk))


@rule(
    "extended-on-gpt",
    Severity.ERROR,
    "GPT knows no extended and logical partitions: setup cannot lay the disk out.",
    source=f"{UEFI}, the form of a GUID partition table",
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
    Severity.WARNING,
    "The partition's type is written as the other kind of disk writes it: it is not set, or setup stops.",
    source=f"{WINDOWS}, ModifyPartition/TypeID",
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
    Severity.WARNING,
    "The partition that receives the system is made and never formatted: setup may refuse it.",
    source=f"{WINDOWS}, ModifyPartition/Format",
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
    Severity.WARNING,
    "The same partition is changed twice: probably one of the numbers is another one.",
    source=f"{WINDOWS}, ModifyPartition/PartitionID",
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


@rule(
    "install-target-both",
    Severity.WARNING,
    "The system is to go to a stated partition and to any free one: setup takes one of the two, or stops.",
    source=f"{WINDOWS}, InstallTo, InstallToAvailablePartition",
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
    Severity.ERROR,
    "Logical partitions lie inside an extended one, which is made before them; and nothing else can be in that one.",
    source=f"{WINDOWS}, CreatePartition/Type",
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


_PROPERTIES = ("/IMAGE/NAME", "/IMAGE/INDEX", "/IMAGE/DESCRIPTION", "/IMAGE/DISPLAYNAME", "/IMAGE/FLAGS")


def _is_property(setting: Setting) -> object:
    return setting.path.endswith("InstallFrom/MetaData/Key")


@rule(
    "image-property",
    Severity.ERROR,
    "The image is chosen by a property that no image has, or by a number that is none.",
    source=f"{WINDOWS}, InstallFrom/MetaData/Key",
    fires="[[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage.InstallFrom.MetaData]]\n"
    'Key = "/IMAGE/NAM"\nValue = "Windows 11 Pro"\n',
    silent="[[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage.InstallFrom.MetaData]]\n"
    'Key = "/IMAGE/NAME"\nValue = "Windows 11 Pro"\n',
)
def image_property(view: View) -> Iterator[Hit]:
    """Properties other than name, index, description, and what stands inside an image's own description."""
    for seat in view.where(_is_property):
        text = seat.text
        if text is None:
            continue
        bare = text.strip().upper()
        beside = seat.parent.child("Value") if seat.parent is not None else None
        if bare == "/IMAGE/INDEX" and beside is not None and beside.text and not _counts(beside.text):
            yield at(
                beside, f"{visible(beside.text)} is no number of an image", "write its number, or choose by /IMAGE/NAME"
            )
        if bare not in _PROPERTIES and not bare.startswith("/IMAGE/WINDOWS/"):
            yield at(seat, f"images have no property {visible(text)}", did_you_mean(bare, _PROPERTIES))


def _counts(text: str) -> bool:
    """Whether it is a number of an image: they are counted from 1."""
    return text.strip().isdecimal() and int(text.strip()[:9]) > 0


_WIPED = (
    '[disk]\nfate = "wipe"\npartition = [{ role = "firmware", size = "300 MiB" }, { role = "system", size = "rest" }]\n'
)


@rule(
    "page-always-shown",
    Severity.ADVICE,
    "A page of setup is told to come up always: somebody must be there to answer it.",
    source=f"{WINDOWS}, WillShowUI",
    fires=_WIPED.replace('fate = "wipe"', 'fate = "ask"')
    + '[answers.windowsPE.Microsoft-Windows-Setup.DiskConfiguration]\nWillShowUI = "Always"\n',
    silent='[answers.windowsPE.Microsoft-Windows-Setup.DiskConfiguration]\nWillShowUI = "OnError"\n',
)
def page_always_shown(view: View) -> Iterator[Hit]:
    """Pages that come up although they are answered."""
    for seat in view.where(_shows):
        if seat.text == "Always":
            above = seat.parent.name if seat.parent is not None and seat.parent.path else seat.block.component
            yield at(seat, f"the page for {above} comes up always, and waits", "write OnError, unless that is meant")


def _shows(setting: Setting) -> object:
    return setting.name == "WillShowUI"


@rule(
    "disk-asked-and-laid-out",
    Severity.WARNING,
    "The person at the machine is asked about the disks, although they are laid out: one of the two is not meant.",
    source=f"{WINDOWS}, DiskConfiguration/WillShowUI",
    fires="[answers.windowsPE.Microsoft-Windows-Setup.DiskConfiguration]\nWillShowUI = 'Always'\n" + _WIPED,
    silent=_WIPED,
)
def disk_asked_and_laid_out(view: View) -> Iterator[Hit]:
    """A page that is always shown above disks that are laid out."""
    for seat in view.where(_shows):
        parent = seat.parent
        if seat.text == "Always" and parent is not None:
            others = [one for one in parent.children if one.name == "Disk"]
            if others:
                told = "the disk page is always shown, although the file lays the disks out"
                yield Hit(seat.place, told, "write OnError, or take the layout out")


@rule(
    "upgrade-and-wipe",
    Severity.WARNING,
    "The installed system is to be upgraded, and its disk to be wiped: setup does one of the two, or stops.",
    source=f"{WINDOWS}, UpgradeData/Upgrade",
    fires='[disk]\nfate = "wipe"\n[answers.windowsPE.Microsoft-Windows-Setup.UpgradeData]\nUpgrade = true\n',
    silent='[disk]\nfate = "wipe"\n[answers.windowsPE.Microsoft-Windows-Setup.UpgradeData]\nUpgrade = false\n',
)
def upgrade_and_wipe(view: View) -> Iterator[Hit]:
    """Upgrades in place beside disks that are wiped."""
    wiped = any(disk.fate == "wipe" for _, disk in view.each(DISK))
    for seat in view.where(_upgrades):
        if wiped and seat.text == "true":
            told = "the system is to be upgraded, and its disk is wiped"
            yield at(seat, told, "write false, or keep the disk")


def _upgrades(setting: Setting) -> object:
    return setting.path == "UpgradeData/Upgrade"


_OPEN = '<unattend xmlns="urn:schemas-microsoft-com:unattend">'
_ATTRIBUTES = 'processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"'
_SHELL = f'<component name="Microsoft-Windows-Shell-Setup" {_ATTRIBUTES}>'
_GOOD = (
    f'{_OPEN}<settings pass="specialize">{_SHELL}<RegisteredOwner>Larkmoor</RegisteredOwner></component>'
    "</settings></unattend>"
)


def _changed(old: str, new: str) -> str:
    assert old in _GOOD
    return _GOOD.replace(old, new, 1)


_OF_READING = (
    ("xml-malformed", Severity.ERROR, "Setup refuses a file that is not well-formed, as a whole.",
     XML, "</component>", "</componemt>"),
    ("xml-doctype", Severity.ERROR, "Answer files have no document type; one may hide entities.",
     XML, "<unattend", "<!DOCTYPE u><unattend"),
    ("pass-processed", Severity.ERROR,
     "A file that setup has been through is marked: what it has done it does not do again.",
     f"{WINDOWS}, wasPassProcessed", 'pass="specialize"', 'pass="specialize" wasPassProcessed="true"'),
    ("xml-encoding", Severity.ERROR, "The file is not encoded as its first line says: setup cannot read it.",
     XML, "<unattend", '<?xml version="1.0" encoding="utf-16"?><unattend'),
    ("root-element", Severity.ERROR, "An answer file's root is <unattend>.",
     f"{WINDOWS}, unattend", _GOOD, "<answers></answers>"),
    ("namespace", Severity.ERROR, "Setup ignores elements of another namespace.",
     f"{WINDOWS}, namespace of unattend", "urn:schemas-microsoft-com:unattend", "urn:x"),
    ("pass-unknown", Severity.ERROR, "Settings in a pass that does not exist are ignored.",
     f"{WINDOWS}, settings", "specialize", "specialise"),
    ("pass-twice", Severity.ERROR, "A pass stands once; the second one would be ignored or refused.",
     f"{WINDOWS}, settings", "</settings>", '</settings><settings pass="specialize"></settings>'),
    ("component-attributes", Severity.ERROR, "Setup finds a component by all of its attributes.",
     f"{WINDOWS}, component", ' publicKeyToken="31bf3856ad364e35"', ""),
    ("element-unknown", Severity.ERROR, "Setup refuses elements it does not know.",
     f"{WINDOWS}, unattend", "</unattend>", "<setting/></unattend>"),
    ("stray-text", Severity.ERROR, "Text between elements belongs to nothing.",
     XML, "</component>", "x</component>"),
    ("attribute-unknown", Severity.WARNING, "Only list items carry attributes, of the setup state's namespace.",
     f"{WINDOWS}, wcm:action", "<RegisteredOwner>", '<RegisteredOwner kind="x">'),
)  # fmt: skip
"""What the reader finds: id, severity, why it matters, source, and how a good file is changed so that it fires."""
for _id, _severity, _says, _source, _old, _new in _OF_READING:
    found_by_reader(_id, _severity, _says, source=_source, fires=_changed(_old, _new), silent=_GOOD, family="windows")


_LISTED = (
    '<unattend xmlns="urn:schemas-microsoft-com:unattend" '
    'xmlns:wcm="http://schemas.microsoft.com/WMIConfig/2002/State"><settings pass="oobeSystem">'
    '<component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" '
    'publicKeyToken="31bf3856ad364e35" language="neutral" versionScope="nonSxS"><UserAccounts><LocalAccounts>'
    "<LocalAccount{}><Name>observer</Name></LocalAccount></LocalAccounts></UserAccounts></component></settings></unattend>"
)
found_by_reader(
    "list-action",
    Severity.WARNING,
    "An item of a list does not say what is to be done with it, or says something that setup does not know.",
    source=f"{WINDOWS}, wcm:action",
    fires=_LISTED.format(' wcm:action="append"'),
    silent=_LISTED.format(' wcm:action="add"'),
    family="windows",
)


_PROGRAMS = (
    *("cmd", "powershell", "reg", "net", "netsh", "dism", "msiexec", "wscript", "cscript", "bcdedit", "bcdboot"),
    *("schtasks", "wmic", "icacls", "takeown", "robocopy", "xcopy", "shutdown", "w32tm", "diskpart", "rundll32"),
    *("regedit", "certutil", "wusa", "pnputil", "tzutil", "powercfg", "fsutil", "reagentc", "timeout", "gpupdate"),
)


@rule(
    "script-program",
    Severity.WARNING,
    "The command begins with a name that no program has, and that is nearly the name of one.",
    source=WINDOWS_TOOLS,
    fires=_COMMAND + "body = 'powershel.exe -NoProfile -Command x'\n",
    silent=_COMMAND + "body = 'powershell.exe -NoProfile -Command x'\n",
)
def script_program(view: View) -> Iterator[Hit]:
    """Misspelt tools of the system."""
    for here, one in commands_of(view):
        meant = _meant(one.body.split(maxsplit=1)[0]) if one.body.strip() else ""
        if meant:
            yield Hit(here, "there is no program of that name", f"did you mean {meant}?")
    for here, _, call in calls_to(view, ("net", "net1")):
        if call.words and _NET.match(call.words[0]) is None:
            told = f"net does not know {visible(call.words[0])}"
            yield Hit(line_below(here.place, call.row), told, "write user, localgroup, accounts, use, start, ...")


_NET = pattern(
    r"(?:user|localgroup|accounts|use|share|start|stop|view|time|config|group|statistics|session|file|computer|help"
    r"|helpmsg|name|pause|continue|print|send)\Z|[/%$]",
    re.IGNORECASE,
)


@lru_cache(maxsize=2_000)
def _meant(word: str) -> str:
    """The tool that a first word nearly names; empty if it names one, or anything else."""
    name = word.lower().removesuffix(".exe")
    if name in _PROGRAMS or not name.isalpha() or len(name) < 5:
        return ""
    return next(iter(nearest(name, _PROGRAMS, 1, alike=0.85)), "")
