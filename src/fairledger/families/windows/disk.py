"""Disks and partitions in the words of Windows setup.

Setup numbers the partitions of a disk from 1 in the order in which they are made, and the answers that
change a partition or name the install target count with those numbers.
"""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from fairledger.catalog.seats import Seat
from fairledger.families.fields import number_of, text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.windows import disktool
from fairledger.families.windows.command_lines import AS_SYSTEM, add_command, commands_at
from fairledger.families.windows.disk_form import (
    RECOVERY_GPT,
    RECOVERY_MBR,
    TYPES,
    arranged,
    canonical_disk,
    distinct,
    form_of,
    in_mib,
    numbers_of,
    only_installed_to,
    table_of,
    target_of,
    which_of,
)
from fairledger.families.windows.fields import truth_of
from fairledger.families.windows.names import SETUP
from fairledger.intent.disk import Disk, Partition
from fairledger.model.places import Origin
from fairledger.model.sheet import Branch
from fairledger.model.size import Size
from fairledger.model.values import Template, Text

_CONFIG = "DiskConfiguration"
_IMAGE = "ImageInstall/OSImage"
__all__ = ["canonical", "recognise", "translate"]

_NO_RECOVERY = r'cmd.exe /c "reagentc.exe /disable & del /a /f %windir%\System32\Recovery\Winre.wim"'
"""Turns the recovery system off and removes its image, so that setup cannot put it into the system's volume."""


def canonical(value: tuple[Disk, ...], words: Words) -> tuple[Disk, ...] | None:
    """What setup's disk settings, or a script for its disk tool, can hold."""
    none = any(disk.without_recovery for disk in value)
    if any(disk.fate == "ask" for disk in value):
        return (Disk(fate="ask", without_recovery=none),)
    disks = []
    taken = False
    for disk in distinct(value):
        if taken and not arranged(disk) and only_installed_to(replace(disk, partition=())):
            continue
        made = disktool.canonical(canonical_disk(disk, words.facts.disk_mib, taken=taken))
        taken = taken or made.install_to is not None or target_of(made.partition) is not None
        disks.append(made)
    disks.sort(key=lambda disk: (not disk.by_script, only_installed_to(disk)))
    if any(disk.install_to == "any" for disk in disks):  # said once, for the whole machine
        disks = [replace(disk, install_to="any" if at == 0 else None) for at, disk in enumerate(disks)]
    if none and disks:
        disks[0] = replace(disks[0], without_recovery=True)
    return tuple(disks) or None


def translate(value: tuple[Disk, ...], words: Words) -> None:
    """Disks, and the partition that receives the system."""
    _translate_recovery(value, words)
    asking = next((at for at, disk in enumerate(value) if disk.fate == "ask"), None)
    if asking is not None:
        origin = words.origin("disk", asking, "fate")
        words.out.block("windowsPE", SETUP, origin).put(f"{_CONFIG}/WillShowUI", "Always", origin)
        if len(value) > 1:
            why = "the page for one disk lets the person choose among all of them"
            words.cannot(
                ("disk", asking, "fate"),
                "asking about one disk of several",
                why,
                "ask, or lay out, all disks",
            )
        return
    chosen = None
    once = {id(one) for one in distinct(value)}
    rows: list[tuple[int, Disk, Disk]] = []
    for at, disk in enumerate(value):
        if id(disk) not in once:
            words.field_error(("disk", at), "two disks have the same number", "give each its own number")
            continue
        made = disktool.canonical(canonical_disk(disk, words.facts.disk_mib, taken=chosen is not None))
        rows.append((at, disk, made))
        target = target_of(tuple(part for _, part in arranged(disk)))
        systems = sum(part.role == "system" for part in disk.partition)
        if systems > 1 or (chosen is not None and target is not None):
            hint = "give one partition the role system, the others data"
            words.field_error(("disk", at), "more than one partition is to receive the system", hint)
        if chosen is None and (target is not None or disk.install_to is not None):
            chosen = (at, target)
    for at, disk, made in sorted(rows, key=lambda row: not row[2].by_script):
        disktool.tell(disk, made, at, words)
        if made.by_script:
            _tell_disk(disk, at, words)
            disktool.translate(made, at, words)
        else:
            _translate_disk(disk, at, words)
    if chosen is not None:
        _translate_install(value[chosen[0]], chosen[0], chosen[1], words)


