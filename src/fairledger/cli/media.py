"""What a medium is and holds, for people and for machines."""

from __future__ import annotations

from typing import Any

from fairledger.catalog.meant import target_named
from fairledger.cli.console import Console
from fairledger.media.medium import DISC, FOLDER, IMAGE_FILE, Held, Medium
from fairledger.model.showing import discreet, visible, without_addressed

_UNITS = ("bytes", "KiB", "MiB", "GiB", "TiB")
MOST_ENTRIES = 12
MOST_NAMES = 8


def as_json(medium: Medium) -> dict[str, Any]:
    """All of it; what nobody knows is null."""
    system = medium.system
    whole = medium.kind != IMAGE_FILE
    about = {"path": str(medium.path), "kind": medium.kind, "label": medium.label, "size": medium.size}
    starts = [{"firmware": how, "file": file} for how, file in medium.starts]
    entries = [
        {
            "file": one.file,
            "title": one.title,
            "arguments": _bare(one.arguments),
            "answers": _bare(one.answers) or None,
        }
        for one in medium.entries
    ]
    return {
        "medium": {**about, "boots": list(medium.boots) if whole else None, "starts": starts if whole else None},
        "system": {
            "family": system.family,
            "target": system.target,
            "candidates": list(system.targets),
            "release": system.name,
            "build": system.build,
            "arch": system.arch,
            "languages": list(system.languages) or None,
            "channel": medium.channel,
            "edition": medium.edition,
            "key_on_medium": medium.key_given if whole else None,
        },
        "images": [_image(one) for one in medium.images],
        "answers": [{"path": one.path, "first": one.first} for one in medium.answers] if whole else None,
        "tree": _tree(medium),
        "too_large": _too_large(medium) if whole and not medium.partly else None,
        "entries": entries if whole else None,
        "problems": list(medium.problems),
    }


def _too_large(medium: Medium) -> list[dict[str, Any]]:
    return [{"path": name, "size": size} for name, size in medium.too_large]


def _tree(medium: Medium) -> dict[str, Any] | None:
    tree = medium.tree
    if tree is None:
        return None
    parts = {"repositories": tree.repositories, "groups": tree.groups, "environments": tree.environments}
    listed = {name: None if names is None else list(names) for name, names in parts.items()}
    return {**listed, "packages": None if tree.packages is None else len(tree.packages)}


def _image(held: Held) -> dict[str, Any]:
    one = held.image
    return {
        "file": held.file,
        "index": one.index,
        "name": one.name,
        "edition": held.edition,
        "edition_id": one.edition,
        "arch": one.arch,
        "build": one.build,
        "languages": list(one.languages) or None,
        "size": one.size,
    }


def show(medium: Medium, console: Console) -> None:
    """What it installs and what it is, its images, what is on it already, and what could not be read."""
    head = console.style(str(medium.path), "bold")
    console.say(head + console.style(f"  {', '.join(_told(medium))}", "dim"))
    console.paragraph(_system(medium), indent="  ", hang="    ")
    _show_images(medium, console)
    for title, text in _lines(medium):
        console.paragraph(f"{title:<9} {text}", indent="  ", hang="            ")
    _show_entries(medium, console)
    for one in medium.problems:
        console.paragraph(f"{'problem':<9} {visible(one)}", indent="  ", hang="            ", style="warning")
    if any((one.image.installation or "").casefold() != "windowspe" for one in medium.images):
        told = f"fairledger medium {visible(str(medium.path))} --index N"
        console.paragraph(f"what an image holds: {told}", indent="  ", hang="    ", style="dim")


def show_images_alone(medium: Medium, console: Console) -> None:
    """Its images, with all that is said of them."""
    console.say(console.style(str(medium.path), "bold") + console.style(f"  {', '.join(_told(medium))}", "dim"))
    for held in medium.images:
        one = held.image
        console.say(
            f"  {one.index}  {visible(one.name or one.shown or '(no name)')}" + ("  starts" if held.starts else "")
        )
        build = f"{one.build}.{one.revision}" if one.build and one.revision else one.build
        rows = (
            ("file", held.file if medium.kind != IMAGE_FILE else None),
            ("shown as", one.shown if one.shown != one.name else None),
            ("edition", ", ".join(dict.fromkeys(part for part in (held.edition, one.edition) if part))),
            ("kind", one.installation),
            ("build", build),
            ("for", one.arch),
            ("languages", ", ".join(f"{name} (usual)" if name == one.language else name for name in one.languages)),
            ("size", _size(one.size) if one.size is not None else None),
        )
        for title, text in rows:
            if text:
                console.paragraph(f"{title:<10}{visible(text)}", indent="     ", hang=" " * 15)
    for problem in medium.problems:
        console.paragraph(f"{'problem':<9} {visible(problem)}", indent="  ", hang="            ", style="warning")


def _told(medium: Medium) -> list[str]:
    told = [medium.kind + (f" ({', '.join(medium.forms)})" if medium.forms else "")]
    told += [f"label {visible(medium.label)}"] if medium.label else []
    told += [_size(medium.size)] if medium.size is not None else []
    for file in medium.files if medium.kind == IMAGE_FILE else ():
        told.append(f"{file.count:,} {'image' if file.count == 1 else 'images'}")
        told += ["packed together"] if file.solid else []
        told += [f"part {file.part} of {file.parts}"] if file.parts != 1 else []
    return told


