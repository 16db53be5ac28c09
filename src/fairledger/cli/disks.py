"""Disks drawn to scale in the terminal, with what is made of their partitions."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from fairledger.cli.console import Console, cell
from fairledger.intent.disk import DISK, Disk, Partition
from fairledger.intent.layout import Layout, Slice, inside, laid_out, smallest, with_system, with_volumes
from fairledger.intent.volume import VOLUME
from fairledger.model.errors import WrongUseError
from fairledger.model.size import Size

if TYPE_CHECKING:
    from fairledger.profiles.resolve import Resolved
from fairledger.subject.subject import Subject


def _said(draft: Subject) -> Resolved:
    assert draft.draft is not None
    return draft.draft


def disks_of(draft: Subject) -> tuple[Disk, ...]:
    """The draft's disks. Raises `WrongUseError` if it lays none out."""
    volumes = _said(draft).intent.get(VOLUME) or ()
    disks = tuple(with_volumes(one, volumes) for one in _said(draft).intent.get(DISK) or () if one.partition)
    if not disks:
        remedy = "add a profile such as disk/uefi-one-disk, or write [disk]"
        raise WrongUseError("the draft lays out no disk", file=draft.file, remedy=remedy)
    return disks


class Bar(Struct, frozen=True):
    """A disk, or what is made of its partitions, drawn as a bar."""

    title: str
    disk: Disk
    layout: Layout
    inside: tuple[Bar, ...] = ()
    """Groups and virtual disks that lie on it whole."""
    before: bool = False
    """Whether it is the disk as it is today."""

    @property
    def parts(self) -> tuple[tuple[Slice, Partition | None], ...]:
        """The slices with their partitions; free space has none."""
        return tuple(
            (one, self.disk.partition[one.place] if one.place is not None else None) for one in self.layout.slices
        )


def bars_of(draft: Subject) -> list[Bar]:
    """What is drawn: the first disk as it is today, if that is described, and every disk after."""
    out = []
    size = draft.facts.disk_mib
    if _said(draft).head.disk_before:
        before = Disk(partition=_said(draft).head.disk_before)
        layout = laid_out(before, size)
        out.append(Bar(f"before: the disk as described, {size_told(layout.mib)}", before, layout, (), before=True))
    for disk in disks_of(draft):
        layout = laid_out(disk if size is not None else with_system(disk, system_least(draft)), size)
        title = ("after: " if out else "") + _title(disk, layout)
        out.append(Bar(title, disk, layout, tuple(_inner(disk, layout, draft))))
    return out


def _inner(disk: Disk, layout: Layout, draft: Subject) -> Iterator[Bar]:
    """The groups and virtual disks that lie on a disk whole, each as a bar."""
    sizes = {disk.partition[one.place].member: one for one in layout.slices if one.place is not None}
    for volume in _said(draft).intent.get(VOLUME) or ():
        holds = volume.members or ((volume.store,) if volume.store is not None else ())
        if not holds or not volume.partition or volume.kind == "raid" or any(one not in sizes for one in holds):
            continue
        mib = sum(sizes[one].mib for one in holds)
        on = " and ".join(str((sizes[one].place or 0) + 1) for one in holds)
        found = inside(volume, mib)
        kind = {"group": "group", "virtual-disk": "virtual disk"}[volume.kind or "group"]
        yield Bar(f"{kind} {volume.name} on {on}, {size_told(found.mib)}", Disk(partition=volume.partition), found)


def least_of(draft: Subject, disk: Disk) -> int:
    """The smallest disk in MiB on which a layout fits, with what the system itself needs where its partition grows."""
    return smallest(with_system(disk, system_least(draft)))


def system_least(draft: Subject) -> int:
    """What the system itself needs, in MiB, as its vendor or the practice of the trade says."""
    target = draft.target
    return (target.least_system_mib if target is not None else 0) or draft.limits.system_least_mib