def _translate_disk(disk: Disk, at: int, words: Words) -> None:
    origin = words.origin("disk", at)
    rows = arranged(disk)
    parts = tuple(part for _, part in rows)
    _tell_left_out(disk, at, {place for place, _ in rows}, words)
    if not parts and only_installed_to(replace(disk, partition=())):
        return
    item = words.out.block("windowsPE", SETUP, origin).add(f"{_CONFIG}/Disk", origin)
    _tell_disk(disk, at, words)
    item.put("DiskID", _said(which_of(disk)), words.origin("disk", at, "which"))
    item.put("WillWipeDisk", "true" if disk.fate == "wipe" else "false", words.origin("disk", at, "fate"))
    for (place, part), number in zip(rows, numbers_of(parts), strict=True):
        _translate_part(part, number, ("disk", at, "partition", place), item, words)


def _tell_disk(disk: Disk, at: int, words: Words) -> None:
    why = "setup knows disks by their numbers"
    if isinstance(disk.which, str):
        words.cannot(("disk", at, "which"), f"the disk {disk.which}", why, "write its number, usually 0")
    if disk.choose is not None:
        hint = 'write which = 0, or fate = "ask" to let the person at the machine choose'
        words.cannot(("disk", at, "choose"), f"the choice of a disk by a property ({disk.choose})", why, hint)
    if disk.upgrade is not None:
        why = "a file that lays out disks only installs"
        words.cannot(("disk", at, "upgrade"), "an upgrade of what is there", why, "leave it out for this target")
    words.leave_out(("disk", at), disk, ("ignored",), "setup leaves every disk alone that is not laid out")
    if disk.plan is not None:
        why = "setup has no plan of its own for a wiped disk"
        words.cannot(("disk", at, "plan"), "disk.plan", why, "write the partitions, or take a shipped disk profile")


def _translate_recovery(value: tuple[Disk, ...], words: Words) -> None:
    """Without a partition for it, setup puts the recovery system into the system's volume by itself."""
    there = any(part.role == "recovery" for disk in value for part in disk.partition)
    for at, disk in enumerate(value):
        if disk.without_recovery and there:
            hint = "take the partition out, or this line"
            told = "a partition has the role recovery, and the recovery system is to be removed"
            words.field_error(("disk", at, "without_recovery"), told, hint)
    none = next((at for at, disk in enumerate(value) if disk.without_recovery), None)
    if none is not None:
        origin = words.origin("disk", none, "without_recovery")
        add_command(words, AS_SYSTEM, _NO_RECOVERY, "No recovery system", origin)


def _translate_install(disk: Disk, at: int, target: int | None, words: Words) -> None:
    origin = words.origin("disk", at)
    block = words.out.block("windowsPE", SETUP, origin)
    if target is None and disk.install_to == "any":
        block.put(f"{_IMAGE}/InstallToAvailablePartition", "true", words.origin("disk", at, "install_to"))
        return
    block.put(f"{_IMAGE}/InstallTo/DiskID", _said(which_of(disk)), origin)
    block.put(f"{_IMAGE}/InstallTo/PartitionID", _said(disk.install_to if target is None else target), origin)


def _tell_left_out(disk: Disk, at: int, kept: set[int], words: Words) -> None:
    for place, part in enumerate(disk.partition):
        path = ("disk", at, "partition", place)
        if part.role == "swap":
            why = "it keeps its page file on an ordinary volume"
            words.cannot(path, "a swap partition", why, "take the partition out")
        elif place not in kept:
            hint = "give it the number of an existing partition, each once"
            words.field_error(path, "a partition that is not made needs a number of its own", hint)


def _tell_foreign(part: Partition, path: tuple[str | int, ...], words: Words) -> None:
    for field in _NOT_HERE:
        if getattr(part, field):
            words.cannot((*path, field), f"{field} of a partition", "setup has nothing of the kind", "leave it out")
    if part.format not in (None, "ntfs", "fat32"):
        words.cannot((*path, "format"), f"the format {part.format}", "it makes NTFS and FAT32", "use ntfs")


_NOT_HERE = ("mount", "options", "member", "name", "encrypted", "passphrase", "by_memory", "max_size")


