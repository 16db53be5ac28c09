"""Findings, for people and for machines."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Any

from fairledger.catalog.questions import all_pages
from fairledger.catalog.secrecy import is_secret
from fairledger.checks.engine import Report
from fairledger.cli.console import Console
from fairledger.cli.places import place_of
from fairledger.events.questions import questions
from fairledger.model.finding import Finding, Severity
from fairledger.model.showing import discreet, visible
from fairledger.storage.files import STANDARD_INPUT
from fairledger.subject.subject import FileKind, Opened, Subject

_SINGULAR = {Severity.ERROR: "error", Severity.WARNING: "warning", Severity.ADVICE: "piece of advice"}
_PLURAL = {Severity.ERROR: "errors", Severity.WARNING: "warnings", Severity.ADVICE: "pieces of advice"}


def show_problems(findings: Sequence[Finding], console: Console) -> None:
    """The problems of a file that could not be used, one line each, on standard error."""
    for finding in sorted(findings, key=lambda one: one.sort_key):
        place = f"{finding.file}:{finding.line}:" if finding.file and finding.line else f"{finding.file or ''}:"
        hint = f"; {finding.hint}" if finding.hint else ""
        console.error(f"{place} {visible(finding.message)}{visible(hint)}".strip())


def show_report(report: Report, console: Console) -> None:
    """One file's findings, worst first, with their lines, and a verdict."""
    target = report.target.name if report.target else "target unknown, all releases taken together"
    head = target + (f" ({report.basis})" if report.basis not in ("", "stated") else "")
    if not report.family:
        head = "a profile" if report.of.kind is FileKind.PROFILE else "not understood so far"
    console.say(console.style(report.file, "bold") + console.style(f"  {head}", "dim"))
    if isinstance(report.of, Opened) and report.of.path == STANDARD_INPUT:
        _GIVEN[report.file] = report.of.data
    secret = _secret_lines(report)
    asked = [one for one in report.findings if one.rule in _asking()]
    told = [one for one in report.findings if one.rule not in _asking() or one.severity != Severity.ADVICE]
    if len(report.findings) > 1:
        console.paragraph(verdict([report]), indent="  ", style=manner([report]))
    for finding in told[:_MOST_SHOWN]:
        console.say()
        _show(finding, report, secret, console)
    if len(told) > _MOST_SHOWN:
        console.say(f"  ... and {len(told) - _MOST_SHOWN} findings more, which are counted below")
    pages = [*questions(report.of)] if asked and isinstance(report.of, Subject) else []
    order = {f"question-{one.page.question}": at for at, one in enumerate(pages)}
    for finding in sorted(asked, key=lambda one: order.get(one.rule, len(order))):
        if finding.severity == Severity.ADVICE:
            console.say()
            _show_open(finding, console)
    if report.findings:
        console.say()
    console.paragraph(verdict([report]), indent="  ", style=manner([report]))


def verdict(reports: Sequence[Report]) -> str:
    """A sentence that says how things stand, and how many questions are left open."""
    asked = open_questions(reports)
    quiet = _quiet(reports)
    found = _found(count(reports), asked)
    found = "nothing else found" if quiet and found == "nothing found" else found
    return "; ".join(one for one in (found, _left_open(asked, reports), quiet) if one)


def _quiet(reports: Sequence[Report]) -> str:
    """What is not told, and why."""
    rules = dict.fromkeys(finding.rule for report in reports for finding in report.silenced)
    silenced, left_out = sum(len(one.silenced) for one in reports), sum(one.left_out for one in reports)
    told = [f"{silenced} silenced ({', '.join(rules)})"] if silenced else []
    return ", ".join((*told, f"{left_out} left out") if left_out else told)


def manner(reports: Sequence[Report]) -> str:
    """The style in which that is said."""
    counts = count(reports)
    if counts[Severity.ERROR]:
        return "error"
    care = counts[Severity.WARNING] or open_questions(reports) or _quiet(reports)
    return "warning" if care else "good"


def _found(counts: dict[Severity, int], asked: int) -> str:
    told = [
        f"{number} {(_SINGULAR if number == 1 else _PLURAL)[severity]}" for severity, number in counts.items() if number
    ]
    if not told:
        return "" if asked else "nothing found"
    return ", ".join(told) + (": not ready for use" if counts[Severity.ERROR] else "; no errors")


def _left_open(asked: int, reports: Sequence[Report]) -> str:
    told = f"leaves {asked} question{'' if asked == 1 else 's'} open" if asked else ""
    unknown = sum(report.unknown for report in reports)
    if unknown and asked:
        return f"{told}, and nobody knows of {unknown} more"
    if unknown:
        return f"nobody knows whether {unknown} question{' is' if unknown == 1 else 's are'} left"
    return told


def open_questions(reports: Sequence[Report]) -> int:
    """How many questions nobody answers."""
    return sum(finding.rule in _asking() for report in reports for finding in report.findings)


@cache
def _asking() -> frozenset[str]:
    """The rules that speak of open questions."""
    return frozenset(name for one in all_pages() for name in (one.rule, f"question-{one.question}") if name)


def count(reports: Sequence[Report]) -> dict[Severity, int]:
    """How many findings of each severity there are, without open questions that are no more than that."""
    found = [finding for report in reports for finding in report.findings]
    heard = [one for one in found if one.severity != Severity.ADVICE or one.rule not in _asking()]
    return {severity: sum(finding.severity == severity for finding in heard) for severity in Severity}


