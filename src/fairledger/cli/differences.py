"""Differences between files, for people and for machines."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from itertools import groupby
from pathlib import Path
from typing import Any

from fairledger.cli.console import Console
from fairledger.exchange.compare import Change, Comparison
from fairledger.exchange.differ import Difference
from fairledger.model.places import Origin
from fairledger.model.showing import discreet, shown, visible
from fairledger.model.values import Scalar, Template
from fairledger.subject.subject import Subject


def as_json(comparison: Comparison) -> dict[str, Any]:
    """The contract of ``compare --format json``."""
    return {
        "verdict": comparison.verdict,
        "equivalences": list(comparison.equivalences),
        "not_compared": [
            *(f"{one.component}/{one.setting}" for one in comparison.unknown),
            *comparison.not_understood,
        ],
        "differences": [_json(one) for one in comparison.differences],
    }


def _json(one: Difference) -> dict[str, Any]:
    return {
        "pass": one.pass_ or None,
        "component": one.component,
        "setting": one.setting,
        "a": _plain(one.a, one),
        "b": _plain(one.b, one),
    }


def changes_json(found: Sequence[Change]) -> dict[str, Any]:
    """The same for three files."""
    return {
        "same": not found,
        "changes": [
            {
                **_json(one.where),
                "by": one.by,
                "base": _plain(one.base, one.where),
                "a": _plain(one.a, one.where),
                "b": _plain(one.b, one.where),
            }
            for one in found
        ],
    }


def _plain(value: Scalar | None, one: Difference) -> str | None:
    return None if value is None else shown(value, secret=one.secret)


def show(comparison: Comparison, a: Subject, b: Subject, console: Console) -> None:
    """Every difference by pass and component, both values below it, and a verdict first."""
    names = _names(a, b)
    console.say(_verdict(comparison, names, console))
    if a.family.name != b.family.name:
        console.say("the files are for different installers: their portable sections are compared")
    both = [one for one in comparison.differences if one.a is not None and one.b is not None]
    for place, group in groupby(both, key=_place):
        console.say("\n" + console.style(place, "bold"))
        for one in group:
            console.say(f"  {visible(one.setting) or 'the whole of it'}")
            _row(names[0], one.a, one.a_origin, one, console)
            _row(names[1], one.b, one.b_origin, one, console)
    for name, other in zip(names, ("b", "a"), strict=True):
        _only(name, [one for one in comparison.differences if getattr(one, other) is None], console)
    for told in comparison.equivalences if comparison.verdict == "same in effect" else ():
        console.paragraph(told, indent="  ", hang="    ")
    if comparison.not_understood:
        rests = "; ".join(visible(one) for one in comparison.not_understood)
        console.say()
        console.paragraph(f"not told whether it makes a difference: {rests}", hang="  ")
    for one in comparison.unknown:
        console.say()
        told = f"not compared: {one.component}/{one.setting} ({shown(one.a, secret=True)}; {shown(one.b, secret=True)})"
        console.paragraph(told, hang="  ")


def _place(one: Difference) -> str:
    return ":".join(part for part in (one.pass_, one.component) if part)


def _only(name: str, rows: list[Difference], console: Console) -> None:
    """What only one file says, a paragraph for each component."""
    if not rows:
        return
    console.say("\n" + console.style(f"only in {name}", "bold"))
    for place, group in groupby(rows, key=_place):
        parts = []
        for one in group:
            value = one.a if one.b is None else one.b
            text = "(hidden)" if one.secret else shown(value)
            parts.append(f"{visible(one.setting)}={text}" if one.setting and text else visible(one.setting) or text)
        console.paragraph(f"{place}  {'  '.join(part for part in parts if part)}", indent="  ", hang="      ")


def show_changes(found: Sequence[Change], base: Subject, a: Subject, b: Subject, console: Console) -> None:
    """Who changed what since the older file; what both changed differently comes first."""
    names = _names(a, b)
    heads = {
        "conflict": "changed by both, differently",
        "a": f"changed by {names[0]}",
        "b": f"changed by {names[1]}",
        "both": "changed by both, alike",
    }
    told = [f"{sum(one.by == by for one in found)} {head}" for by, head in heads.items()]
    console.say(f"since {base.file}: " + ("; ".join(told) if found else "nothing changed"))
    for by, head in heads.items():
        group = [one for one in found if one.by == by]
        if group:
            console.say("\n" + console.style(head, "error" if by == "conflict" else "bold"))
        for one in group:
            place = ":".join(part for part in (one.where.pass_, one.where.component) if part)
            console.say(f"  {visible(place)}/{visible(one.where.setting)}")
            nowhere = Origin()
            rows = [("before", one.base)]
            rows += [("now", one.a)] if by == "both" else []
            rows += [(names[0], one.a)] if by in ("a", "conflict") else []
            rows += [(names[1], one.b)] if by in ("b", "conflict") else []
            for name, value in rows:
                _row(name, value, nowhere, one.where, console)


def _names(a: Subject, b: Subject) -> tuple[str, str]:
    """The files by name, as short as tells them apart."""
    one, other = Path(a.file), Path(b.file)
    return (a.file, b.file) if one.name == other.name else (one.name, other.name)


def _verdict(comparison: Comparison, names: tuple[str, str], console: Console) -> str:
    both = f"{names[0]} and {names[1]}"
    if comparison.verdict == "same answers":
        return console.style(f"{both} give the same answers", "good")
    if comparison.verdict == "same in effect":
        return console.style(f"{both} come to the same, in other words:", "good")
    if comparison.verdict == "not told":
        return console.style(
            f"{both} may be the same: no difference was found, and not all could be compared", "warning"
        )
    rows = comparison.differences
    only = [sum(getattr(one, other) is None for one in rows) for other in ("b", "a")]
    counts = (
        (len(rows) - sum(only), "said differently"),
        *zip(only, (f"only in {name}" for name in names), strict=True),
    )
    told = ", ".join(f"{number} {what}" for number, what in counts if number)
    word = "difference" if len(rows) == 1 else "differences"
    return console.style(f"{len(rows)} {word}: {told}", "warning")


def _row(name: str, value: Scalar | None, origin: Origin, one: Difference, console: Console) -> None:
    where = f"{name}:{origin.line}" if origin.line and Path(origin.file).name == Path(name).name else name
    if origin.line and Path(origin.file).name != Path(name).name:
        where = f"{name} ({Path(origin.file).stem}:{origin.line})"
    text = "-" if value is None else discreet(str(value)) or "(empty)"
    if isinstance(value, Template) and not one.secret:
        text += " (filled in, in the target's words)" if value.takes_forms else " (filled in as it is)"
    if value is not None and one.secret:
        text = "(hidden)"
    lines = [part for line in text.split("\n") for part in textwrap.wrap(visible(line), console.width - 32) or [""]]
    console.say(console.style(f"    {where:<26}  ", "dim") + lines[0])
    for line in lines[1:6]:
        console.say(" " * 32 + line)
    if len(lines) > 6:
        console.say(" " * 32 + f"... and {len(lines) - 6} lines more")
