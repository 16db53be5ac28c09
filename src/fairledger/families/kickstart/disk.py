"""Disks in the words of kickstart: which are used, what is cleared, partitions, or the installer's own plan."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from fairledger.catalog.seats import Seat
from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart import choose, hypervisor
from fairledger.families.kickstart.fields import on, secret_of
from fairledger.families.kickstart.lines import command, has
from fairledger.families.kickstart.partitions import (
    canonical_part,
    complain,
    disk_behind,
    place_of,
    put_part,
    recognise_part,
)
from fairledger.intent.disk import Disk, Partition, Plan
from fairledger.model.values import Template, Text, join, split

_SCHEMES = {"groups": "lvm", "plain": "plain", "thin": "thinp", "btrfs": "btrfs"}
_PLAN_FORMATS = ("xfs", "ext4", "ext3", "ext2", "btrfs")
_TABLES = {"gpt": "gpt", "mbr": "msdos"}


def _linux(words: Words) -> bool:
    return has(words, "ignoredisk")


def _named(value: tuple[Disk, ...]) -> list[tuple[int, Disk]]:
    """The disks that can be told, with their places: those with names, else just the first one."""
    used = [(at, disk) for at, disk in enumerate(value) if not disk.ignored]
    chosen = [(at, replace(disk, which=None)) for at, disk in used if disk.choose is not None]
    rows = [(at, disk) for at, disk in used if isinstance(disk.which, str | Template)]
    return chosen[:1] or rows or used[:1]


def canonical(value: tuple[Disk, ...], words: Words) -> tuple[Disk, ...] | None:
    """What the commands can hold."""
    if not _linux(words):
        return hypervisor.canonical(value, words)
    if any(disk.fate == "ask" for disk in value):
        return None
    if all(disk.ignored for disk in value):
        return tuple(Disk(which=which, ignored=True) for which in _spared(value).values()) or None
    rows = _named(value)
    plan = next((disk.plan for _, disk in rows if disk.plan is not None), None)
    table = next((disk.table for _, disk in rows if disk.table and disk.fate == "wipe"), None)
    table = table if has(words, "clearpart", "--disklabel") else None
    made = []
    for at, (_, disk) in enumerate(rows):
        parts = () if plan else tuple(part for _, part in _parts(disk, words))
        chosen = choose.canonical(disk)
        made.append(
            Disk(
                choose=chosen.choose,
                above=chosen.above,
                which=disk.which if isinstance(disk.which, str | Template) else None,
                fate=disk.fate,
                table=table if disk.fate == "wipe" else None,
                partition=parts,
                plan=_canonical_plan(plan) if plan is not None and at == 0 else None,
            )
        )
    if all(one.which is None and one.choose is None for one in made):
        made += [Disk(which=which, ignored=True) for which in _spared(value).values()]
    return tuple(made)


def _canonical_plan(plan: Plan) -> Plan:
    form = plan.format if plan.format in _PLAN_FORMATS else None
    return Plan(
        scheme=plan.scheme,
        home=False if plan.home is False else None,
        swap=False if plan.swap is False else None,
        format=form,
        encrypted=plan.encrypted,
        passphrase=plan.passphrase if plan.encrypted else None,
    )


def _parts(disk: Disk, words: Words) -> list[tuple[int, Partition]]:
    made = []
    for place, part in enumerate(disk.partition):
        known = canonical_part(part, words.facts.disk_mib, named=False, percent=False, disk=disk.which)
        if known is not None:
            made.append((place, known))
    return made


def translate(value: tuple[Disk, ...], words: Words) -> None:
    """Which disks are used, what is cleared, and the partitions in their order."""
    if not _linux(words):
        hypervisor.translate(value, words)
        return
    if any(disk.fate == "ask" for disk in value):
        return  # without any of these commands the installer asks
    if all(disk.ignored for disk in value):
        _translate_ignored(value, words)
        return
    rows = _named(value)
    _tell(value, rows, words)
    names = tuple(disk.which for _, disk in rows if isinstance(disk.which, str | Template))
    origin = words.origin("disk", rows[0][0])
    spared = _spared(value)
    if names:
        words.out.block("setup", "ignoredisk", origin).put("--only-use", join(names, ","), origin)
        words.told += [("disk", at) for at in spared]  # all others are left alone
    elif spared and rows[0][1].choose is None:
        _translate_ignored(value, words)
    if rows[0][1].choose is not None:
        choose.translate(rows[0][1], rows[0][0], words)
    _translate_clearing(rows, words)
    plan = next(((at, disk.plan) for at, disk in rows if disk.plan is not None), None)
    if plan is not None and plan[1] is not None:
        _translate_plan(plan[1], ("disk", plan[0], "plan"), words)
    for at, disk in rows:
        if plan is not None and disk.partition:
            why = "the installer's plan and partitions of one's own exclude each other"
            words.cannot(("disk", at, "partition"), "partitions beside a plan", why, "take one of them out")
        elif plan is None:
            _translate_parts(disk, at, words)


def _tell(value: tuple[Disk, ...], rows: list[tuple[int, Disk]], words: Words) -> None:
    """Says what of the disks the commands cannot hold."""
    used = sum(not disk.ignored for disk in value)
    for at, disk in enumerate(value):
        why = "it is a matter of installers with a disk tool and a recovery system of their own"
        words.leave_out(("disk", at), disk, ("by_script", "without_recovery"), why)
        if disk.upgrade is not None:
            why = "it only installs"
            words.cannot(("disk", at, "upgrade"), "an upgrade of what is there", why, "leave it out for this target")
        if disk.choose is None:
            words.leave_out(("disk", at), disk, ("above",), "it belongs to a choice of the disk")
        elif len(value) > 1 and rows[0][0] != at:
            why = "one disk can be chosen at the machine, and is then the only one"
            words.cannot(("disk", at, "choose"), "a second choice", why, "name the disks instead")
        elif len(value) > 1:
            why = "a disk that is chosen at the machine is the only one to be used"
            words.cannot(("disk", at, "choose"), "a choice beside other disks", why, "name all disks, or just choose")
        if disk.ignored and disk.partition:
            why = "the installer leaves it alone"
            words.cannot(("disk", at, "partition"), "partitions of an ignored disk", why, "take one of the two out")
        if disk.choose is None and (isinstance(disk.which, int) or (disk.which is None and used > 1)):
            told = f"disk {disk.which}" if disk.which is not None else "a disk without a name beside others"
            why = "its installer knows disks by their names"
            words.cannot(("disk", at, "which"), told, why, 'write a name such as which = "sda"')


def _translate_ignored(value: tuple[Disk, ...], words: Words) -> None:
    spared = _spared(value)
    if spared:
        origin = words.origin("disk", next(iter(spared)), "ignored")
        words.out.block("setup", "ignoredisk", origin).put("--drives", join(tuple(spared.values()), ","), origin)


def _spared(value: tuple[Disk, ...]) -> dict[int, Text]:
    """The disks that are left alone, by their places."""
    named = ((at, disk.which) for at, disk in enumerate(value) if disk.ignored)
    return {at: which for at, which in named if isinstance(which, str | Template)}


def _translate_clearing(rows: list[tuple[int, Disk]], words: Words) -> None:
    wiped = [(at, disk) for at, disk in rows if disk.fate == "wipe"]
    if not wiped:
        origin = words.origin("disk", rows[0][0], "fate")
        words.out.block("setup", "clearpart", origin).put("--none", "true", origin)
        return
    origin = words.origin("disk", wiped[0][0], "fate")
    words.out.block("setup", "zerombr", origin)
    line = words.out.block("setup", "clearpart", origin)
    line.put("--all", "true", origin)
    line.put("--initlabel", "true", origin)
    names = tuple(disk.which for _, disk in wiped if isinstance(disk.which, str | Template))
    if names:
        line.put("--drives", join(names, ","), origin)
    table = next(((at, disk.table) for at, disk in wiped if disk.table), None)
    if table is not None and table[1] is not None and has(words, "clearpart", "--disklabel"):
        line.put("--disklabel", _TABLES[table[1]], words.origin("disk", table[0], "table"))


def _translate_plan(plan: Plan, path: tuple[str | int, ...], words: Words) -> None:
    known = _canonical_plan(plan)
    line = words.out.block("setup", "autopart", words.origin(*path))
    rows: tuple[tuple[str, str, Any], ...] = (
        ("scheme", "--type", _SCHEMES[known.scheme] if known.scheme else None),
        ("home", "--nohome", "true" if known.home is False else None),
        ("swap", "--noswap", "true" if known.swap is False else None),
        ("format", "--fstype", known.format),
        ("encrypted", "--encrypted", "true" if known.encrypted else None),
        ("passphrase", "--passphrase", known.passphrase),
    )
    for field, setting, said in rows:
        if said is not None:
            line.put(setting, said, words.origin(*path, field))


def _translate_parts(disk: Disk, at: int, words: Words) -> None:
    kept = dict(_parts(disk, words))
    for place, part in enumerate(disk.partition):
        path = ("disk", at, "partition", place)
        if complain(part, path, words, disk=disk.which, named=False):
            continue
        known = kept[place]
        line = command(words, "part", words.origin(*path))
        line.put("mountpoint", place_of(known) or "", words.origin(*path, "mount"))
        put_part(line, known, path, words)
        if known.made and isinstance(disk.which, str | Template):
            line.put("--ondisk", disk.which, words.origin("disk", at, "which"))


def recognise(reader: Reader) -> tuple[Disk, ...] | None:
    """Disks by name, in the order in which the file first names them."""
    if reader.catalog.component("ignoredisk") is None:
        return hypervisor.recognise(reader)
    used = reader.first("setup", "ignoredisk", "--only-use")
    clear = next(iter(reader.find("setup", "clearpart", "")), None)
    lines = reader.find("setup", "part", "")
    parts = [root for root in lines if disk_behind(root) or not (root.child("--onpart") or root.child("--usepart"))]
    auto = next(iter(reader.find("setup", "autopart", "")), None)
    spared = reader.first("setup", "ignoredisk", "--drives")
    chosen = choose.recognise(reader)
    if used is None and clear is None and not parts and auto is None and chosen is None:
        return _only_ignored(reader, spared)
    left = _bare(split(text_of(spared) or "", ","))
    allowed = _bare(split(text_of(used) or "", ","))
    cleared = clear.child("--drives") if clear is not None else None
    names: dict[Text | None, None] = dict.fromkeys(allowed)
    names.update(dict.fromkeys(_bare(split(text_of(cleared) or "", ","))))
    named = [_name_of(root) for root in parts]
    names.update(dict.fromkeys(name for name in named if name))
    if not names or None in named:
        names = names or {None: None}
    nameless = next(iter(names))
    own: dict[Text | None, list[Seat]] = {}
    for root, name in zip(parts, named, strict=True):
        own.setdefault(nameless if name is None else name, []).append(root)
    reader.take(used, "disk", 0, "which")
    wiped = _recognise_clearing(reader, clear, cleared)
    disks = []
    for at, name in enumerate(names):
        disk = _recognise_disk(reader, name, at, own.get(name, []), wiped)
        ignored = name is not None and (name in left or (bool(allowed) and name not in allowed))
        disks.append(replace(disk, ignored=ignored))
    if clear is not None:
        for at in range(len(disks)):
            reader.places.setdefault(("disk", at), clear)
    table = clear.child("--disklabel") if clear is not None else None
    told = next((name for name, word in _TABLES.items() if table is not None and word == table.text), None)
    if told is not None:
        reader.take(table, "disk", 0, "table")
        disks = [replace(disk, table=told) if disk.fate == "wipe" else disk for disk in disks]
    if chosen is not None:
        disks[0] = replace(disks[0], choose=chosen.choose, above=chosen.above)
    if auto is not None:
        disks[0] = replace(disks[0], plan=_recognise_plan(reader, auto))
    alone = [name for name in left if name not in names]
    for name in alone:
        reader.take(spared, "disk", len(disks), "ignored")
        disks.append(Disk(which=name, ignored=True))
    return tuple(disks)


def _only_ignored(reader: Reader, spared: Seat | None) -> tuple[Disk, ...] | None:
    names = split(text_of(spared) or "", ",")
    reader.take(spared, "disk", 0, "ignored")
    return tuple(Disk(which=name, ignored=True) for name in names) or None


def _disk_of(root: Seat) -> Seat | None:
    return root.child("--ondisk") or root.child("--ondrive")


def _name_of(root: Seat) -> Text | None:
    """The disk on which a line makes or uses a partition; None where it does not say."""
    named = text_of(_disk_of(root))
    return _bare((named,))[0] if named else disk_behind(root) or None


def _bare(names: tuple[Text, ...]) -> tuple[Text, ...]:
    """Names of disks without the folder in which the system keeps them, which says nothing."""
    return tuple(name.removeprefix("/dev/") if isinstance(name, str) else name for name in names)


def _recognise_clearing(reader: Reader, clear: Seat | None, cleared: Seat | None) -> tuple[Text, ...] | bool:
    """The names of the disks that are wiped; true for all, false for none."""
    for root in reader.find("setup", "zerombr", ""):
        reader.take_block(root)
    if clear is None:
        return False
    if not on(clear, "--all"):
        reader.take(clear.child("--none") if on(clear, "--none") else None)  # which is so anyway
        return False
    reader.take(clear.child("--all"), "disk", 0, "fate")
    reader.take(clear.child("--initlabel"))
    reader.take(cleared)
    return _bare(split(text_of(cleared) or "", ",")) or True


def _recognise_disk(
    reader: Reader,
    name: Text | None,
    at: int,
    own: list[Seat],
    wiped: tuple[Text, ...] | bool,  # noqa: FBT001
) -> Disk:
    parts = []
    for place, root in enumerate(own):
        parts.append(recognise_part(reader, root, ("disk", at, "partition", place), named=False))
        reader.take(_disk_of(root))
    wipe = wiped if isinstance(wiped, bool) else name in wiped
    return Disk(which=name, fate="wipe" if wipe else "keep", partition=tuple(parts))


def _recognise_plan(reader: Reader, auto: Seat) -> Plan:
    path = ("disk", 0, "plan")
    reader.places[path] = auto
    reader.take_block(auto)
    fields: dict[str, Any] = {}
    scheme = next((name for name, word in _SCHEMES.items() if text_of(auto.child("--type")) == word), None)
    if scheme is not None:
        fields["scheme"] = scheme
        reader.take(auto.child("--type"), *path, "scheme")
    for flag, field in (("--nohome", "home"), ("--noswap", "swap")):
        if on(auto, flag):
            fields[field] = False
            reader.take(auto.child(flag), *path, field)
    form = text_of(auto.child("--fstype"))
    if form in _PLAN_FORMATS:
        fields["format"] = form
        reader.take(auto.child("--fstype"), *path, "format")
    if on(auto, "--encrypted"):
        fields["encrypted"] = True
        reader.take(auto.child("--encrypted"), *path, "encrypted")
        if secret_of(auto, "--passphrase") is not None:
            fields["passphrase"] = secret_of(auto, "--passphrase")
            reader.take(auto.child("--passphrase"), *path, "passphrase")
    return Plan(**fields)