def as_json(draft: Subject) -> list[dict[str, Any]]:
    """The stable form: every partition with start and size in MiB."""
    out = []
    for disk in disks_of(draft):
        layout = laid_out(disk, draft.facts.disk_mib)
        out.append(
            {
                "which": str(disk.which if disk.which is not None else 0),
                "fate": disk.fate,
                "disk_mib": layout.mib if layout.stated else None,
                "smallest_mib": least_of(draft, disk),
                "target_least_mib": (draft.target.least_disk_mib or None) if draft.target else None,
                "left_mib": layout.left if layout.stated else None,
                "partitions": [
                    {"role": disk.partition[one.place].role, "start_mib": one.start, "size_mib": one.mib}
                    for one in layout.slices
                    if one.place is not None
                ],
                "inside": [
                    {
                        "name": each.title.partition(" on ")[0],
                        "size_mib": each.layout.mib,
                        "partitions": [
                            {"role": part.role, "size_mib": one.mib} for one, part in each.parts if part is not None
                        ],
                    }
                    for each in _inner(disk, layout, draft)
                ],
            }
        )
    return out


def draw(draft: Subject, console: Console) -> None:
    """Each disk as a bar to scale, what is made of its partitions below it, and all of it in tables."""
    for bar in bars_of(draft):
        narrow = False
        for one in (bar, *bar.inside):
            console.say(("" if one is bar else "  ") + console.style(one.title, "bold"))
            drawn, cut = _bar(one, console.width - 4)
            console.say(drawn)
            narrow = narrow or cut
        if narrow:
            console.say(f"  {BREAK} breaks the scale: what is too narrow to be drawn to it")
        console.say()
        for one in (bar, *bar.inside):
            if one is not bar:
                console.say(f"  in the {one.title.partition(',')[0]}")
            console.table(_table(one.disk, one.layout))
            console.say()
        if not bar.before:
            _tell(bar, draft, console)


BREAK = "~"
"""Stands beside what is drawn wider than it is."""


def _tell(bar: Bar, draft: Subject, console: Console) -> None:
    """On how large a disk it fits, and what is not drawn."""
    disk, layout = bar.disk, bar.layout
    least = size_told(least_of(draft, disk))
    if layout.left < 0:
        told = f"it does not fit: {size_told(-layout.left)} are missing; the layout wants a disk of {least} or more"
        console.say("  " + console.style(told, "error"))
    elif not _there(disk):
        grows = any(part.grow and part.role == "system" for part in disk.partition)
        system = ", with what the system itself needs" if grows else ""
        console.paragraph(f"it wants a disk of {least} or more{system}", indent="  ")
    else:
        told = f"on it already, and not drawn: {', '.join(_there(disk))}; their sizes are not known here"
        console.paragraph(told, indent="  ")
    if any(part.by_memory for part in disk.partition):
        console.paragraph("the installer chooses a size by the machine's memory, which is not drawn", indent="  ")
    for volume in _on(disk, draft, {one.title.partition(" on ")[0] for one in bar.inside}):
        console.paragraph(volume, indent="  ", hang="    ")
    target = draft.target
    if target is not None and target.least_disk_mib:
        console.say(f"  {target.name} wants a disk of {size_told(target.least_disk_mib)} or more")
    console.say()


def _there(disk: Disk) -> list[str]:
    """The partitions that exist already and are used again."""
    return [f"{part.device} ({part.role})" for part in disk.partition if not part.made and part.device is not None]


def _on(disk: Disk, draft: Subject, drawn: Collection[str]) -> list[str]:
    """What is made of a disk's partitions and lies on others too, each in a line."""
    members = {part.member for part in disk.partition if part.member is not None}
    out = []
    for volume in _said(draft).intent.get(VOLUME) or ():
        if not members & {*volume.members, volume.store}:
            continue
        if f"{str(volume.kind).replace('-', ' ')} {volume.name}" in drawn:
            continue
        named = [f"{part.mount or part.label or part.role} {_wanted(part)}" for part in volume.partition]
        size = f", {volume.size}" if volume.size is not None else ""
        out.append(f"{volume.kind} {volume.name}{size}: {', '.join(named)}")
    return out