def _translate_part(
    part: Partition, number: int | None, path: tuple[str | int, ...], item: Branch, words: Words
) -> None:
    origin = words.origin(*path)
    _tell_foreign(part, path, words)

    def of(field: str) -> Origin:
        return words.origin(*path, field)

    if part.made:
        made = item.add("CreatePartitions/CreatePartition", origin)
        made.put("Order", str(number), origin)
        made.put("Type", TYPES.get(part.role, "Primary"), of("role"))
        size = in_mib(part.size, words.facts.disk_mib)
        if isinstance(part.size, Size) and size is None:
            why = "setup wants MiB, and the disk's size is not known"
            words.cannot(
                (*path, "size"),
                f"a size of {part.size}",
                why,
                "state disk_size in [draft], or give the size in GiB",
            )
        if isinstance(size, Size):
            made.put("Size", str(size.mib), of("size"))
        elif isinstance(size, Template):
            made.put("Size", size, of("size"))
        if part.grow:
            made.put("Extend", "true", of("grow"))
    if part.role == "reserved" and part.made:
        for field in ("format", "label", "letter"):
            if getattr(part, field) is not None:
                told = f"a {field} for the reserved partition"
                words.cannot((*path, field), told, "it has no file system", f"leave {field} out")
        return
    changed = _changes(part, item, words, of)
    if changed or not part.made:
        change = item.add("ModifyPartitions/ModifyPartition", origin)
        place = len(item.child("ModifyPartitions", origin).children)
        change.put("Order", str(place), origin)
        change.put("PartitionID", str(number), origin)
        for setting, text, where in changed:
            change.put(setting, text, where)


def _changes(part: Partition, item: Branch, words: Words, of: Any) -> list[tuple[str, Text, Origin]]:
    form = form_of(part, part.role)
    out: list[tuple[str, Text, Origin]] = []
    if form:
        out.append(("Format", form.upper(), of("format")))
    if part.label is not None:
        out.append(("Label", part.label, of("label")))
    if part.letter is not None:
        out.append(("Letter", part.letter, of("letter")))
    if part.active or part.role == "boot":
        out.append(("Active", "true", of("active")))
    if part.role == "recovery":
        made = item.child("CreatePartitions", of("role")).children if part.made else []
        gpt = any(one.value in TYPES.values() for row in made for one in row.children if one.name == "Type")
        firmware = words.facts.firmware
        out.append(("TypeID", RECOVERY_GPT if gpt or firmware == "uefi" else RECOVERY_MBR, of("role")))
    if part.grow and not part.made:
        out.append(("Extend", "true", of("grow")))
    return out


def _said(value: int | Template | str | None) -> Text:
    return value if isinstance(value, Template) else str(value)


def recognise(reader: Reader) -> tuple[Disk, ...] | None:
    """Disks as the file lays them out, faulty or not."""
    disks = disktool.recognise(reader)
    for seat in reader.find("windowsPE", SETUP, f"{_CONFIG}/Disk"):
        disks.append(_recognise_disk(reader, seat, len(disks)))
    shown = reader.first("windowsPE", SETUP, f"{_CONFIG}/WillShowUI")
    if not disks and shown is not None and shown.text == "Always":
        reader.take(shown, "disk", 0, "fate")
        disks.append(Disk(fate="ask"))
    _recognise_install(reader, disks)
    disks = [disk if disk.by_script else replace(disk, table=table_of(disk.partition)) for disk in disks]
    for item, line in commands_at(reader, AS_SYSTEM, "cmd.exe"):
        if line == _NO_RECOVERY and disks and not disks[0].without_recovery:
            disks[0] = replace(disks[0], without_recovery=True)
            reader.take(item, "disk", 0, "without_recovery", whole=True)
    return tuple(disks) or None


def _recognise_disk(reader: Reader, seat: Seat, at: int) -> Disk:
    reader.places[("disk", at)] = seat
    which = number_of(seat.child("DiskID"))
    if which is not None:
        reader.take(seat.child("DiskID"))  # the disk itself is placed: without a number it is taken for the first
    wipe = truth_of(seat.child("WillWipeDisk"))
    if wipe is not None:
        reader.take(seat.child("WillWipeDisk"), "disk", at, "fate")
    reader.take(seat)
    made = _in_order(seat.all("CreatePartitions/CreatePartition"))
    changes = _in_order(seat.all("ModifyPartitions/ModifyPartition"))
    fields = [_recognise_made(reader, one, ("disk", at, "partition", place)) for place, one in enumerate(made)]
    changed: set[int] = set()
    for change in changes:
        number = number_of(change.child("PartitionID"))
        if not isinstance(number, int) or number in changed:
            continue
        changed.add(number)
        if not 1 <= number <= len(made):
            path = ("disk", at, "partition", len(fields))
            reader.places[path] = change
            fields.append({"made": False, "number": number})
        else:
            path = ("disk", at, "partition", number - 1)
        place = number - 1 if number <= len(made) and number >= 1 else len(fields) - 1
        _recognise_change(reader, change, path, fields[place])
    parts = tuple(Partition(**one) for one in fields)
    return Disk(which=0 if which is None else which, fate="wipe" if wipe else "keep", partition=parts)


