"""What ``show`` prints: an answer sheet by pass and component, values hidden where they are secrets."""

from __future__ import annotations

import textwrap
from pathlib import Path
from typing import Any

from fairledger.catalog.passes import passes_of
from fairledger.catalog.seats import Seat
from fairledger.catalog.secrecy import is_secret
from fairledger.checks.against import Against
from fairledger.checks.engine import Report
from fairledger.cli.against import show_against
from fairledger.cli.console import Console
from fairledger.cli.report import manner, verdict
from fairledger.model.places import Origin
from fairledger.model.showing import discreet, shown
from fairledger.model.size import Size
from fairledger.subject.subject import Subject


def show_sheet(
    draft: Subject, report: Report, console: Console, *, overrides: bool, medium: Against | None = None
) -> None:
    """Head, answers, verdict."""
    resolved = draft.draft
    assert resolved is not None
    head, target = resolved.head, resolved.target
    console.say(console.style(head.title or resolved.file, "bold") + console.style(f"  {resolved.file}", "dim"))
    known = draft.facts
    size = f"disk of {Size(mib=known.disk_mib)}" if known.disk_mib else None
    kinds = " and ".join(one for one in (known.arch, *(known.others or ())) if one)
    facts = [kinds, known.firmware, size]
    console.say(f"  for {target.name} ({', '.join(one for one in facts if one)})")
    if resolved.profiles:
        console.paragraph(", ".join(name for name, _ in resolved.profiles), indent="  on  ", hang="      ")
    show_against(medium, console)
    lines = _listed(draft, overrides=overrides)
    rows = [line for line in lines if line[1] and line[0] not in ("pass", "component")]
    left = max((len(label) for label, _, _ in rows), default=0)
    right = max((len(origin) for _, _, origin in rows), default=0)
    middle = min(max((len(value) for _, value, _ in rows), default=0), max(24, console.width - left - right - 4))
    for kind, first, second in lines:
        if kind == "pass":
            console.say("\n" + console.style(first, "bold") + console.style(f"  {second}", "dim"))
        elif kind == "component":
            console.say(f"  {first}")
        elif not first:
            folded = textwrap.wrap(kind, console.width, subsequent_indent="  |   ", break_on_hyphens=False)
            for part in folded or [kind]:
                console.say(part)
        else:
            folded = textwrap.wrap(first, middle, break_on_hyphens=False) or [""]
            console.say(f"{kind:<{left}}  {folded[0]:<{middle}}  {console.style(second, 'dim')}".rstrip())
            for part in folded[1:]:
                console.say(f"{'':<{left}}  {part}")
    told = verdict([report]) + (f" (fairledger check {resolved.file})" if report.findings else "")
    console.say()
    console.paragraph(told, style=manner([report]))


def _listed(draft: Subject, *, overrides: bool) -> list[tuple[str, str, str]]:
    """Every line: what stands left, the value, its origin; or `pass` and `component` with a head."""
    assert draft.draft is not None
    names = {file: name for name, file in draft.draft.profiles}
    seats = draft.seats
    when = {one.name: one.when for one in passes_of(draft.family.name)}
    at = None
    lines: list[tuple[str, str, str]] = []
    for root in seats.roots:
        if root.block.pass_ != at:
            at = root.block.pass_
            lines.append(("pass", at, when.get(at, "")))
        lines.append(("component", seats.title(root), ""))
        for child in root.children:
            walked = [seat for seat in child.walk() if not _in_brackets(seat)]
            for seat in walked:
                lines += _rows(_line(seat, names, overrides=overrides), seat)
    for one in draft.sheet.companions:
        kind = "script" if one.runs else "profile"
        lines.append(("pass", one.name, f"a {kind} beside the answer file, which calls it"))
        lines += [(f"  | {text}", "", "") for text in discreet(one.told).split("\n")]
    for extra in draft.sheet.extras:
        lines.append(("pass", f"below {extra.place}", "of another form, written as it stands"))
        lines += [(f"  | {text}", "", "") for text in discreet(extra.text).split("\n")]
    return lines


def _rows(line: tuple[str, str, str], seat: Seat) -> list[tuple[str, str, str]]:
    """A script of several lines as several rows."""
    if seat.setting is None or seat.setting.form != "body" or seat.value is None:
        return [line]
    label, _, origin = line
    texts = [shown(text) or " " for text in str(seat.value).split("\n")]
    return [(label if at == 0 else " ", text, origin if at == 0 else "") for at, text in enumerate(texts)]


def _in_brackets(seat: Seat) -> bool:
    """Whether a seat only repeats what stands in the brackets of the item around it."""
    above = seat.parent.setting if seat.parent is not None else None
    if above is None or above.kind != "list" or above.key != seat.node.name or seat.parent is None:
        return False
    # a number that keeps an order is told by the order
    return (seat.setting is not None and seat.setting.ordinal) or seat.parent.shown.endswith(f"[{seat.text}]")


def _line(seat: Seat, names: dict[str, str], *, overrides: bool) -> tuple[str, str, str]:
    secret = is_secret(seat)
    above = f"{seat.parent.shown}/" if seat.parent is not None and seat.parent.shown else ""
    name = seat.shown.removeprefix(above)
    if name == f"{seat.name}[{seat.text}]":
        name = seat.name  # the value stands beside it
    label = "  " * (len(seat.way) + 1) + name
    value = shown(seat.value, secret=secret) if seat.value is not None else ""
    if seat.value == "":
        value = '""'
    origin = told(seat.node.origin, names)
    if overrides and seat.node.origin.overrode:
        origin += " over " + ", ".join(told(one, names) for one in seat.node.origin.overrode)
    return label, value, origin if value else ""


def told(origin: Origin, names: dict[str, str]) -> str:
    """An origin in short: a profile by its name, the draft by its file's name."""
    if not origin.file:
        return ""
    name = names.get(origin.file) or Path(origin.file).name
    return f"{name}:{origin.line}" if origin.line else name


def as_json(draft: Subject) -> dict[str, Any]:
    """The stable form: answers with pass, component, setting, value and origin; secrets as placeholders."""
    resolved = draft.draft
    assert resolved is not None
    answers = [
        {
            "pass": seat.block.pass_,
            "component": seat.block.component,
            "setting": seat.shown,
            "value": shown(seat.value, secret=is_secret(seat)),
            "file": seat.node.origin.file or None,
            "line": seat.node.origin.line,
            "overrode": [str(one) for one in seat.node.origin.overrode],
        }
        for seat in draft.seats
        if seat.value is not None
    ]
    return {
        "file": resolved.file,
        "title": resolved.head.title,
        "target": resolved.target.id,
        "profiles": [name for name, _ in resolved.profiles],
        "answers": answers,
    }
