"""Partitions and volumes: what ``part``, ``logvol`` and ``raid`` have in common."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fairledger.catalog.seats import Seat
from fairledger.families.fields import number_of, text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import on, secret_of
from fairledger.families.kickstart.lines import has
from fairledger.families.unix.mounts import OWN_FORMATS, mount_of, role_of
from fairledger.intent.disk import Partition
from fairledger.model.pattern import pattern
from fairledger.model.sheet import Branch
from fairledger.model.size import Size
from fairledger.model.values import Template, Text

Path = tuple[str | int, ...]

_WORDS = {"swap": "swap", "reserved": "biosboot"}
"""What stands in the place of a mount point."""
_OWN_FORMAT = {**OWN_FORMATS, "reserved": "biosboot"}
_TOLD = {"fat32": "vfat"}
"""File systems that are called differently here."""
_FORMATS = ("xfs", "ext4", "ext3", "ext2", "btrfs", "vfat", "vmfs3", "vmkcore")


def place_of(part: Partition) -> Text | None:
    """The mount point, or the word in its place; None where nothing says it."""
    return part.member if part.member is not None else mount_of(part, _WORDS)


def is_member(place: Text) -> bool:
    """Whether what stands in the place of a mount point makes a partition a part of something else."""
    return isinstance(place, str) and place.startswith(("pv.", "raid.", "btrfs."))


def _role(place: Text) -> str:
    return role_of(place, _WORDS)


def canonical_part(
    part: Partition, disk_mib: int | None, *, named: bool, percent: bool, disk: int | Text | None = None
) -> Partition | None:
    """A partition (``named``: a volume of a group) of a disk as the commands can hold it; None if they cannot."""
    place = place_of(part)
    if place is None or (not part.made and part.device is None) or part.number is not None:
        return None
    role = "data" if is_member(place) else _role(place)
    if not part.made:
        there = not named and disk is not None and disk_of(part.device) == disk
        return _canonical_existing(part, place, role, disk_mib) if there else None
    plain = role in _OWN_FORMAT or is_member(place)
    form = None if plain or part.format in ("ntfs", "swap", "vmfs3", "vmkcore") else part.format
    size: Any = part.size
    if isinstance(size, Size) and not (percent and size.percent):
        known = size.resolved(disk_mib)
        size = Size(mib=known) if known is not None else None
    by_memory = part.by_memory and role == "swap"
    if by_memory or (part.grow and size == Size(mib=1)):
        size = None
    return Partition(
        role=role,  # type: ignore[arg-type]
        size=size,
        grow=part.grow and not by_memory,
        max_size=part.max_size if part.grow and not by_memory and part.max_size and not part.max_size.percent else None,
        by_memory=by_memory,
        format=form,
        label=part.label if not is_member(place) else None,
        mount=place if role == "data" and not is_member(place) else None,
        options=part.options if not is_member(place) else None,
        member=place if is_member(place) else None,
        name=(part.name or _volume_name(place)) if named else None,
        encrypted=part.encrypted,
        passphrase=part.passphrase if part.encrypted else None,
    )


def _canonical_existing(part: Partition, place: Text, role: str, disk_mib: int | None) -> Partition:
    """A partition that is there: mounted as it is, or made anew with a format, or with another size."""
    size = part.size
    if isinstance(size, Size):
        known = size.resolved(disk_mib)
        size = Size(mib=known) if known is not None else None
    anew = part.format is not None
    return Partition(
        role=role,  # type: ignore[arg-type]
        made=False,
        device=part.device,
        size=size,
        format=part.format if part.format in (*_FORMATS, "swap", "fat32") else None,
        label=part.label if anew else None,
        mount=place if role == "data" and not is_member(place) else None,
        options=part.options if not is_member(place) else None,
        member=place if is_member(place) else None,
    )


def _volume_name(place: Text) -> Text:
    if not isinstance(place, str):
        return "data"
    return place.strip("/").replace("/", "_").replace(".", "_") or "root"


def complain(part: Partition, path: Path, words: Words, *, disk: int | Text | None = None, named: bool = True) -> bool:
    """Says what of a partition (``named``: a volume) cannot be put; whether the whole of it cannot."""
    if not part.made and named:
        why = "volumes that exist are used by the names of their groups"
        words.cannot(path, "a change of an existing volume", why, "answer logvol or raid with --useexisting directly")
        return True
    if (not part.made and part.device is None) or part.number is not None:
        why = "existing partitions are used by their names"
        words.cannot(path, "a change of an existing partition by its number", why, 'write device = "sda3"')
        return True
    if not part.made and (disk is None or disk_of(part.device) != disk):
        why = "an existing partition is used by its name on the disk that holds it"
        words.cannot((*path, "device"), f"{part.device} on this disk", why, 'write which = "sda" and device = "sda3"')
        return True
    if place_of(part) is None:
        told = f"a partition with the role {part.role}" + (" and no mount point" if part.role == "data" else "")
        why = "its installer mounts every partition somewhere" if part.role == "data" else "it has nothing of the kind"
        words.cannot(path, told, why, "give it mount, or member, or take it out")
        return True
    words.leave_out(path, part, ("letter", "active"), "it has no such thing")
    if part.format == "ntfs":
        words.cannot((*path, "format"), "the format ntfs", "its installer does not make it", "use xfs or ext4")
    if part.by_memory and _role(place_of(part) or "") != "swap":
        words.cannot((*path, "size"), "a size by memory", "only swap has one", "give it a size")
    if part.max_size is not None and not part.grow:
        words.cannot(
            (*path, "max_size"), "a largest size without growing", "only growing ends there", "add grow = true"
        )
    if part.passphrase is not None and part.passphrase.form == "hash":
        words.cannot(
            (*path, "passphrase"), "a hashed passphrase", "it needs the passphrase itself", "refer to it plainly"
        )
    return False


def put_part(line: Branch, part: Partition, path: Path, words: Words, *, sized: bool = True) -> None:
    """Options of a canonical partition on its line; the mount point is there already."""

    def put(setting: str, value: Any, field: str) -> None:
        line.put(setting, value, words.origin(*path, field))

    if not part.made:
        _put_existing(put, part)
        return
    form = _OWN_FORMAT.get(part.role) or (_TOLD.get(part.format, part.format) if part.format else None)
    _put_size(put, part, sized=sized)
    if part.grow:
        put("--grow", "true", "grow")
    if part.max_size is not None:
        put("--maxsize", str(part.max_size.mib), "max_size")
    if form is not None:
        put("--fstype", form, "format")
    for field, setting in (("label", "--label"), ("options", "--fsoptions")):
        if getattr(part, field) is not None and has(words, line.name, setting):
            put(setting, getattr(part, field), field)
    if part.encrypted and has(words, line.name, "--encrypted"):
        put("--encrypted", "true", "encrypted")
        if part.passphrase is not None:
            put("--passphrase", part.passphrase, "passphrase")


def _put_size(put: Callable[[str, Any, str], None], part: Partition, *, sized: bool) -> None:
    if part.by_memory:
        put("--recommended", "true", "by_memory")
    elif isinstance(part.size, Size) and part.size.percent:
        put("--percent", str(part.size.percent), "size")
    elif isinstance(part.size, Size):
        put("--size", str(part.size.mib), "size")
    elif isinstance(part.size, Template):
        put("--size", part.size, "size")
    elif part.grow and sized:
        put("--size", "1", "grow")


def _put_existing(put: Callable[[str, Any, str], None], part: Partition) -> None:
    put("--onpart", part.device, "device")
    if part.size is not None:
        put("--resize", "true", "size")
        put("--size", str(part.size.mib) if isinstance(part.size, Size) else part.size, "size")
    if part.format is None:
        put("--noformat", "true", "device")
    else:
        put("--fstype", _ANEW.get((part.role, part.format)) or _TOLD.get(part.format, part.format), "format")
    for field, setting in (("label", "--label"), ("options", "--fsoptions")):
        if getattr(part, field) is not None:
            put(setting, getattr(part, field), field)


_ANEW = {("firmware", "fat32"): "efi"}
"""What a format is called for a role, where that is not its own word."""
_DISK = pattern(r"(?:/dev/)?(?:(.*\d)p|([a-z]+))\d+")


def disk_behind(root: Seat) -> str:
    """The disk of an existing partition that a line uses, by its name; empty where that says nothing, or none is used.

    Where the line formats it in a way that is not said, nothing can stand for it here.
    """
    behind = disk_of(text_of(root.child("--onpart") or root.child("--usepart")))
    form = text_of(root.child("--fstype"))
    known = form in (*_FORMATS, "swap", "efi") or (form is None and on(root, "--noformat"))
    kept = on(root, "--noformat") and form is not None
    sized = (root.child("--size") is not None) == on(root, "--resize")
    return behind if behind is not None and known and not kept and sized else ""


def disk_of(device: Text | None) -> str | None:
    """The disk of a partition, by their names; None where the name does not tell."""
    match = _DISK.fullmatch(device) if isinstance(device, str) else None
    return (match[1] or match[2]) if match else None


def recognise_part(reader: Reader, root: Seat, path: Path, *, named: bool) -> Partition:
    """A partition or volume off its line, faulty or not."""
    reader.places[path] = root
    place = text_of(root.child("mountpoint")) or ""
    reader.take(root.child("mountpoint"), *path, "mount")
    there = not named and bool(disk_behind(root))
    member = is_member(place)
    role = "data" if member else _role(place)
    fields: dict[str, Any] = {"role": role}
    if member:
        fields["member"] = place
    elif role == "data":
        fields["mount"] = place or None
    _recognise_size(reader, root, path, fields)
    form = text_of(root.child("--fstype"))
    portable = next((name for name, told in _TOLD.items() if told == form), form)
    if there:
        used = root.child("--onpart") or root.child("--usepart")
        fields |= {"made": False, "device": text_of(used)}
        reader.take(used, *path, "device")
        for flag in ("--noformat", "--resize"):
            reader.take(root.child(flag))
        if form is not None:
            fields["format"] = "fat32" if form == "efi" else portable
            reader.take(root.child("--fstype"), *path, "format")
    elif form == _OWN_FORMAT.get(role) or (member and form == "lvmpv"):
        reader.take(root.child("--fstype"), *path, "format")
    elif isinstance(form, str) and form in _FORMATS:
        fields["format"] = portable
        reader.take(root.child("--fstype"), *path, "format")
    reader.take_fields(
        root,
        (("label", "--label"), ("options", "--fsoptions"), *((("name", "--name"),) if named else ())),
        path,
        fields,
        text_of,
    )
    if on(root, "--encrypted"):
        fields["encrypted"] = True
        reader.take(root.child("--encrypted"), *path, "encrypted")
        if secret_of(root, "--passphrase") is not None:
            fields["passphrase"] = secret_of(root, "--passphrase")
            reader.take(root.child("--passphrase"), *path, "passphrase")
    return Partition(**fields)


def _recognise_size(reader: Reader, root: Seat, path: Path, fields: dict[str, Any]) -> None:
    if on(root, "--grow"):
        fields["grow"] = True
        reader.take(root.child("--grow"), *path, "grow")
    size, percent = number_of(root.child("--size")), number_of(root.child("--percent"))
    if size is not None:
        reader.take(root.child("--size"), *path, "size")
        if not (fields.get("grow") and size == 1):
            fields["size"] = Size(mib=size) if isinstance(size, int) else size
    elif isinstance(percent, int) and 1 <= percent <= 100:
        fields["size"] = Size(percent=percent)
        reader.take(root.child("--percent"), *path, "size")
    most = number_of(root.child("--maxsize"))
    if isinstance(most, int):
        fields["max_size"] = Size(mib=most)
        reader.take(root.child("--maxsize"), *path, "max_size")
    if fields["role"] == "swap" and on(root, "--recommended"):
        fields["by_memory"] = True
        reader.take(root.child("--recommended"), *path, "by_memory")
