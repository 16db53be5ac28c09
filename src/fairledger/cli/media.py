"""What a medium is and holds, for people and for machines."""

from __future__ import annotations

from typing import Any

from fairledger.catalog.targets import target_named
from fairledger.cli.console import Console
from fairledger.media.medium import Held, Medium
from fairledger.model.showing import visible

_UNITS = ("bytes", "KiB", "MiB", "GiB", "TiB")


def as_json(medium: Medium) -> dict[str, Any]:
    """All of it; what nobody knows is null."""
    system = medium.system
    return {
        "medium": {"path": str(medium.path), "kind": medium.kind, "label": None, "size": medium.size, "boots": None},
        "system": {
            "family": system.family,
            "target": system.target,
            "candidates": list(system.targets),
            "release": system.name,
            "build": system.build,
            "arch": system.arch,
            "languages": list(system.languages) or None,
        },
        "images": [
            {
                "index": one.image.index,
                "name": one.image.name,
                "edition": one.edition,
                "edition_id": one.image.edition,
                "arch": one.image.arch,
                "build": one.image.build,
                "languages": list(one.image.languages) or None,
                "size": one.image.size,
            }
            for one in medium.images
        ],
        "answers": None,
        "too_large": None,
        "entries": None,
        "problems": list(medium.problems),
    }


def show(medium: Medium, console: Console) -> None:
    """What it is, what it installs, its images, and what could not be read."""
    file = medium.file
    told = [_size(medium.size), f"{file.count:,} {'image' if file.count == 1 else 'images'}"]
    told += ["packed together"] if file.solid else []
    told += [f"part {file.part} of {file.parts}"] if file.parts != 1 else []
    head = console.style(str(medium.path), "bold")
    console.say(head + console.style(f"  {medium.kind}, {', '.join(told)}", "dim"))
    console.paragraph(_system(medium), indent="  ", hang="    ")
    rows = [_row(one, file.boots) for one in medium.images]
    widths = [max((len(row[at]) for row in rows), default=0) for at in range(4)]
    for row in rows:
        cells = [row[0].rjust(widths[0]), *(row[at].ljust(widths[at]) for at in range(1, 4)), row[4]]
        console.say(("  " + "  ".join(cells)).rstrip())
    for one in medium.problems:
        console.paragraph(one, indent="  ", hang="    ", style="warning")


def _system(medium: Medium) -> str:
    system = medium.system
    if system.family is None:
        setup = any((one.image.installation or "").casefold() == "windowspe" for one in medium.images)
        return "the setup system alone: it installs nothing by itself" if setup else "nobody knows what it installs"
    parts = [f"build {visible(system.build)}"] if system.build else []
    parts += [system.arch] if system.arch else []
    known = ", ".join(parts)
    if system.target:
        return f"{system.name} ({system.target}), {known}"
    if system.targets:
        first, last = (target_named(system.targets[at]).name for at in (0, -1))
        between = "or" if len(system.targets) == 2 else "to"
        return f"{first} {between} {last}, whose images name one build: {known}"
    return f"a release of Windows that is not in the catalog: {known}"


def _row(held: Held, boots: int | None) -> tuple[str, str, str, str, str]:
    one = held.image
    name = visible(one.name or one.shown or "(no name)")[:48]
    edition = visible(held.edition or one.edition or "")[:32]
    languages = ", ".join(one.languages[:3]) + (f" and {len(one.languages) - 3} more" if len(one.languages) > 3 else "")
    size = _size(one.size) if one.size is not None else ""
    return f"{one.index}", name, edition, visible(languages), size + ("  starts" if one.index == boots else "")


def _size(count: int) -> str:
    value, unit = float(count), 0
    while value >= 1024 and unit < len(_UNITS) - 1:
        value, unit = value / 1024, unit + 1
    return f"{count:,} bytes" if unit == 0 else f"{value:,.1f} {_UNITS[unit]}"
