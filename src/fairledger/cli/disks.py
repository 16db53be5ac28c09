"""Disks drawn to scale, in the terminal and as a figure."""

from __future__ import annotations

from io import BytesIO
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fairledger.cli.console import Console, cell, printable
from fairledger.intent.disk import DISK, Disk, Partition
from fairledger.intent.layout import Layout, Slice, laid_out, smallest, with_volumes
from fairledger.intent.volume import VOLUME
from fairledger.model.errors import WrongUseError
from fairledger.model.size import Size
from fairledger.storage.files import write_file

if TYPE_CHECKING:
    from fairledger.profiles.resolve import Resolved
from fairledger.subject.subject import Subject

_INKS = {
    "firmware": "#4c78a8",
    "reserved": "#b0b7c3",
    "boot": "#9d755d",
    "system": "#2a9d5c",
    "recovery": "#e0a030",
    "data": "#7b5ea7",
    "swap": "#c66",
}
_FREE = "#f2f2f2"


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


def _drawn(draft: Subject) -> list[tuple[str, Disk, Layout]]:
    """What is drawn, each with its title: the first disk as it is today, if that is described, and every disk after."""
    out = []
    size = draft.facts.disk_mib
    if _said(draft).head.disk_before:
        before = Disk(partition=_said(draft).head.disk_before)
        layout = laid_out(before, size)
        out.append((f"before: the disk as described, {_size(layout.mib)}", before, layout))
    for disk in disks_of(draft):
        layout = laid_out(disk, size)
        out.append((("after: " if out else "") + _title(disk, layout), disk, layout))
    return out


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
                "smallest_mib": smallest(disk),
                "target_least_mib": (draft.target.least_disk_mib or None) if draft.target else None,
                "left_mib": layout.left if layout.stated else None,
                "partitions": [
                    {"role": disk.partition[one.place].role, "start_mib": one.start, "size_mib": one.mib}
                    for one in layout.slices
                    if one.place is not None
                ],
            }
        )
    return out


def draw(draft: Subject, console: Console) -> None:
    """Each disk as a bar to scale, and its partitions in a table."""
    for title, disk, layout in _drawn(draft):
        console.say(console.style(title, "bold"))
        console.say(_bar(disk, layout, console.width - 4))
        console.say()
        console.table(_table(disk, layout))
        console.say()
        if title.startswith("before"):
            continue
        least = _size(smallest(disk))
        if layout.left < 0:
            told = f"it does not fit: {_size(-layout.left)} are missing; the layout fits on a disk of {least} or more"
            console.say("  " + console.style(told, "error"))
        elif not _there(disk):
            told = f"the layout fits on a disk of {least} or more; what is put on it needs its room besides"
            console.paragraph(told, indent="  ")
        else:
            told = f"on it already, and not drawn: {', '.join(_there(disk))}; their sizes are not known here"
            console.paragraph(told, indent="  ")
        if any(part.by_memory for part in disk.partition):
            console.paragraph("the installer chooses a size by the machine's memory, which is not drawn", indent="  ")
        for volume in _on(disk, draft):
            console.paragraph(volume, indent="  ", hang="    ")
        target = draft.target
        if target is not None and target.least_disk_mib:
            console.say(f"  {target.name} wants a disk of {_size(target.least_disk_mib)} or more")
        console.say()


def _there(disk: Disk) -> list[str]:
    """The partitions that exist already and are used again."""
    return [f"{part.device} ({part.role})" for part in disk.partition if not part.made and part.device is not None]


def _on(disk: Disk, draft: Subject) -> list[str]:
    """What is made of a disk's partitions, each in a line."""
    members = {part.member for part in disk.partition if part.member is not None}
    out = []
    for volume in _said(draft).intent.get(VOLUME) or ():
        if not members & {*volume.members, volume.store}:
            continue
        named = [f"{part.mount or part.label or part.role} {_wanted(part)}" for part in volume.partition]
        size = f", {volume.size}" if volume.size is not None else ""
        out.append(f"{volume.kind} {volume.name}{size}: {', '.join(named)}")
    return out


def _wanted(part: Partition) -> str:
    size = _size(part.size.mib) if isinstance(part.size, Size) and part.size.mib else str(part.size or "")
    rest = "the rest" if part.grow else "by memory" if part.by_memory else ""
    return " and ".join(one for one in (size, rest) if one) or "as it comes"