def _in_order(seats: Any) -> list[Seat]:
    rows = list(seats)

    def order(seat: Seat) -> int:
        number = number_of(seat.child("Order"))
        return number if isinstance(number, int) else len(rows) + 1

    return sorted(rows, key=order)


def _recognise_made(reader: Reader, seat: Seat, path: tuple[str | int, ...]) -> dict[str, Any]:
    reader.places[path] = seat
    fields: dict[str, Any] = {"role": "data"}
    kind = (seat.child("Type").text or "").strip() if seat.child("Type") else ""  # type: ignore[union-attr]
    role = next((role for role, name in TYPES.items() if name == kind), None)
    if role is not None:
        fields["role"] = role
        reader.take(seat.child("Type"), *path, "role")
    elif kind == "Primary":
        reader.take(seat.child("Type"))  # it leaves the role open
    size = number_of(seat.child("Size"))
    if size is not None:
        fields["size"] = Size(mib=size) if isinstance(size, int) else size
        reader.take(seat.child("Size"), *path, "size")
    if truth_of(seat.child("Extend")) is not None:
        fields["grow"] = truth_of(seat.child("Extend"))
        reader.take(seat.child("Extend"), *path, "grow")
    reader.take(seat.child("Order"))
    return fields


def _recognise_change(reader: Reader, seat: Seat, path: tuple[str | int, ...], fields: dict[str, Any]) -> None:
    reader.take(seat.child("Order"))
    reader.take(seat.child("PartitionID"), *path, "number")
    form = text_of(seat.child("Format")) or ""
    if form in ("NTFS", "FAT32"):
        fields["format"] = str(form).lower()
        reader.take(seat.child("Format"), *path, "format")
    reader.take_fields(seat, (("label", "Label"), ("letter", "Letter")), path, fields, text_of)
    if truth_of(seat.child("Active")) is not None:
        fields["active"] = truth_of(seat.child("Active"))
        reader.take(seat.child("Active"), *path, "active")
    if truth_of(seat.child("Extend")) is not None and not fields.get("made", True):
        fields["grow"] = truth_of(seat.child("Extend"))
        reader.take(seat.child("Extend"), *path, "grow")
    kind = text_of(seat.child("TypeID"))
    if isinstance(kind, str) and kind.strip("{} ").lower() in (RECOVERY_GPT, RECOVERY_MBR):
        fields["role"] = "recovery"
        reader.take(seat.child("TypeID"), *path, "role")
    elif fields.get("active") and fields.get("role", "data") == "data":
        fields["role"] = "boot"


def _recognise_install(reader: Reader, disks: list[Disk]) -> None:
    """Who receives the system: a partition by its role, else by a number that may point nowhere."""
    any_one = reader.first("windowsPE", SETUP, f"{_IMAGE}/InstallToAvailablePartition")
    if truth_of(any_one):
        if not disks:
            disks.append(Disk())
        disks[0] = replace(disks[0], install_to="any")
        reader.take(any_one, "disk", 0, "install_to")
    group = reader.first("windowsPE", SETUP, f"{_IMAGE}/InstallTo")
    disk_seat = group.child("DiskID") if group else None
    part_seat = group.child("PartitionID") if group else None
    which, number = number_of(disk_seat), number_of(part_seat)
    if which is None or number is None:
        return
    at = next((at for at, disk in enumerate(disks) if disk.which == which), None)
    if at is None:
        disks.append(Disk(which=which))
        at = len(disks) - 1
    disk = disks[at]
    numbers = numbers_of(disk.partition)
    place = numbers.index(number) if number in numbers else None
    reader.take(disk_seat)
    reader.take(part_seat, "disk", at, "install_to")
    reader.take(group)
    if place is not None and disk.partition[place].role in ("data", "boot"):
        parts = list(disk.partition)
        parts[place] = replace(parts[place], role="system")
        disks[at] = replace(disk, partition=tuple(parts))
    else:
        disks[at] = replace(disk, install_to=number)
