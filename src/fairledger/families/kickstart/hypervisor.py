"""Disks of the bare-metal hypervisor: one disk receives it, and its data store is overwritten or kept.

The old generation is laid out by hand: storage volumes on the physical disk, the console's partitions inside a
virtual disk.
"""

from __future__ import annotations

from typing import Any

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import on
from fairledger.families.kickstart.lines import has
from fairledger.families.kickstart.partitions import is_member, recognise_part
from fairledger.intent.disk import Disk, Partition
from fairledger.model.finding import Severity
from fairledger.model.sheet import Branch
from fairledger.model.size import Size
from fairledger.model.values import Template, Text

_FIRST = "first"
_JOBS = {None: "install", "only": "upgrade", "else-install": "installorupgrade"}
"""What is done with the disk, and the command that does it."""


def canonical(value: tuple[Disk, ...], words: Words) -> tuple[Disk, ...] | None:
    """One disk, by name or as the first (of a kind: ``first:local``)."""
    disk = value[0]
    if disk.fate == "ask":
        return None
    if _classic(words):
        parts = tuple(one for one in (store_part(part) for part in disk.partition) if one is not None)
        made = Disk(which=_which(disk), fate=disk.fate, partition=parts)
        return (made,) if parts or made.fate == "wipe" else None
    fate = "keep" if disk.upgrade == "only" else disk.fate
    return (Disk(which=_which(disk), fate=fate, upgrade=disk.upgrade),)


def _which(disk: Disk) -> Text:
    return _FIRST if disk.which is None or isinstance(disk.which, int) else disk.which


def translate(value: tuple[Disk, ...], words: Words) -> None:
    """The install command says disk and data store."""
    disk = value[0]
    if len(value) > 1:
        why = "its installer uses one disk"
        words.cannot(("disk", 1), "a second disk", why, "make its data store with a command", Severity.WARNING)
    if disk.choose is not None:
        why = "its installer takes the first disk, of a kind if wanted"
        words.cannot(("disk", 0, "choose"), "the choice of a disk by a property", why, 'write which = "first:local"')
    why = "its installer has nothing of the kind"
    words.leave_out(("disk", 0), disk, ("by_script", "without_recovery"), why)
    if _classic(words):
        words.leave_out(("disk", 0), disk, ("upgrade",), why)
    if disk.fate == "ask":
        return  # without the install command the installer asks
    if isinstance(disk.which, int):
        why = "its installer knows disks by their names, or takes the first one"
        words.cannot(("disk", 0, "which"), f"disk {disk.which}", why, 'write which = "first"')
    if _classic(words):
        _translate_classic(disk, words)
        return
    if disk.partition or disk.plan is not None:
        path = ("disk", 0, "partition" if disk.partition else "plan")
        words.cannot(path, "a layout of the disk", "its installer lays the disk out by itself", "leave it out")
    line = words.out.block("setup", _JOBS[disk.upgrade], words.origin("disk", 0))
    origin = words.origin("disk", 0, "which")
    which = _which(disk)
    if isinstance(which, str) and (which == _FIRST or which.startswith(f"{_FIRST}:")):
        line.put("--firstdisk", which.partition(":")[2], origin)
    else:
        line.put("--disk", which, origin)
    if disk.upgrade == "only":
        if disk.fate == "wipe":
            why = "an upgrade keeps what is on the disk"
            words.cannot(("disk", 0, "fate"), "a disk that is wiped and upgraded", why, "take one of the two out")
        return
    if disk.upgrade is not None and disk.fate != "wipe":
        return  # it has no word for keeping a data store
    store = "--overwritevmfs" if disk.fate == "wipe" else "--preservevmfs"
    line.put(store, "true", words.origin("disk", 0, "fate"))


def _classic(words: Words) -> bool:
    """Whether the target is of the old generation."""
    return has(words, "virtualdisk")


def store_part(part: Partition) -> Partition | None:
    """A partition of the physical disk (or of a virtual one) as the old generation can make it; None if it cannot."""
    mount = part.mount if part.role == "data" else {"system": "/", "boot": "/boot", "swap": "swap"}.get(part.role)
    if mount is None or is_member(mount) or not part.made or part.member is not None or part.number is not None:
        return None
    role: Any = (
        {"/": "system", "/boot": "boot", "swap": "swap"}.get(mount, "data") if isinstance(mount, str) else "data"
    )
    sized = part.size if not (isinstance(part.size, Size) and part.size.percent) else None
    plain = part.format if part.format in ("ext3", "ext2", "vmfs3", "vmkcore") and role != "swap" else None
    most = part.max_size if part.grow and part.max_size is not None and not part.max_size.percent else None
    return Partition(
        role=role,
        size=None if part.grow and sized == Size(mib=1) else sized,
        grow=part.grow,
        max_size=most,
        format=plain,
        mount=mount if role == "data" else None,
    )


