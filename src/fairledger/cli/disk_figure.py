"""Disks drawn to scale into a figure, legible in print and for those who do not see all colours."""

from __future__ import annotations

from collections.abc import Sequence
from io import BytesIO
from pathlib import Path
from typing import Any

from fairledger.cli.console import printable
from fairledger.cli.disks import Bar, bars_of, least_of, scaled, size_told
from fairledger.intent.disk import Partition
from fairledger.intent.layout import Slice
from fairledger.model.errors import WrongUseError
from fairledger.storage.files import write_file
from fairledger.subject.subject import Subject

_INKS = {
    "firmware": ("#56B4E9", ""),
    "reserved": ("#CCCCCC", ".."),
    "boot": ("#F0E442", ""),
    "system": ("#009E73", ""),
    "recovery": ("#E69F00", "//"),
    "data": ("#0072B2", "\\\\"),
    "swap": ("#CC79A7", "xx"),
}
"""By role: a colour of the palette of Okabe and Ito, and a hatching for print without colours."""
_FREE = ("#FFFFFF", "")
_LEAST = 0.028
"""The width of what is too narrow to be drawn to scale, as a share of the whole."""
_ROOM = 0.07
"""The width that a name needs."""


def figure(draft: Subject, path: Path) -> None:
    """Draws the disks to scale into a PNG or SVG file. Raises `WrongUseError` where that cannot be done."""
    if path.suffix.lower() not in (".png", ".svg"):
        raise WrongUseError(f"{path.name} names no figure", remedy="end the name with .png or .svg")
    try:
        from matplotlib.figure import Figure
    except ImportError as error:
        remedy = "install it with: pip install 'fair-ledger[figures]'"
        raise WrongUseError("figures need the library Matplotlib", remedy=remedy) from error
    rows = [one for bar in bars_of(draft) for one in (bar, *bar.inside)]
    whole = Figure(figsize=(10.6, 1.1 + 1.75 * len(rows)), layout="constrained")
    title = draft.draft.head.title if draft.draft is not None else ""
    whole.suptitle(printable(title or Path(draft.file).name), parse_math=False, fontsize=14, weight="bold")
    axes = whole.subplots(len(rows), 1, squeeze=False)
    broken = [_draw(axis, bar) for bar, (axis,) in zip(rows, axes, strict=True)]
    told = [
        f"wants a disk of {size_told(least_of(draft, one.disk))} or more" for one in bars_of(draft) if not one.before
    ]
    told += ["a zigzag breaks the scale: what is too narrow to be drawn to it"] if any(broken) else []
    whole.supxlabel("; ".join(dict.fromkeys(told)), fontsize=9, color="#333")
    held = BytesIO()
    whole.savefig(held, dpi=120, format=path.suffix[1:].lower())
    write_file(path, held.getvalue(), replace=True)


def _draw(axis: Any, bar: Bar) -> bool:
    """One bar; whether its scale is broken somewhere. Names that do not fit into their part stand below."""
    widths, narrow = _shares([one.mib for one, _ in bar.parts])
    left, below = 0.0, []
    for (one, part), width, cut in zip(bar.parts, widths, narrow, strict=True):
        ink, hatch = _INKS.get(part.role, _FREE) if part else _FREE
        axis.barh(0, width, left=left, color=ink, hatch=hatch, edgecolor="black", linewidth=0.8, height=0.8)
        middle = left + width / 2
        if cut:
            _zigzag(axis, middle)
        name, size = _named(one, part, bar)
        if width >= max(_ROOM, 0.0125 * len(name)):
            frame = {"facecolor": "white", "edgecolor": "none", "pad": 1.5, "alpha": 0.92}
            told = {"ha": "center", "va": "center", "fontsize": 10, "parse_math": False, "bbox": frame}
            axis.text(middle, 0, printable(f"{name}\n{size}"), color="black", **told)
        else:
            below.append((middle, f"{name} {size}"))
        left += width
    deepest = _below(axis, below)
    axis.set_title(printable(bar.title), fontsize=11, loc="left", parse_math=False)
    axis.set_xlim(-0.005, 1.005)
    axis.set_ylim(deepest, 0.5)
    axis.axis("off")
    return any(narrow)


def _named(one: Slice, part: Partition | None, bar: Bar) -> tuple[str, str]:
    """What a part is called, and how large it is."""
    if part is None:
        return "free", size_told(one.mib)
    size = "the rest" if part.grow and not bar.layout.stated else size_told(one.mib)
    letter = f" ({part.letter}:)" if part.letter else ""
    return f"{part.mount or part.label or part.role}{letter}", "by memory" if part.by_memory else size


def _below(axis: Any, names: list[tuple[float, str]]) -> float:
    """Names below the bar, each at the end of its line, on levels so that no line crosses a name; the lowest level."""
    lefts = [one for one in names if one[0] <= _TURN]
    rights = [one for one in reversed(names) if one[0] > _TURN]
    for side, align in ((lefts, "left"), (rights, "right")):
        for at, (middle, name) in enumerate(side):
            level = -0.62 - _LEVEL * (len(side) - 1 - at)
            axis.plot([middle, middle], [-0.4, level - 0.1], color="black", linewidth=0.7)
            shift = 0.005 if align == "left" else -0.005
            told = {"ha": align, "va": "center", "fontsize": 9, "parse_math": False}
            axis.text(middle + shift, level - 0.05, printable(name), color="black", **told)
    return -0.7 - _LEVEL * max(len(lefts), len(rights), 1)


_TURN = 0.7
"""From here on names stand to the left of their lines."""
_LEVEL = 0.27


def _shares(sizes: Sequence[int]) -> tuple[list[float], list[bool]]:
    """Widths that come to one, up to what is seen: to scale, but for what is too narrow."""
    widths, narrow = scaled(sizes, _FINE, round(_LEAST * _FINE))
    return [width / _FINE for width in widths], narrow


_FINE = 100_000
"""Into so many parts the width of a figure is divided."""


def _zigzag(axis: Any, middle: float) -> None:
    """The mark of a broken scale, on the upper and the lower edge of a part."""
    step = _LEAST / 5
    for edge in (0.4, -0.4):
        across = [middle + (at - 2) * step for at in range(5)]
        up = [edge + (0.06 if at % 2 else -0.06) for at in range(5)]
        axis.plot(across, up, color="white", linewidth=3.5, solid_capstyle="butt")
        axis.plot(across, up, color="black", linewidth=1)
