"""What images hold and how media differ, for people and for machines."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import groupby
from typing import Any

from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.meant import target_named
from fairledger.cli.console import Console
from fairledger.media.comparing import MediaCompared
from fairledger.model.holdings import HeldFacts, ImageFacts, MediumFacts
from fairledger.model.showing import visible

_MOST_NAMES = 12
_MOST_ROWS = 20


def held_json(held: HeldFacts) -> dict[str, Any]:
    """All of it; what nobody knows is null."""
    components = None
    if held.components is not None:
        components = [
            {"component": name, "version": version} for version, names in held.components.items() for name in names
        ]
    return {
        "image": held.image,
        "file": held.file or None,
        "components": components,
        "lacking": None if held.lacking is None else list(held.lacking),
        "unclear": list(held.unclear),
        "others": held.others,
        "packages": None if held.packages is None else list(held.packages),
        "features": None if held.features is None else list(held.features),
        "apps": None if held.apps is None else list(held.apps),
        "answers": None if held.answers is None else list(held.answers),
        "problems": list(held.problems),
    }


def facts_json(facts: MediumFacts) -> dict[str, Any]:
    """The same keys as a medium itself has; what a file of facts does not tell is null."""
    tree = facts.tree
    images = None if facts.images is None else [_image_json(one) for one in facts.images]
    answers = None if facts.answers is None else [{"path": one.path, "first": one.first} for one in facts.answers]
    return {
        "medium": {
            "path": facts.name,
            "kind": facts.kind or None,
            "label": facts.label,
            "size": facts.size,
            "boots": _listed(facts.boots),
            "starts": None,
        },
        "system": {
            "family": facts.family,
            "target": facts.targets[0] if len(facts.targets) == 1 else None,
            "candidates": list(facts.targets),
            "release": facts.release,
            "build": facts.build,
            "arch": facts.arch,
            "languages": _listed(facts.languages),
            "channel": facts.channel,
            "edition": facts.edition,
            "key_on_medium": None,
        },
        "images": images,
        "answers": answers,
        "tree": {
            "repositories": _listed(tree.repositories),
            "groups": _listed(tree.groups),
            "environments": _listed(tree.environments),
            "packages": None if tree.packages is None else len(tree.packages),
        },
        "too_large": None,
        "entries": None,
        "problems": list(facts.problems),
        "held": [held_json(one) for one in facts.held],
    }


def _listed(names: Iterable[str] | None) -> list[str] | None:
    return None if names is None else list(names)


def _image_json(one: ImageFacts) -> dict[str, Any]:
    return {
        "file": one.file or None,
        "index": one.index,
        "name": one.name,
        "edition": one.edition,
        "edition_id": one.edition_id,
        "arch": one.arch,
        "build": one.build,
        "languages": list(one.languages) or None,
        "size": one.size,
    }


def show_facts(facts: MediumFacts, console: Console) -> None:
    """What a file of facts tells of the medium that it stands for."""
    told = [one for one in (facts.kind, f"label {visible(facts.label)}" if facts.label else "") if one]
    console.say(console.style(f"facts of {visible(facts.name)}", "bold") + console.style(f"  {', '.join(told)}", "dim"))
    console.say(f"  {_system(facts)}")
    _show_images(facts, console)
    if facts.boots is not None:
        starts = " and ".join(one.upper() for one in facts.boots) or "nothing: it has no boot record"
        console.say(f"  {'starts':<14}{starts}")
    for answer in facts.answers or ():
        taken = {True: ": the installer takes it by itself", False: "", None: ": nobody knows whether it is taken"}
        console.say(f"  {'answers':<14}{visible(answer.path)}{taken[answer.first]}")
    for one in facts.problems:
        console.paragraph(f"{'problem':<14}{visible(one)}", indent="  ", hang=" " * 16, style="warning")
    for held in facts.held:
        console.say()
        console.say(f"  image {held.image}")
        _show_parts(_of_release(held, facts), console)
    _show_tree(facts, console)


def _show_images(facts: MediumFacts, console: Console) -> None:
    images = facts.images or ()
    rows = [
        (visible(one.title), visible(one.edition or one.edition_id or ""), ", ".join(one.languages)) for one in images
    ]
    widths = [max((len(row[at]) for row in rows), default=0) for at in range(3)]
    for one, row in zip(images, rows, strict=True):
        known = "" if facts.held_by(one) is None else "looked into"
        cells = "  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True))
        console.say(f"  {one.index}  {cells}  {known}".rstrip())


def _show_tree(facts: MediumFacts, console: Console) -> None:
    tree = facts.tree
    for title, names in (
        ("environments", tree.environments),
        ("groups", tree.groups),
        ("repositories", tree.repositories),
    ):
        if names is not None:
            _line(title, names, console)
    if tree.packages is not None:
        console.say(f"  {'packages':<14}{len(tree.packages):,}")


def _system(facts: MediumFacts) -> str:
    names = [target_named(one).name for one in facts.targets]
    told = [" or ".join(names) or visible(facts.release or "nobody knows what it installs")]
    told += [f"build {visible(facts.build)}"] if facts.build else []
    return ", ".join([*told, *([visible(facts.arch)] if facts.arch else [])])


def show_held(facts: MediumFacts, held: HeldFacts, console: Console) -> None:
    """What one image holds."""
    image = next(one for one in facts.images or () if (one.index, one.file) == (held.image, held.file))
    head = console.style(f"{facts.name}: image {held.image}, {visible(image.title)}", "bold")
    console.say(head + console.style(f"  {_system(facts)}", "dim"))
    _show_parts(_of_release(held, facts), console)


def _of_release(held: HeldFacts, facts: MediumFacts) -> HeldFacts:
    """Without components that no release has which the medium may be: that it lacks them says nothing."""
    if held.lacking is None or not facts.targets:
        return held
    known = {name for one in facts.targets for name in Catalog(facts.family or "", target_named(one)).names()}
    return replace(held, lacking=tuple(name for name in held.lacking if name in known))


def _show_parts(held: HeldFacts, console: Console) -> None:
    if held.components is None:
        console.say(f"  {'components':<14}nobody knows: it has no store of them")
    else:
        others = f", and {held.others:,} others" if held.others else ""
        console.say(f"  {'components':<14}{len(held.present):,} of the catalog's are in its store{others}")
    for title, names in (
        ("lacking", held.lacking),
        ("unclear", held.unclear or None),
        ("features", held.features),
        ("apps", held.apps),
    ):
        if names is not None:
            _line(title, names, console)
        elif title in ("features", "apps"):
            console.say(f"  {title:<14}nobody knows")
    if held.packages is not None:
        console.say(f"  {'packages':<14}{len(held.packages):,}")
    for one in held.answers or ():
        told = f"{visible(one)} in the image: setup may take it in later passes"
        console.paragraph(f"{'answers':<14}{told}", indent="  ", hang=" " * 16, style="warning")
    for one in held.problems:
        console.paragraph(f"{'problem':<14}{visible(one)}", indent="  ", hang=" " * 16, style="warning")


def _line(title: str, names: Iterable[str], console: Console) -> None:
    names = [visible(one) for one in names]
    told = ", ".join(names[:_MOST_NAMES]) or "none"
    more = f" and {len(names) - _MOST_NAMES:,} more" if len(names) > _MOST_NAMES else ""
    count = f"{len(names):,}: " if len(names) > 1 else ""
    console.paragraph(f"{title:<14}{count}{told}{more}", indent="  ", hang=" " * 16)


def compared_json(found: MediaCompared) -> dict[str, Any]:
    """All of it."""
    rows = [{"part": one.part, "item": one.item or None, "a": one.a, "b": one.b} for one in found.differences]
    return {"differences": rows, "not_compared": list(found.not_compared)}


def show_compared(found: MediaCompared, a: str, b: str, console: Console) -> None:
    """What differs, part by part."""
    if not found.differences:
        console.say(
            console.style("nothing differs" + (", as far as both are known" if found.not_compared else ""), "bold")
        )
    for part, rows in groupby(found.differences, key=lambda one: one.part):
        told = list(rows)
        console.say(
            console.style(f"{part}", "bold") + console.style(f"  {len(told):,} differ", "dim") * (len(told) > 1)
        )
        for one in told[:_MOST_ROWS]:
            if one.a is not None and one.b is not None:
                before = f"{visible(one.item)}: " if one.item else ""
                console.paragraph(f"{before}{visible(one.a)} -> {visible(one.b)}", indent="  ", hang="    ")
            else:
                where, text = (a, one.a) if one.a is not None else (b, one.b)
                console.paragraph(f"only {where}: {visible(one.item or text or '')}", indent="  ", hang="    ")
        if len(told) > _MOST_ROWS:
            console.say(f"  ... and {len(told) - _MOST_ROWS:,} more (--format json has all)")
    if found.not_compared:
        told_of = f"not compared, since nobody knows it of both: {', '.join(found.not_compared)}"
        console.paragraph(told_of, hang="  ", style="warning")
