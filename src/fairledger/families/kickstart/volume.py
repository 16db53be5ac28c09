"""Volume groups and RAID in the words of kickstart."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from fairledger.catalog.seats import Seat
from fairledger.families.fields import number_of, text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.hypervisor import put_store_part, store_part
from fairledger.families.kickstart.lines import command, has
from fairledger.families.kickstart.partitions import canonical_part, complain, place_of, put_part, recognise_part
from fairledger.intent.disk import Partition
from fairledger.intent.volume import Volume
from fairledger.model.size import Size
from fairledger.model.values import Text

_COMMANDS = {"group": "volgroup", "raid": "raid", "virtual-disk": "virtualdisk"}
_ORDER = tuple(_COMMANDS)


def _known(one: Volume, words: Words) -> bool:
    return one.kind in _COMMANDS and has(words, _COMMANDS[one.kind])


def canonical(value: tuple[Volume, ...], words: Words) -> tuple[Volume, ...] | None:
    """Groups with their volumes, then RAIDs with their one."""
    kept = [_canonical_one(one, words) for one in value if _known(one, words)]
    kept = [one for one in kept if one.kind != "raid" or one.partition]
    return tuple(sorted(kept, key=lambda one: _ORDER.index(one.kind))) or None


def _canonical_one(one: Volume, words: Words) -> Volume:
    if one.kind == "virtual-disk":
        stored = tuple(part for part in (store_part(part) for part in one.partition) if part is not None)
        size = one.size if one.size is not None and not one.size.percent else None
        return Volume(name=one.name, kind="virtual-disk", size=size, store=one.store, partition=stored)
    parts = tuple(part for _, part in _parts(one, words))
    if one.kind == "group":
        return Volume(name=one.name, members=one.members, partition=parts)
    return Volume(name=one.name, kind="raid", members=one.members, level=one.level, partition=parts[:1])


def _parts(one: Volume, words: Words) -> list[tuple[int, Partition]]:
    group = one.kind == "group"
    made = []
    for place, part in enumerate(one.partition):
        known = canonical_part(part, words.facts.disk_mib, named=group, percent=group)
        if known is not None and not group:
            known = replace(known, size=None, grow=False, max_size=None, by_memory=False)
        if known is not None:
            made.append((place, known))
    return made


def translate(value: tuple[Volume, ...], words: Words) -> None:
    """A line for each group, RAID and volume; groups first, as they are read."""
    for at, one in sorted(enumerate(value), key=lambda row: _ORDER.index(row[1].kind)):
        if not _known(one, words):
            why = "its installer has nothing of the kind"
            words.cannot(("volume", at), f"the {one.kind} {one.name}", why, "leave it out")
            continue
        if one.kind == "virtual-disk":
            _translate_virtual(one, at, words)
            continue
        kept = dict(_parts(one, words))
        usable = [
            place
            for place, part in enumerate(one.partition)
            if not complain(part, ("volume", at, "partition", place), words)
        ]
        if one.kind == "group":
            _translate_group(one, at, [(place, kept[place]) for place in usable], words)
        elif usable:
            _translate_raid(one, at, usable[0], kept[usable[0]], words)
            if len(usable) > 1:
                why = "a RAID is one volume"
                words.cannot(
                    ("volume", at, "partition"), "several partitions of a RAID", why, "make it a group's member"
                )


def _translate_group(one: Volume, at: int, parts: list[tuple[int, Partition]], words: Words) -> None:
    origin = words.origin("volume", at)
    line = command(words, "volgroup", origin)
    line.put("name", one.name, words.origin("volume", at, "name"))
    for member in one.members:
        line.add("partitions", words.origin("volume", at, "members"), member)
    for place, part in parts:
        path = ("volume", at, "partition", place)
        volume = command(words, "logvol", words.origin(*path))
        volume.put("mountpoint", place_of(part) or "", words.origin(*path, "mount"))
        volume.put("--vgname", one.name, words.origin("volume", at, "name"))
        volume.put("--name", part.name or "data", words.origin(*path, "name"))
        put_part(volume, part, path, words)


def _translate_virtual(one: Volume, at: int, words: Words) -> None:
    origin = words.origin("volume", at)
    line = command(words, "virtualdisk", origin)
    line.put("name", one.name, words.origin("volume", at, "name"))
    if one.size is not None and not one.size.percent:
        line.put("--size", str(one.size.mib), words.origin("volume", at, "size"))
    if one.store is not None:
        line.put("--onvmfs", one.store, words.origin("volume", at, "store"))
    for place, part in enumerate(one.partition):
        path = ("volume", at, "partition", place)
        known = store_part(part)
        if known is None:
            why = "the console mounts every partition somewhere"
            words.cannot(path, f"a partition with the role {part.role}", why, "give it mount, or take it out")
        else:
            put_store_part(known, path, words).put("--onvirtualdisk", one.name, origin)


def _translate_raid(one: Volume, at: int, place: int, part: Partition, words: Words) -> None:
    path = ("volume", at, "partition", place)
    line = command(words, "raid", words.origin("volume", at))
    line.put("mountpoint", place_of(part) or "", words.origin(*path, "mount"))
    line.put("--device", one.name, words.origin("volume", at, "name"))
    if one.level is not None:
        line.put("--level", one.level, words.origin("volume", at, "level"))
    put_part(line, part, path, words, sized=False)
    for member in one.members:
        line.add("partitions", words.origin("volume", at, "members"), member)


def recognise(reader: Reader) -> tuple[Volume, ...] | None:
    """Groups with the volumes that name them, then RAIDs."""
    found: list[Volume] = []
    volumes = reader.find("setup", "logvol", "")
    for root in reader.find("setup", "volgroup", ""):
        name = text_of(root.child("name"))
        if not name:
            continue
        at = len(found)
        members = _members(reader, root, at)
        reader.take(root.child("name"), "volume", at, "name")
        parts: list[Partition] = []
        for volume in volumes:
            if text_of(volume.child("--vgname")) == name:
                reader.take(volume.child("--vgname"))
                parts.append(recognise_part(reader, volume, ("volume", at, "partition", len(parts)), named=True))
        found.append(Volume(name=name, members=members, partition=tuple(parts)))
    _recognise_strays(reader, volumes, found)
    for root in reader.find("setup", "raid", ""):
        name = text_of(root.child("--device"))
        if name:
            found.append(_recognise_raid(reader, root, len(found), name))
    for root in reader.find("setup", "virtualdisk", ""):
        name = text_of(root.child("name"))
        if name:
            found.append(_recognise_virtual(reader, root, len(found), name))
    return tuple(found) or None


def _recognise_strays(reader: Reader, volumes: list[Seat], found: list[Volume]) -> None:
    """Volumes in groups that nobody makes: faulty, but meant."""
    made = {one.name for one in found}
    strays: dict[Text, list[Partition]] = {}
    for volume in volumes:
        group = text_of(volume.child("--vgname"))
        if group and group not in made:
            rows = strays.setdefault(group, [])
            at = len(found) + len(strays) - 1
            reader.take(volume.child("--vgname"))
            rows.append(recognise_part(reader, volume, ("volume", at, "partition", len(rows)), named=True))
    found += [Volume(name=group, partition=tuple(rows)) for group, rows in strays.items()]


def _recognise_virtual(reader: Reader, root: Seat, at: int, name: Text) -> Volume:
    """A virtual disk with the partitions that stand on it."""
    reader.places[("volume", at)] = root
    reader.take(root.child("name"), "volume", at, "name")
    size, store = number_of(root.child("--size")), root.child("--onvmfs")
    reader.take(root.child("--size"), "volume", at, "size")
    reader.take(store, "volume", at, "store")
    parts: list[Partition] = []
    for part in reader.find("setup", "part", ""):
        if text_of(part.child("--onvirtualdisk")) == name:
            reader.take(part.child("--onvirtualdisk"))
            parts.append(recognise_part(reader, part, ("volume", at, "partition", len(parts)), named=False))
    known = Size(mib=size) if isinstance(size, int) else None
    return Volume(name=name, kind="virtual-disk", size=known, store=text_of(store), partition=tuple(parts))


def _recognise_raid(reader: Reader, root: Seat, at: int, name: Text) -> Volume:
    members = _members(reader, root, at)
    reader.take(root.child("--device"), "volume", at, "name")
    fields: dict[str, Any] = {}
    level = text_of(root.child("--level"))
    if level is not None:
        fields["level"] = level
        reader.take(root.child("--level"), "volume", at, "level")
    part = recognise_part(reader, root, ("volume", at, "partition", 0), named=False)
    return Volume(name=name, kind="raid", members=members, partition=(part,), **fields)


def _members(reader: Reader, root: Seat, at: int) -> tuple[Text, ...]:
    reader.places[("volume", at)] = root
    names = []
    for seat in root.all("partitions"):
        text = text_of(seat)
        if text:
            names.append(text)
            reader.take(seat, "volume", at, "members")
    return tuple(names)
