"""What ``find``, ``values`` and ``targets`` print."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from fairledger.authoring.emit import key
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.differ import Difference
from fairledger.catalog.example import example_of
from fairledger.catalog.lists import OFFERED, ListedValue
from fairledger.catalog.meant import supported
from fairledger.catalog.search import Found
from fairledger.catalog.targets import all_targets
from fairledger.cli.against import OnMedium, show_why
from fairledger.cli.console import Console, cell
from fairledger.model.kinds import choices_of
from fairledger.model.target import Target

_MOST_CHOICES = 6
_LAST_HEAD = {"time-zone": "the same as", "language": "number; keyboard"}


def found_json(found: Iterable[Found], catalog: Catalog, medium: OnMedium | None = None) -> list[dict[str, Any]]:
    """The stable form of what was found."""
    return [
        {
            **({} if medium is None else {"on_medium": medium.has(one.component.name)}),
            "component": one.component.name,
            "path": one.setting.path,
            "passes": one.component.passes_of(one.setting),
            "kind": one.setting.kind,
            "values": choices_of(one.setting.kind, one.setting),
            "about": one.setting.about,
            "example": example_of(one.component, one.setting, catalog),
        }
        for one in found
    ]


def show_found(
    question: str,
    found: Sequence[Found],
    catalog: Catalog,
    console: Console,
    *,
    most: int,
    medium: OnMedium | None = None,
) -> None:
    """Settings with pass, kind and choices, what they do, and an assignment to paste; what a medium has besides."""
    _show_settings(question, found, catalog, console, most=most, medium=medium)
    besides = medium.besides(question) if medium is not None else []
    for kind, name in besides[:most]:
        console.say(console.style(name, "bold") + f"  {kind} on {medium.title if medium is not None else ''}")
    if medium is not None:
        show_why(medium, console)


def _show_settings(
    question: str,
    found: Sequence[Found],
    catalog: Catalog,
    console: Console,
    *,
    most: int,
    medium: OnMedium | None,
) -> None:
    if not found:
        console.say(f"nothing fits {question!r}")
        console.note("try fewer or other words, or leave out what narrows the search")
        return
    for one in found[:most]:
        setting = one.setting
        usual = one.component.usual_pass_of(setting)
        others = [name for name in one.component.passes_of(setting) if name != usual]
        passes = usual + (f" (or {', '.join(others)})" if others else "")
        unsure = "" if setting.sure and one.component.sure else "; not certain"
        console.say(console.style(setting.path or one.component.name, "bold") + f"  of {one.component.name}")
        console.paragraph(f"{setting.about or one.component.about}", indent="  ", hang="  ")
        kind = _kind(setting.kind, choices_of(setting.kind, setting)) if setting.path else "component"
        ends = f"; ends with {one.component.ends}" if one.component.ends and not setting.path else ""
        console.paragraph(f"{kind}; in {passes}{ends}{unsure}", indent="  ")
        if medium is not None:
            style = "warning" if medium.has(one.component.name) is False else "dim"
            console.say("  " + console.style(medium.told(one.component.name), style))
        example = example_of(one.component, setting, catalog)
        if "=" in example:
            console.say(f"  fairledger set FILE {console.style(example, 'good')}\n")
        else:
            told = f"[answers.{usual}.{key(one.component.name)}]"
            console.say(f"  in the draft: {console.style(told, 'good')}\n")
    left = len(found) - most
    if left > 0:
        console.say(
            f"{left} more fit less well; --most {len(found)} shows them, --pass and --component narrow the search"
        )


def _kind(kind: str, choices: tuple[str, ...]) -> str:
    if not choices:
        return kind
    shown = ", ".join(choices[:_MOST_CHOICES])
    return f"{kind}: {shown}" + (f" and {len(choices) - _MOST_CHOICES} more" if len(choices) > _MOST_CHOICES else "")


def show_targets(rows: Sequence[Target], hidden: int, today: str, console: Console) -> None:
    """A line each, newest first in each line of releases, with what the vendor still supports."""
    from rich.table import Table

    table = Table(box=None, padding=(0, 2, 0, 0), header_style="bold")
    for head in ("target", "build", "released"):
        table.add_column(head, no_wrap=True)
    table.add_column("supported until", no_wrap=console.width >= _ROOM)
    table.add_column("architectures")
    lines = list(dict.fromkeys(one.line for one in all_targets()))
    last = ""
    for row in sorted(rows, key=lambda one: lines.index(one.line)):
        if last and row.line != last:
            table.add_row()
        last = row.line
        name = row.id if row.sure else f"{row.id} ?"
        table.add_row(
            *map(cell, (name, row.build, row.released, support_of(row, today), " ".join(row.architectures))),
            style="" if supported(row, today) else "dim",
        )
    console.table(table)
    example = next(row.id for row in sorted(rows, key=lambda one: lines.index(one.line)) if row.sure)
    console.say()
    console.paragraph(
        "A second day is for the vendor's enterprise and education editions, a long-term one for editions that are "
        "kept longer; no day, or a question mark, means that it is not certain.",
    )
    if hidden:
        console.paragraph(f"{hidden} more that nobody supports any more: fairledger targets --all")
    console.say(f"\n  begin a draft          fairledger start FILE --target {example}")
    console.say(f"  editions               fairledger targets --editions {example}")
    console.say(f"  what came and went     fairledger targets --compare OLD {example}")


_ROOM = 100
"""Columns in which no cell of the table of targets has to be folded."""


def support_of(row: Target, today: str) -> str:
    """The days until which a release is supported; ``ended`` for those that are over."""
    days = [day for day in (row.supported_until, row.supported_longer) if day]
    if not days:
        return ""
    longest = max((day for _, day in row.edition_support), default="")
    later = f", long-term {longest}" if longest > max(days[-1], today) else ""
    if all(day < today for day in days):
        return f"ended {days[-1]}{later}"
    return " / ".join("ended" if day < today else day for day in days) + later


def show_editions(row: Target, console: Console) -> None:
    """Editions with the names of their images."""
    from rich.table import Table

    from fairledger.catalog.setup_keys import editions_with_key

    if not row.images:
        console.say(f"{row.name} has no editions to choose from")
        return
    support, keys = dict(row.edition_support), editions_with_key(row)
    table = Table(box=None, padding=(0, 2, 0, 0), header_style="bold")
    for head in ("edition", "name of its image", "setup key", "supported until"):
        table.add_column(head, no_wrap=True)
    for name, image in row.images.items():
        table.add_row(*map(cell, (name, image, "published" if name in keys else "", support.get(name, ""))))
    console.table(table)
    if keys:
        told = 'A published setup key lets setup go on and activates nothing: licence.key = "published" writes it.'
        console.say()
        console.paragraph(told)
    if support:
        console.paragraph("A day is told where it is another one than that of the other editions.")


def show_differences(old: Target, new: Target, found: Sequence[Difference], console: Console) -> None:
    """What came, went and changed, by component."""
    if not found:
        console.say(f"the catalog knows no difference between {old.name} and {new.name}")
        return
    counts = {word: sum(one.what == word for one in found) for word in ("came", "went", "changed")}
    told = ", ".join(f"{count} {word}" for word, count in counts.items() if count)
    console.say(console.style(f"from {old.name} to {new.name}: {told}", "bold"))
    last = ""
    for one in found:
        if one.component != last:
            console.say(f"\n{one.component}")
            last = one.component
        mark = {"came": "+", "went": "-", "changed": "~"}[one.what]
        unsure = "" if one.sure else " (not certain)"
        said = f"{mark} {one.what:<8}{one.setting or 'the whole component'}{unsure}"
        console.paragraph(said + (f": {one.told}" if one.told else ""), indent="  ", hang="            ")


def show_values(kind: str, words: str, rows: Sequence[ListedValue], most: int, console: Console) -> None:
    """Rows with what each installer wants, no more than a screen; what else there is to say of a few only."""
    if not rows:
        console.say(f"no {kind} fits {words!r}")
        console.note(f"fairledger values {kind} lists them all")
        return
    if kind in OFFERED:
        for row in rows[:most]:
            console.say(console.style(row.windows, "bold"))
            console.paragraph("; ".join(filter(None, (row.name, row.more))), indent="  ", hang="  ")
    else:
        _table_of(kind, rows, most, console)
    if len(rows) > most:
        console.say(f"\n{len(rows) - most} more: a word narrows them, --most {len(rows)} shows all")


def _table_of(kind: str, rows: Sequence[ListedValue], most: int, console: Console) -> None:
    from rich.table import Table

    table = Table(box=None, padding=(0, 2, 0, 0), header_style="bold")
    heads = ("offset" if kind == "time-zone" else kind, "Windows", "Linux", _LAST_HEAD.get(kind, ""))
    few = len(rows) <= _FEW
    shown = [at for at in range(4) if any(_cells(row)[at] for row in rows) and (at < 3 or few or kind != "time-zone")]
    for at in shown:
        table.add_column(heads[at], no_wrap=at in (1, 2))
    for row in rows[:most]:
        table.add_row(*[cell(_short(_cells(row)[at])) for at in shown])
    console.table(table)


_FEW = 4
"""Time zones of which all names are shown."""
_MOST_NAMES = 6


def _short(text: str) -> str:
    """A list of names, cut where it is long."""
    names = text.split(", ")
    left = len(names) - _MOST_NAMES
    return text if left <= 1 else f"{', '.join(names[:_MOST_NAMES])} and {left} more"


def _cells(row: ListedValue) -> tuple[str, str, str, str]:
    return row.name, row.windows, row.linux, row.more
