"""What is printed of portable fields: those that were found, one at length, those of a section."""

from __future__ import annotations

import shlex
from collections.abc import Iterable, Iterator, Sequence
from itertools import groupby
from typing import Any

from fairledger.catalog.targets import all_targets, known_target
from fairledger.cli.console import Console
from fairledger.cli.status import Status
from fairledger.families.reference import FieldTold
from fairledger.model.target import Target

_LABEL = 10
_LINES = {"client": "Windows", "server": "Windows Server", "el": "Enterprise Linux", "fedora": "Fedora"}


def fields_json(found: Iterable[FieldTold], *, medium: bool = False) -> list[dict[str, Any]]:
    """Fields among what was found: they stand in no component and in no pass."""
    return [
        {
            **({"on_medium": None} if medium else {}),
            "component": None,
            "path": one.path,
            "passes": [],
            "kind": _kind(one),
            "accepts": one.accepts,
            "values": list(one.values),
            "about": one.about,
            "example": one.example,
        }
        for one in found
    ]


def _kind(one: FieldTold) -> str:
    """A word for what a field accepts, as settings have it."""
    if one.values:
        return "boolean" if one.values == ("true", "false") else "choice"
    return next((kind for begin, kind in _KINDS.items() if one.accepts.startswith(begin)), "text")


_KINDS = {"a whole number": "integer", "a size": "size", "a secret": "secret", "a list": "list", "a table": "group"}


def show_fields(found: Sequence[FieldTold], target: Target, console: Console) -> None:
    """Fields with what they are about, what they accept, and an assignment to paste."""
    for one in found:
        console.say(console.style(one.path, "bold") + "  portable field")
        console.paragraph(_plain(one.about), indent="  ")
        console.paragraph(one.accepts, indent="  ", style="dim")
        console.say(f"  fairledger set FILE {console.style(pasted(one.example), 'good')}\n")
    if found:
        console.say(f"  more about one   fairledger about {target.id} {found[0].path}\n")


def pasted(example: str) -> str:
    """An assignment as it is typed at a shell: quoted where one would take it for more than a word."""
    return shlex.quote(example) if "'" not in example else f'"{example}"'


def explain_fields(found: Sequence[FieldTold], target: Target | None, console: Console) -> int:
    """One field at length, or those of a section at a glance."""
    if console.json:
        rows = [{**row, "made": dict(one.made), "targets": list(one.held)} for row, one in _rows(found)]
        console.write_json({"target": target.id if target is not None else None, "fields": rows})
        return Status.DONE
    if len(found) == 1:
        _explain(found[0], target, console)
        return Status.DONE
    head = found[0].path.partition(".")[0]
    console.say(console.style(head, "bold") + f"  portable section, {len(found)} fields")
    console.paragraph(_about_section(head), indent="  ")
    for one in found:
        idle = target is not None and target.id not in one.held
        console.say("\n  " + console.style(one.path.partition(".")[2], "dim" if idle else "bold"))
        told = f"{_plain(one.about)} {one.accepts[:1].upper()}{one.accepts[1:]}."
        console.paragraph(told + (f" Nothing for {target.name}." if target and idle else ""), indent="    ")
    console.say(f"\n  more about one   fairledger about {found[0].path}")
    return Status.DONE


def _rows(found: Sequence[FieldTold]) -> Iterable[tuple[dict[str, Any], FieldTold]]:
    return zip(fields_json(found), found, strict=True)


def _about_section(name: str) -> str:
    from fairledger.intent.meanings import about_of

    return about_of(name)


def _plain(text: str) -> str:
    return text.replace("``", "")


def _explain(one: FieldTold, target: Target | None, console: Console) -> None:
    console.say(console.style(one.path, "bold") + "  portable field")
    if one.about:
        console.paragraph(_plain(one.about), indent="  ")
    console.say()
    _labelled("accepts", one.accepts, console)
    for at, (name, ids) in enumerate(_where(one)):
        _labelled("for" if at == 0 else "", f"{name}: {ids}", console)
    if target is not None and target.id not in one.held:
        _labelled("", f"not for {target.name}: check says what to do instead", console, style="warning")
    for name, lines in _made(one, target):
        console.say("\n  " + console.style(name, "bold"))
        for place, rows in groupby(lines, key=lambda line: line.partition(" = ")[0].rpartition("/")[0]):
            if place:
                console.say("    " + console.style(place, "dim"))
            for told in _items([row.removeprefix(f"{place}/") for row in rows]):
                console.paragraph(told, indent="      ", hang="        ")
    console.say("\n  fairledger set FILE " + console.style(pasted(one.example), "good"))


def _items(rows: Sequence[str]) -> Iterator[str]:
    """Answers of one place, those of each item in a line: where a name comes again, another item begins."""
    line: list[str] = []
    names: set[str] = set()
    for row in rows:
        name = row.partition(" = ")[0]
        if name in names or len(row) > _LONG:
            yield from [", ".join(line)] if line else ()
            line, names = [], set()
        line.append(row)
        names.add(name)
    yield from [", ".join(line)] if line else ()


_LONG = 50
"""An answer of more letters has a line of its own."""


def _labelled(label: str, text: str, console: Console, style: str | None = None) -> None:
    console.paragraph(text, indent=f"  {label:<{_LABEL}} ", hang=" " * (_LABEL + 3), style=style)


def _where(one: FieldTold) -> Iterable[tuple[str, str]]:
    """The releases that have a use for it, by line."""
    for line in dict.fromkeys(each.line for each in all_targets()):
        ids = [each.id for each in all_targets() if each.line == line]
        held = [each for each in ids if each in one.held]
        if held:
            whole = held == ids
            told = "all releases" if whole else f"from {held[0]} on" if held == ids[-len(held) :] else ", ".join(held)
            yield _LINES.get(line, "hypervisor"), told


def _made(one: FieldTold, target: Target | None) -> Iterable[tuple[str, tuple[str, ...]]]:
    """What becomes of the field, for families that make the same of it together."""
    rows = [(known_target(name), lines) for name, lines in one.made.items()]
    there = [(each, lines) for each, lines in rows if each is not None]
    if target is not None:
        there = [(each, lines) for each, lines in there if each.line == target.line] or there
    for lines in dict.fromkeys(lines for _, lines in there):
        names = [each.name for each, told in there if told == lines]
        yield f"{' and '.join(names)}, in an example", lines