def as_json(reports: Sequence[Report]) -> dict[str, Any]:
    """The contract of ``check --format json``."""
    counts = count(reports)
    return {
        "command": "check",
        "files": [
            {
                "file": report.file,
                "family": report.family,
                "target": report.target.id if report.target else None,
                "findings": [finding_json(finding) for finding in report.findings],
                "silenced": [finding_json(finding) for finding in report.silenced],
            }
            for report in reports
        ],
        "errors": counts[Severity.ERROR],
        "warnings": counts[Severity.WARNING],
        "advice": counts[Severity.ADVICE],
        "questions": open_questions(reports),
        "silenced": sum(len(report.silenced) for report in reports),
        "left_out": sum(report.left_out for report in reports),
    }


def finding_json(finding: Finding) -> dict[str, Any]:
    """A finding's stable form."""
    return {
        "rule": finding.rule,
        "severity": finding.severity,
        "message": finding.message,
        "pass": finding.pass_,
        "component": finding.component,
        "item": finding.item or None,
        "setting": finding.setting,
        "file": finding.file,
        "line": finding.line,
        "column": finding.column,
        "hint": finding.hint,
    }


_MOST_SHOWN = 10_000
"""How many findings of a file are shown."""
_NEAR = 1_000
"""How many letters before and behind a place are looked at."""
_TELLING = ("passw", "rootp", "key", "value", "secret", "token", "pw ")
"""Words in lines that are not shown: a secret may stand in them."""


def _secret_lines(report: Report) -> set[tuple[str, int]]:
    """File and line of every answer whose setting holds a secret."""
    if not isinstance(report.of, Subject) or not report.findings:
        return set()
    return {
        (seat.node.origin.file or report.file, seat.node.origin.line)
        for seat in report.of.seats
        if is_secret(seat) and seat.node.origin.line is not None
    }


def _show(finding: Finding, report: Report, secret: set[tuple[str, int]], console: Console) -> None:
    mark = console.style(f"{finding.severity:<8}", finding.severity)
    where = place_of(finding.file or report.file, finding.line, report.file, _profiles(report))
    place = f"{where}: " if finding.line else ""
    body = f"{place}{visible(finding.message)}"
    folded = textwrap.wrap(body, console.width - 11, break_on_hyphens=False) or [""]
    console.say(f"  {mark} {folded[0]}")
    for line in folded[1:]:
        console.say(" " * 11 + line)
    if finding.line and finding.file and (finding.file, finding.line) not in secret:
        _source(finding.file, finding.line, finding.column, console)
    if finding.hint:
        console.paragraph(f"-> {visible(finding.hint)}", indent=" " * 11, hang=" " * 14)
    told = " ".join(part for part in (finding.where, f"[{finding.rule}]") if part)
    console.paragraph(visible(told), indent=" " * 11, hang=" " * 14, style="dim")


def _profiles(report: Report) -> dict[str, str]:
    """The names of a draft's profiles by their files."""
    draft = report.of.draft if isinstance(report.of, Subject) else None
    return {file: name for name, file in draft.profiles} if draft is not None else {}


def _show_open(finding: Finding, console: Console) -> None:
    """A question that is left, which stands nowhere in the file."""
    mark = console.style(f"{'open':<8}", "warning")
    folded = textwrap.wrap(visible(finding.message), console.width - 11, break_on_hyphens=False)
    console.say(f"  {mark} {folded[0]}")
    for line in folded[1:]:
        console.say(" " * 11 + line)
    console.paragraph(f"-> {visible(finding.hint)}  [{finding.rule}]", indent=" " * 11, hang=" " * 14)


def _source(file: str, line: int, column: int | None, console: Console) -> None:
    """The line, with a caret below unless it points at its beginning. One that may hold a secret is not shown."""
    lines = _lines(file)
    if not 0 < line <= len(lines):
        return
    # of a line without an end only what is near is looked at
    near = max(0, (column or 1) - _NEAR) if len(lines[line - 1]) > 3 * _NEAR else 0
    whole = lines[line - 1][near : near + 2 * _NEAR] if near else lines[line - 1][: 3 * _NEAR]
    text = visible(discreet(whole.replace("\t", " ")))
    if any(word in text.lower() for word in _TELLING):
        return
    room = console.width - 20
    column = column - near if column else None
    start = max(0, min((column or 1) - 1 - room // 2, len(text) - room))
    shown = ("…" if start else "") + text[start + bool(start) : start + room]
    cut = "…" if start + room < len(text) else ""
    console.say(console.style(f"{line:>9} | ", "dim") + shown + cut)
    if column and column - 1 > len(text) - len(text.lstrip()):
        console.say(
            " " * 9 + console.style(" | ", "dim") + " " * max(0, column - 1 - start) + console.style("^", "advice")
        )


_GIVEN: dict[str, bytes] = {}
"""What stands in no file, by the name under which it is told."""


@cache
def _lines(file: str) -> list[str]:
    from fairledger.model.errors import LedgerError
    from fairledger.storage.files import decode

    try:
        return decode(_GIVEN[file] if file in _GIVEN else Path(file).read_bytes(), file).split("\n")
    except (OSError, LedgerError):
        return []