def put_store_part(part: Partition, path: tuple[str | int, ...], words: Words) -> Branch:
    """The line of a partition of the old generation, without its disk."""
    origin = words.origin(*path)
    line = words.out.block("setup", "part", origin, again=True)
    place = part.mount if part.role == "data" else {"system": "/", "boot": "/boot", "swap": "swap"}[part.role]
    line.put("mountpoint", place or "", words.origin(*path, "mount"))
    form = "swap" if part.role == "swap" else part.format
    if form is not None:
        line.put("--fstype", form, words.origin(*path, "format"))
    if part.size is not None or part.grow:
        size = str(part.size.mib) if isinstance(part.size, Size) else part.size
        line.put("--size", size if isinstance(size, str | Template) else "1", words.origin(*path, "size"))
    if part.grow:
        line.put("--grow", "true", words.origin(*path, "grow"))
    if part.max_size is not None:
        line.put("--maxsize", str(part.max_size.mib), words.origin(*path, "max_size"))
    return line


def _translate_classic(disk: Disk, words: Words) -> None:
    which = _which(disk)
    first = isinstance(which, str) and (which == _FIRST or which.startswith(f"{_FIRST}:"))
    kinds = which.partition(":")[2] if isinstance(which, str) and first else ""
    if disk.fate == "wipe":
        origin = words.origin("disk", 0, "fate")
        line = words.out.block("setup", "clearpart", origin)
        line.put("--firstdisk" if first else "--drives", kinds if first else which, origin)
        line.put("--overwritevmfs", "true", origin)
    for at, part in enumerate(disk.partition):
        path = ("disk", 0, "partition", at)
        known = store_part(part)
        if known is None:
            why = "its installer mounts a partition, or names a data store"
            words.cannot(path, f"a partition with the role {part.role}", why, "give it mount, or take it out")
            continue
        line = put_store_part(known, path, words)
        line.put("--onfirstdisk" if first else "--ondisk", kinds if first else which, words.origin("disk", 0, "which"))


def _recognise_classic(reader: Reader) -> tuple[Disk, ...] | None:
    """Clearing, and the partitions that stand on the physical disk."""
    clear = next(iter(reader.find("setup", "clearpart", "")), None)
    parts = [root for root in reader.find("setup", "part", "") if root.child("--onvirtualdisk") is None]
    which: Text | None = None
    wiped = False
    for root, first_name, other in [
        *((clear, "--firstdisk", "--drives") for clear in (clear,) if clear is not None),
        *((root, "--onfirstdisk", "--ondisk") for root in parts),
    ]:
        first, named = root.child(first_name), root.child(other)
        told = text_of(named)
        if first is not None and isinstance(text_of(first), str):
            told = f"{_FIRST}:{text_of(first)}" if text_of(first) else _FIRST
        if told is not None and which in (None, told):
            which = told
            reader.take(first or named, "disk", 0, "which")
    if clear is not None and on(clear, "--overwritevmfs"):
        wiped = True
        reader.take(clear.child("--overwritevmfs"), "disk", 0, "fate")
    rows = [recognise_part(reader, root, ("disk", 0, "partition", at), named=False) for at, root in enumerate(parts)]
    if which is None and not rows:
        return None
    reader.places.setdefault(("disk", 0), (clear or parts[0]).place)
    return (Disk(which=which, fate="wipe" if wiped else "keep", partition=tuple(rows)),)


def recognise(reader: Reader) -> tuple[Disk, ...] | None:
    """Disk and data store off the install command; of the old generation, off its partitions."""
    if reader.catalog.component("virtualdisk") is not None:
        return _recognise_classic(reader)
    for job, root in ((job, root) for job, name in _JOBS.items() for root in reader.find("setup", name, "")):
        first, named = root.child("--firstdisk"), root.child("--disk") or root.child("--drive")
        which: Text | None = None
        if first is not None and isinstance(text_of(first), str):
            kinds = text_of(first)
            which = f"{_FIRST}:{kinds}" if kinds else _FIRST
            reader.take(first, "disk", 0, "which")
        elif named is not None:
            which = text_of(named)
            reader.take(named, "disk", 0, "which")
        if which is None:
            continue
        reader.places[("disk", 0)] = root
        for store in ("--overwritevmfs", "--preservevmfs"):
            if on(root, store):
                reader.take(root.child(store), "disk", 0, "fate")
        fate = "wipe" if on(root, "--overwritevmfs") else "keep"
        return (Disk(which=which, fate=fate, upgrade=job),)  # type: ignore[arg-type]
    return None