def _title(disk: Disk, layout: Layout) -> str:
    which = f"disk {disk.which if disk.which is not None else 0}"
    which = f"the disk chosen at the machine ({disk.choose})" if disk.choose else which
    fate = {"wipe": "wiped", "keep": "kept", "ask": "chosen at the machine"}[disk.fate]
    size = _size(layout.mib) if layout.stated else "size not stated: drawn for twice the smallest"
    return f"{which}, {fate}, {disk.table or 'table not said'}, {size}"


def _size(mib: int) -> str:
    """A size in the unit in which it is easily read."""
    return str(Size(mib=mib)) if mib < 10240 or mib % 1024 == 0 else f"{mib / 1024:.1f} GiB"


def _bar(disk: Disk, layout: Layout, width: int) -> str:
    """A bar of characters; every partition has at least three, with its number in it."""
    total = max(sum(one.mib for one in layout.slices), 1)
    widths = [max(3, round(one.mib / total * (width - len(layout.slices)))) for one in layout.slices]
    over = sum(widths) + len(widths) + 1 - width
    if widths and over > 0:
        largest = widths.index(max(widths))
        widths[largest] = max(3, widths[largest] - over)
    cells = [_cell(disk, one, size) for one, size in zip(layout.slices, widths, strict=True)]
    return "  |" + "|".join(cells) + "|"


def _cell(disk: Disk, one: Slice, size: int) -> str:
    if one.place is None:
        return " free ".center(size)[:size]
    named = f"{one.place + 1} {disk.partition[one.place].role}"
    return (named if len(named) <= size else str(one.place + 1)).center(size, "." if len(named) <= size else " ")


def _table(disk: Disk, layout: Layout) -> Any:
    """A row for every partition; columns in which nothing stands are left out."""
    from rich.table import Table

    rows = []
    for one in layout.slices:
        part = disk.partition[one.place] if one.place is not None else None
        share = f"{100 * one.mib / layout.mib:.1f}%" if layout.stated else ""
        size = "the rest" if part is not None and part.grow and not layout.stated else _size(one.mib)
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
    begins = _size(one.start)
    if part is None:
        return "free", begins, size, share, "", "", ""
    return part.role, begins, size, share, str(part.label or ""), str(part.letter or ""), part.format or ""


def figure(draft: Subject, path: Path) -> None:
    """Draws the disks to scale into a PNG or SVG file. Raises `WrongUseError` where that cannot be done."""
    if path.suffix.lower() not in (".png", ".svg"):
        raise WrongUseError(f"{path.name} names no figure", remedy="end the name with .png or .svg")
    try:
        from matplotlib.figure import Figure
    except ImportError as error:
        remedy = "install it with: pip install 'fair-ledger[figures]'"
        raise WrongUseError("figures need the library Matplotlib", remedy=remedy) from error
    rows = _drawn(draft)
    whole = Figure(figsize=(10, 1.2 + 1.5 * len(rows)), layout="constrained")
    whole.suptitle(printable(_said(draft).head.title or Path(draft.file).name), parse_math=False)
    axes = whole.subplots(len(rows), 1, squeeze=False)
    for (title, disk, layout), (axis,) in zip(rows, axes, strict=True):
        _draw(axis, title, disk, layout)
    whole.supxlabel("narrow partitions are drawn wider than they are", fontsize=7, color="#777")
    held = BytesIO()
    whole.savefig(held, dpi=120, format=path.suffix[1:].lower())
    write_file(path, held.getvalue(), replace=True)


def _draw(axis: Any, title: str, disk: Disk, layout: Layout) -> None:
    """One disk as a bar. Narrow partitions keep a width that can be seen; their sizes are written below."""
    total = max(sum(one.mib for one in layout.slices), 1)
    shown = [max(one.mib / total, 0.09) for one in layout.slices]
    scale = sum(shown) or 1
    left = 0.0
    for one, width in zip(layout.slices, shown, strict=True):
        part = disk.partition[one.place] if one.place is not None else None
        ink = _INKS.get(part.role, _FREE) if part else _FREE
        axis.barh(0, width / scale, left=left, color=ink, edgecolor="white", height=0.8)
        grows = part is not None and part.grow and not layout.stated
        size = "the rest" if grows else _size(one.mib)
        name = (part.role if part else "free") + (f"\n{part.letter}:" if part and part.letter else "")
        middle = left + width / scale / 2
        color = "white" if part else "#444"
        axis.text(middle, 0, printable(name), ha="center", va="center", color=color, fontsize=9, parse_math=False)
        axis.text(middle, -0.55, size, ha="center", va="top", fontsize=8, color="#333")
        left += width / scale
    axis.set_title(printable(title), fontsize=10, loc="left", parse_math=False)
    axis.set_xlim(0, 1)
    axis.set_ylim(-0.9, 0.5)
    axis.axis("off")
