"""Disks laid out by a script for the disk tool of Windows (diskpart), for what setup's own disk settings cannot do.

The script is a companion that lies on the medium. Setup runs it before it looks at its disk settings, and installs to
a partition that the script made. The order is that of the vendor's own sample scripts: the growing partition is made
first and then shrunk by what comes after it.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from msgspec.structs import replace

from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import FOLDER, IN_SETUP, add_command, launched, launcher
from fairledger.families.windows.disk_form import RECOVERY_GPT, table_of, which_of
from fairledger.intent.disk import Disk, Partition
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.sheet import Companion
from fairledger.model.size import Size, open_size
from fairledger.model.values import SecretRef, Template, Text, concat, escape_text, escaped, parse_text

_CALL = "diskpart.exe /s "
_KEEP_HIDDEN = "gpt attributes=0x8000000000000001"
"""Required by the platform, and without a drive letter: what the vendor says recovery partitions should be."""
_LABEL = pattern(r"[ !#-~]{1,32}")


def scripted(disk: Disk) -> bool:
    """Whether a canonical disk is laid out by a script: if that is said, or a recovery partition follows growth."""
    parts = disk.partition
    growing = [at for at, part in enumerate(parts) if part.grow]
    after = parts[growing[0] + 1 :] if growing else ()
    if disk.fate != "wipe" or not parts or len(growing) > 1:
        return False
    if any(not part.made or (part.size is None) != part.grow or part.role == "swap" for part in parts):
        return False
    if any(isinstance(part.size, Template) for part in after) and len(after) > 1:
        return False
    return disk.by_script or (bool(after) and all(part.role == "recovery" for part in after))


def canonical(disk: Disk) -> Disk:
    """What the script can hold: no drive letters, which the new system gives by itself, and plain labels."""
    if not scripted(disk):
        return replace(disk, table=table_of(disk.partition), by_script=False)
    table = disk.table or table_of(disk.partition) or "gpt"
    parts = tuple(_canonical_part(part, table) for part in disk.partition)
    return replace(disk, partition=parts, table=table, by_script=True)


def _canonical_part(part: Partition, table: str) -> Partition:
    role = "data" if part.role == "boot" and table == "gpt" else part.role
    return replace(part, role=role, active=part.active and table == "mbr", letter=None, label=_label(part))


def _label(part: Partition) -> Text | None:
    plain = isinstance(part.label, Template) or _LABEL.fullmatch(part.label or "")
    return part.label if plain else None


def tell(disk: Disk, made: Disk, at: int, words: Words) -> None:
    """Says what the script leaves out of a disk as it was asked for."""
    if disk.by_script and not made.by_script:
        why = "the script needs a wiped disk, a size in MiB or GiB for every partition, and one at most that grows"
        words.cannot(
            ("disk", at, "by_script"), "this layout by a script", why, "complete the partitions", Severity.WARNING
        )
    if not made.by_script:
        return
    for place, part in enumerate(disk.partition):
        path = ("disk", at, "partition", place)
        if made.table == "gpt":
            words.leave_out(path, part, ("active",), "only disks with an MBR have an active partition")
        if part.letter not in (None, "C") or (part.letter == "C" and part.role != "system"):
            why = "the system gives drive letters itself to what a script made"
            hint = "set it with a command at the first sign-in, where it matters"
            words.cannot((*path, "letter"), f"the letter {part.letter}", why, hint, Severity.WARNING)
        if part.label is not None and _label(part) is None:
            why = "the disk tool's script holds plain letters and digits, up to 32, without double quotes"
            words.cannot((*path, "label"), "this label", why, "choose a plain one", Severity.WARNING)


def translate(disk: Disk, at: int, words: Words) -> None:
    """The script as a companion, and the command that calls it."""
    origin = words.origin("disk", at)
    name = f"{FOLDER}/{len(words.out.companions) + 1}-disk.txt"
    body = concat(*(concat(line, "\n") for line in _lines(disk)))
    words.out.companions.append(Companion(name, body, origin))
    add_command(words, IN_SETUP, launcher(name, _CALL), "Disk layout", origin)


def _lines(disk: Disk) -> Iterator[Text]:
    yield concat("select disk ", _said(which_of(disk)))
    yield "clean"
    yield f"convert {disk.table}"
    growing = next((at for at, part in enumerate(disk.partition) if part.grow), len(disk.partition))
    for at, part in enumerate(disk.partition):
        kind = {"firmware": "efi", "reserved": "msr"}.get(part.role, "primary")
        after = disk.partition[at + 1 :]
        last = at > growing and not after  # takes what the shrinking freed, whatever alignment cost
        size = concat(" size=", _said(part.size)) if part.size is not None and not last else ""
        yield concat(f"create partition {kind}", size)
        if at == growing and after:
            sizes = [one.size for one in after]
            whole = sum(size.mib for size in sizes if isinstance(size, Size))
            yield concat("shrink minimum=", _said(sizes[0]) if isinstance(sizes[0], Template) else str(whole))
        if part.role == "reserved":
            continue
        label = concat(' label="', escaped(part.label, "disk-tool"), '"') if part.label is not None else ""
        yield concat(f"format quick fs={part.format or 'ntfs'}", label)
        if part.active or part.role == "boot":
            yield "active"
        if part.role == "recovery":
            yield f'set id="{RECOVERY_GPT}"' if disk.table == "gpt" else "set id=27"
            if disk.table == "gpt":
                yield _KEEP_HIDDEN


def _said(value: Any) -> Text:
    if isinstance(value, Template):
        return escaped(value, "disk-tool")
    return str(value.mib if isinstance(value, Size) else value)


def recognise(reader: Reader) -> list[Disk]:
    """The disks that scripts in our own form lay out."""
    found: list[Disk] = []
    if not reader.seats.companions:
        return found
    for item in reader.find(IN_SETUP.pass_, IN_SETUP.component, IN_SETUP.list_path):
        line = item.child(IN_SETUP.line)
        name = launched(line.text) if line is not None else ""
        there = next((one for one in reader.seats.companions if one.name == name), None)
        if there is None or not name.endswith("-disk.txt") or isinstance(there.body, SecretRef):
            continue
        disk = _parsed(there.body)
        again = concat(*(concat(text, "\n") for text in _lines(disk))) if disk else ""
        if disk is not None and str(again) == str(there.body):
            reader.places[("disk", len(found))] = replace(item.place, origin=there.origin)
            reader.take(item, whole=True)
            found.append(disk)
    return found


def _parsed(body: Text) -> Disk | None:
    """What a script says; None where it says anything that ours never do."""
    text = str(body) if isinstance(body, Template) else escape_text(body)
    head = re.match(r"select disk (\S+)\nclean\nconvert (gpt|mbr)\n", text)
    if head is None:
        return None
    rows: list[dict[str, Any]] = []
    for line in text[head.end() :].splitlines():
        if line.startswith("create partition "):
            rows.append({"role": "data"})
        if not rows or not _taken(line, rows[-1]):
            return None
    freed = re.search(r"^shrink minimum=(\S+)$", text, re.MULTILINE)
    if freed and len(rows) > 1 and rows[-1]["grow"]:
        between = [row["size"] for row in rows[next(at for at, row in enumerate(rows) if row["grow"]) + 1 : -1]]
        rows[-1].update(grow=False, size=_left(_size(freed[1]), between))
    return Disk(
        which=_number(head[1]),
        fate="wipe",
        table=head[2],  # type: ignore[arg-type]
        partition=tuple(Partition(**row) for row in rows),
        by_script=True,
    )


def _left(freed: Any, between: list[Any]) -> Any:
    """The size of the last partition: what was freed, without the ones between."""
    if not isinstance(freed, int):
        return freed
    return Size(mib=freed - sum(size.mib for size in between if isinstance(size, Size)))


def _taken(line: str, row: dict[str, Any]) -> bool:
    """Adds what a line says to the partition it speaks of."""
    if match := re.fullmatch(r"create partition (efi|msr|primary)(?: size=(\S+))?", line):
        row["role"] = {"efi": "firmware", "msr": "reserved"}.get(match[1], "data")
        size = _size(match[2]) if match[2] else None
        row["size"] = Size(mib=size) if isinstance(size, int) else size
        row["grow"] = size is None
    elif match := re.fullmatch(r'format quick fs=(ntfs|fat32)(?: label="(.*)")?', line):
        row["format"] = match[1]
        row["label"] = parse_text(match[2]) if match[2] is not None else None
    elif line == "active":
        row["active"] = True
        row["role"] = "boot" if row["role"] == "data" else row["role"]
    elif line.startswith("set id="):
        row["role"] = "recovery"
    else:
        return line == _KEEP_HIDDEN or re.fullmatch(r"shrink minimum=\S+", line) is not None
    return True


def _size(text: str) -> Any:
    """The same for a size: one that is open is in MiB once it is filled."""
    found = _number(text)
    return open_size(found) if isinstance(found, Template) else found


def _number(text: str) -> Any:
    """Digits as a number; anything else as text with placeholders."""
    return int(text) if re.fullmatch("[0-9]{1,9}", text) else parse_text(text)