def _system(medium: Medium) -> str:
    system = medium.system
    if system.family is None:
        setup = any((one.image.installation or "").casefold() == "windowspe" for one in medium.images)
        return "the setup system alone: it installs nothing by itself" if setup else "nobody knows what it installs"
    parts = [f"build {visible(system.build)}"] if system.build else []
    parts += [visible(system.arch)] if system.arch else []
    known = ", ".join(parts)
    if system.target:
        return f"{target_named(system.target).name} ({system.target}), {known}"
    if system.targets:
        first, last = (target_named(system.targets[at]).name for at in (0, -1))
        between = "or" if len(system.targets) == 2 else "to"
        return f"{first} {between} {last}, whose images name one build: {known}"
    return f"{visible(system.name or 'a release of Windows')}, which is not in the catalog: {known}"


def _show_images(medium: Medium, console: Console) -> None:
    several = len({one.file for one in medium.images}) > 1
    rows = [(one.file, _row(one)) for one in medium.images]
    widths = [max((len(row[at]) for _, row in rows), default=0) for at in range(4)]
    before = ""
    for file, row in rows:
        if several and file != before:
            console.say(console.style(f"  {visible(file)}", "dim"))
        before = file
        cells = [row[0].rjust(widths[0]), *(row[at].ljust(widths[at]) for at in range(1, 4)), row[4]]
        console.say(("  " + "  ".join(cells)).rstrip())


def _row(held: Held) -> tuple[str, str, str, str, str]:
    one = held.image
    name = visible(one.name or one.shown or "(no name)")[:64]
    edition = visible(held.edition or one.edition or "")[:32]
    languages = ", ".join(one.languages[:3]) + (f" and {len(one.languages) - 3} more" if len(one.languages) > 3 else "")
    size = _size(one.size) if one.size is not None else ""
    return f"{one.index}", name, edition, visible(languages), size + ("  starts" if held.starts else "")


def _lines(medium: Medium) -> list[tuple[str, str]]:
    rows = []
    if medium.starts:
        starts = [f"{how.upper()}" + (f" by {visible(file)}" if file else "") for how, file in medium.starts]
        where = ", as the top folder of a volume with FAT" if medium.kind == FOLDER else ""
        rows.append(("starts", "; ".join(starts) + where))
    elif medium.kind == DISC and not medium.problems:
        rows.append(("starts", "nothing: it has no boot record"))
    if medium.edition or medium.channel:
        said = [f"edition {visible(medium.edition)}"] if medium.edition else []
        said += [f"channel {visible(medium.channel)}"] if medium.channel else []
        rows.append(("ei.cfg", ", ".join(said)))
    if medium.key_given:
        rows.append(("PID.txt", "a product key stands on the medium"))
    rows += _tree_lines(medium)
    rows += [("answers", f"{visible(one.path)}: {one.takes}") for one in medium.answers]
    for name, size in medium.too_large:
        rows.append(
            ("too large", f"{visible(name)} ({_size(size)}) is more than FAT32 can hold: a stick needs it split")
        )
    return rows


def _tree_lines(medium: Medium) -> list[tuple[str, str]]:
    tree = medium.tree
    if tree is None:
        return []
    rows = [("carries", _carried(tree.repositories, tree.packages))]
    for title, names in (("bases", tree.environments), ("groups", tree.groups)):
        if names is None:
            rows.append((title, "nobody knows: their list cannot be read"))
        elif names:
            more = f" and {len(names) - MOST_NAMES:,} more" if len(names) > MOST_NAMES else ""
            rows.append((title, visible(", ".join(names[:MOST_NAMES])) + more))
    return rows


def _carried(repositories: tuple[str, ...] | None, packages: tuple[str, ...] | None) -> str:
    if not repositories:
        return "no packages: they come from the network"
    named = ", ".join(visible(one or "its top folder") for one in repositories)
    several = "repository" if len(repositories) == 1 else "repositories"
    count = len(packages or ())
    return f"{count:,} package{'' if count == 1 else 's'} in the {several} {named}"


def _show_entries(medium: Medium, console: Console) -> None:
    for one in medium.entries[:MOST_ENTRIES]:
        told = f"{visible(one.title)}: {visible(_bare(one.arguments))}" if one.arguments else visible(one.title)
        console.paragraph(f"{'entry':<9} {told}", indent="  ", hang="            ", style="dim")
        if one.answers:
            console.say(f"            names the answer file {visible(_bare(one.answers))}")
    if len(medium.entries) > MOST_ENTRIES:
        console.say(console.style(f"  ... and {len(medium.entries) - MOST_ENTRIES:,} more entries", "dim"))


def _bare(text: str | None) -> str:
    """Arguments of the installer without the secrets in them."""
    return discreet(without_addressed(text)) if text else ""


def _size(count: int) -> str:
    value, unit = float(count), 0
    while value >= 1024 and unit < len(_UNITS) - 1:
        value, unit = value / 1024, unit + 1
    return f"{count:,} bytes" if unit == 0 else f"{value:,.1f} {_UNITS[unit]}"