def _wanted(part: Partition) -> str:
    size = size_told(part.size.mib) if isinstance(part.size, Size) and part.size.mib else str(part.size or "")
    rest = "the rest" if part.grow else "by memory" if part.by_memory else ""
    return " and ".join(one for one in (size, rest) if one) or "as it comes"


def _title(disk: Disk, layout: Layout) -> str:
    which = f"disk {disk.which if disk.which is not None else 0}"
    which = f"the disk chosen at the machine ({disk.choose})" if disk.choose else which
    fate = {"wipe": "wiped", "keep": "kept", "ask": "chosen at the machine"}[disk.fate]
    size = size_told(layout.mib) if layout.stated else "size not stated: drawn for twice the smallest"
    return f"{which}, {fate}, {disk.table or 'table not said'}, {size}"


def size_told(mib: int) -> str:
    """A size in the unit in which it is easily read."""
    return str(Size(mib=mib)) if mib < 10240 or mib % 1024 == 0 else f"{mib / 1024:.1f} GiB"


def _bar(bar: Bar, width: int) -> tuple[str, bool]:
    """A bar of characters, and whether something in it is wider than it is; every part shows its number."""
    widths, narrow = scaled([one.mib for one, _ in bar.parts], width - len(bar.parts) - 1, 3)
    rows = zip(bar.parts, widths, narrow, strict=True)
    cells = [_cell(one, part, size, cut=cut) for (one, part), size, cut in rows]
    return "  |" + "|".join(cells) + "|", any(narrow)


def scaled(sizes: Sequence[int], room: int, least: int) -> tuple[list[int], list[bool]]:
    """Widths of parts in some room, and which of them get the least that can be seen; the others are to scale.

    >>> scaled([100, 16, 9000, 900], 60, 3)
    ([3, 3, 49, 5], [True, True, False, False])
    """
    narrow = [False] * len(sizes)
    while True:
        left = room - least * sum(narrow)
        total = sum(size for size, cut in zip(sizes, narrow, strict=True) if not cut) or 1
        widths = [least if cut else size * left // total for size, cut in zip(sizes, narrow, strict=True)]
        small = [at for at, (one, cut) in enumerate(zip(widths, narrow, strict=True)) if one < least and not cut]
        if not small:
            return [max(one, least) for one in widths], narrow
        for at in small:
            narrow[at] = True


def _cell(one: Slice, part: Partition | None, size: int, *, cut: bool) -> str:
    number = "" if one.place is None else str(one.place + 1)
    if cut:
        return f"{number}{BREAK}".center(size)
    named = "free" if part is None else f"{number} {part.mount or part.label or part.role}"
    return (named if len(named) <= size else number).center(
        size, "." if part is not None and len(named) <= size else " "
    )


def _table(disk: Disk, layout: Layout) -> Any:
    """A row for every partition; columns in which nothing stands are left out."""
    from rich.table import Table

    rows = []
    for one in layout.slices:
        part = disk.partition[one.place] if one.place is not None else None
        share = f"{100 * one.mib / layout.mib:.1f}%" if layout.stated else ""
        size = "the rest" if part is not None and part.grow and not layout.stated else size_told(one.mib)
        size = "by memory" if part is not None and part.by_memory else size
        number = str(one.place + 1) if one.place is not None else ""
        rows.append((number, *_told(part, one, size, share)))
    heads = ("", "role", "begins", "size", "share", "label", "letter", "format")
    shown = [at for at in range(len(heads)) if any(row[at] for row in rows)]
    table = Table(box=None, padding=(0, 2, 0, 0), header_style="bold")
    for at in shown:
        table.add_column(heads[at], justify="right" if heads[at] in ("", "begins", "size", "share") else "left")
    for row in rows:
        table.add_row(*[cell(row[at]) for at in shown])
    return table


def _told(part: Partition | None, one: Slice, size: str, share: str) -> tuple[str, ...]:
    begins = size_told(one.start)
    if part is None:
        return "free", begins, size, share, "", "", ""
    return part.role, begins, size, share, str(part.label or ""), str(part.letter or ""), part.format or ""
