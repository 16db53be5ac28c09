"""What ``profile`` and ``show --changes`` print."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import Any

from fairledger.authoring.shelf import Shelved
from fairledger.cli.console import Console
from fairledger.exchange.brings import Brought

_HOMES = {
    "project": "in profiles/ of this folder",
    "yours": "in your own library",
    "shipped": "shipped with the program",
}


def rows_of(found: Sequence[Shelved]) -> list[dict[str, Any]]:
    """The stable form of profiles."""
    return [
        {
            "name": one.name,
            "kind": one.name.partition("/")[0],
            "home": one.home,
            "file": str(one.file),
            "title": one.title,
            "about": one.about,
            "sections": one.sections,
            "used_by": one.used_by,
            "trouble": one.trouble or None,
        }
        for one in found
    ]


def show_library(found: Sequence[Shelved], console: Console, *, whole: bool = False) -> None:
    """Profiles by home, a line each: name, title, by which drafts it is used."""
    widest = max((len(one.name) for one in found), default=0)
    for home, told in _HOMES.items():
        here = [one for one in found if one.home == home]
        if not here:
            continue
        console.say(console.style(told, "bold"))
        kinds = Counter(one.name.partition("/")[0] for one in here)
        for one in here:
            kind = one.name.partition("/")[0]
            if not whole and kinds[kind] > _MOST_OF_KIND and not (one.used_by or one.trouble):
                continue
            said = console.style(one.trouble, "error") if one.trouble else one.title
            used = f"; used by {', '.join(one.used_by)}" if one.used_by else ""
            console.paragraph(f"{said}{used}", indent=f"  {one.name:<{widest}}  ", hang=" " * (widest + 4))
        for kind, count in kinds.items():
            if not whole and count > _MOST_OF_KIND:
                names = ", ".join(one.name.partition("/")[2] for one in here if one.name.startswith(f"{kind}/"))
                console.paragraph(names, indent=f"  {kind + '/':<{widest}}  ", hang=" " * (widest + 4))
        console.say()
    console.say("More about one: fairledger profile show NAME; about a kind: fairledger profile list KIND")


_MOST_OF_KIND = 8
"""Of a kind with more profiles than this only the names are listed, unless it is asked for."""


def show_one(one: Shelved, text: str, console: Console) -> None:
    """What a profile is for, who uses it, and its text."""
    console.say(console.style(one.name, "bold") + f"  {one.title}")
    if one.about:
        console.paragraph(one.about, indent="  ")
    console.say(f"  {_HOMES[one.home]}: {one.file}")
    if one.used_by:
        console.paragraph(f"used by {', '.join(one.used_by)}", indent="  ")
    console.say()
    for line in text.splitlines():
        console.say(f"    {line}".rstrip())


def show_brought(name: str, rows: Sequence[Brought], alike: Sequence[str], console: Console) -> None:
    """What a profile brings to a draft, by pass and component, and what makes no difference."""
    if not rows and not alike:
        console.say(f"{name} brings nothing that others do not say too")
        return
    count = "one answer" if len(rows) == 1 else f"{len(rows)} answers"
    console.say(console.style(f"{name} brings {count if rows else 'nothing that makes a difference'}", "bold"))
    for one in alike:
        console.paragraph(f"the same in effect: {one}", indent="  ", hang="    ")
    last = ("", "")
    widest = min(max((len(row.setting) for row in rows), default=0), console.width // 2)
    for row in rows:
        if (row.pass_, row.component) != last:
            last = (row.pass_, row.component)
            console.say(f"\n{row.pass_}  {row.component}")
        if row.before is None:
            mark, told = "+", row.after
        elif row.after is None:
            mark, told = "-", row.before
        else:
            mark, told = "~", f"{row.after}  (without it: {row.before})"
        console.paragraph(f"{row.setting:<{widest}}  {told}", indent=f"  {mark} ", hang=" " * 8)
