"""Disks of the bare-metal hypervisor: one disk receives it, and its data store is overwritten or kept."""

from __future__ import annotations

from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import on, text_of
from fairledger.families.kickstart.lines import has
from fairledger.model.values import Text
from fairledger.profiles.disk import Disk

_FIRST = "first"


def canonical(value: tuple[Disk, ...], words: Words) -> tuple[Disk, ...] | None:
    """One disk, by name or as the first (of a kind: ``first:local``)."""
    disk = value[0]
    if disk.fate == "ask" or not has(words, "install", "--firstdisk"):
        return None
    return (Disk(which=_which(disk), fate=disk.fate),)


def _which(disk: Disk) -> Text:
    return _FIRST if disk.which is None or isinstance(disk.which, int) else disk.which


def translate(value: tuple[Disk, ...], words: Words) -> None:
    """The install command says disk and data store."""
    disk = value[0]
    if not has(words, "install", "--firstdisk"):
        why = "its partitions are answered directly"
        words.cannot(("disk",), "[disk]", why, "answer part, virtualdisk and clearpart directly")
        return
    if len(value) > 1:
        why = "its installer uses one disk"
        words.cannot(("disk", 1), "a second disk", why, "make its data store with a command", "warning")
    if disk.fate == "ask":
        return  # without the install command the installer asks
    if isinstance(disk.which, int):
        why = "its installer knows disks by their names, or takes the first one"
        words.cannot(("disk", 0, "which"), f"disk {disk.which}", why, 'write which = "first"')
    if disk.partition or disk.plan is not None:
        path = ("disk", 0, "partition" if disk.partition else "plan")
        words.cannot(path, "a layout of the disk", "its installer lays the disk out by itself", "leave it out")
    line = words.out.block("setup", "install", words.origin("disk", 0))
    origin = words.origin("disk", 0, "which")
    which = _which(disk)
    if isinstance(which, str) and (which == _FIRST or which.startswith(f"{_FIRST}:")):
        line.put("--firstdisk", which.partition(":")[2], origin)
    else:
        line.put("--disk", which, origin)
    store = "--overwritevmfs" if disk.fate == "wipe" else "--preservevmfs"
    line.put(store, "true", words.origin("disk", 0, "fate"))


def recognise(reader: Reader) -> tuple[Disk, ...] | None:
    """Disk and data store off the install command."""
    for root in reader.find("setup", "install", ""):
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
        reader.places[("disk", 0)] = root.place
        for store in ("--overwritevmfs", "--preservevmfs"):
            if on(root, store):
                reader.take(root.child(store), "disk", 0, "fate")
        return (Disk(which=which, fate="wipe" if on(root, "--overwritevmfs") else "keep"),)
    return None
