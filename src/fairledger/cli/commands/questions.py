"""``fairledger questions``: every page and prompt of the installer, with what answers it."""

from __future__ import annotations

import argparse
from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_layers, add_target, asked_of, route_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.events.questions import Asked
    from fairledger.subject.subject import Subject


EXAMPLES = (
    "fairledger questions desk.toml",
    "fairledger questions autounattend.xml",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The file, and how it reaches the installer."""
    parser.add_argument("file", type=Path, metavar="FILE", help="a draft, or an answer file")
    add_target(parser)
    parser.add_argument("--route", help="how it reaches the installer (default: as the draft says, else from a medium)")
    add_layers(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Lists them in the order in which they come."""
    from fairledger.events.questions import questions
    from fairledger.model.facts import Facts
    from fairledger.subject.opening import opened

    subject = opened(options.file, asked_of(options, Facts(route=route_of(options.route))))
    found = tuple(questions(subject))
    if console.json:
        console.write_json(_json(subject, found))
    else:
        _show(subject, found, console)
    return Status.DONE


def _show(subject: Subject, found: tuple[Asked, ...], console: Console) -> None:
    from fairledger.catalog.passes import passes_of
    from fairledger.events.questions import hands_free

    target = subject.target.name if subject.target else "target unknown"
    console.say(console.style(subject.file, "bold") + f"  for {target}")
    left, unknown = (sum(one.answered is state for one in found) for state in (False, None))
    told = [f"{left} open"] if left else []
    told += [f"{unknown} of which nobody knows"] if unknown else []
    free = hands_free(found)
    verdict = "nobody has to be there: all that is asked is answered" if free else "questions: " + ", ".join(told)
    console.say("  " + console.style(verdict, "good" if free else "warning"))
    when = {one.name: one.when for one in passes_of(subject.family.name)}
    for pass_, pages in groupby(found, key=lambda one: one.page.pass_):
        console.say("\n" + console.style(pass_, "bold") + console.style(f"  {when.get(pass_, '')}", "dim"))
        for one in pages:
            _page(one, subject, console)


_WORDS = {True: "answered", False: "open", None: "unknown"}


def _page(one: Asked, subject: Subject, console: Console) -> None:
    style = {True: "good", False: "warning", None: "dim"}[one.answered]
    console.say(f"  {console.style(f'{_WORDS[one.answered]:<9}', style)} {one.what}")
    if one.answered is False:
        if one.page.unless:
            console.paragraph(f"unless {one.page.unless}", indent=" " * 12, hang=" " * 14)
        console.paragraph(f"-> {one.remedy}", indent=" " * 12, hang=" " * 15)
    elif one.answered is None:
        console.paragraph(one.why, indent=" " * 12, hang=" " * 14)
    if one.by is not None:
        console.paragraph(_by(one, subject), indent=" " * 12, hang=" " * 14)


def _by(one: Asked, subject: Subject) -> str:
    from fairledger.cli.view import told

    address, value = _address(one, subject), _value(one)
    names = {file: name for name, file in subject.draft.profiles} if subject.draft is not None else {}
    origin = told(one.by.node.origin, names) if one.by is not None else ""
    return f"{address}{f' = {value}' if value else ''}{f'  ({origin})' if origin else ''}"


def _address(one: Asked, subject: Subject) -> str:
    seat = one.by
    root = seat
    while root is not None and root.parent is not None:
        root = root.parent
    if seat is None or root is None:
        return ""
    return f"{root.block.pass_}:{subject.seats.title(root)}" + (f"/{seat.shown}" if seat.shown else "")


def _value(one: Asked) -> str:
    from fairledger.catalog.secrecy import is_secret
    from fairledger.model.showing import shown

    seat = one.by
    if seat is None or seat.value is None:
        return ""
    return "(secret)" if is_secret(seat) else shown(seat.value, secret=False)


def _json(subject: Subject, found: tuple[Asked, ...]) -> dict[str, Any]:
    from fairledger.events.questions import hands_free

    return {
        "file": subject.file,
        "target": subject.target.id if subject.target else None,
        "route": subject.facts.route,
        "hands_free": hands_free(found),
        "questions": [
            {
                "question": one.page.question,
                "pass": one.page.pass_,
                "asks": one.what,
                "answered": one.answered,
                "by": _address(one, subject) or None,
                "value": _value(one) or None,
                "file": (one.by.node.origin.file or subject.file) if one.by is not None else None,
                "line": one.by.node.origin.line if one.by is not None else None,
                "unless": one.page.unless or None,
                "why": one.why or None,
                "remedy": one.remedy,
            }
            for one in found
        ],
    }
