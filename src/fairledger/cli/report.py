"""Findings, for people and for machines."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from functools import cache
from pathlib import Path
from typing import Any

from fairledger.checks.engine import Report
from fairledger.cli.console import Console
from fairledger.model.finding import Finding, Severity
from fairledger.model.sheet import visible
from fairledger.profiles.library import SHIPPED
from fairledger.subject.subject import FileKind, Subject

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
    secret = _secret_lines(report)
    for finding in report.findings:
        _show(finding, report, secret, console)
    console.say(f"  {verdict([report], console)}")


def verdict(reports: Sequence[Report], console: Console) -> str:
    """One line that says how things stand."""
    counts = count(reports)
    told = [
        f"{number} {severity if number == 1 else _PLURAL[severity]}" for severity, number in counts.items() if number
    ]
    if not told:
        return console.style("nothing found", "good")
    if counts[Severity.ERROR]:
        return console.style(", ".join(told) + ": not ready for use", "error")
    return console.style(", ".join(told) + "; no errors", "warning" if counts[Severity.WARNING] else "good")


def count(reports: Sequence[Report]) -> dict[Severity, int]:
    """How many findings of each severity there are."""
    return {
        severity: sum(finding.severity == severity for report in reports for finding in report.findings)
        for severity in Severity
    }


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
            }
            for report in reports
        ],
        "errors": counts[Severity.ERROR],
        "warnings": counts[Severity.WARNING],
        "advice": counts[Severity.ADVICE],
    }


def finding_json(finding: Finding) -> dict[str, Any]:
    """A finding's stable form."""
    return {
        "rule": finding.rule,
        "severity": finding.severity,
        "message": finding.message,
        "pass": finding.pass_,
        "component": finding.component,
        "setting": finding.setting,
        "file": finding.file,
        "line": finding.line,
        "column": finding.column,
        "hint": finding.hint,
    }


_TELLING = ("passw", "rootp", "key", "value", "secret", "token", "pw ")
"""Words in lines that are not shown: a secret may stand in them."""


def _secret_lines(report: Report) -> set[tuple[str, int]]:
    """File and line of every answer whose setting holds a secret."""
    if not isinstance(report.of, Subject) or not report.findings:
        return set()
    return {
        (seat.node.origin.file or report.file, seat.node.origin.line)
        for seat in report.of.seats
        if seat.setting is not None and seat.setting.secret and seat.node.origin.line is not None
    }


def _show(finding: Finding, report: Report, secret: set[tuple[str, int]], console: Console) -> None:
    mark = console.style(f"{finding.severity:<8}", finding.severity)
    elsewhere = finding.file is not None and finding.file != report.file
    where = f"{short_name(finding.file or '')}, line {finding.line}" if elsewhere else f"line {finding.line}"
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
    console.say(console.style(" " * 11 + told, "dim"))


def short_name(file: str) -> str:
    """A file as a person would call it: a shipped profile by its name, others by their path."""
    path = Path(file)
    if path.is_relative_to(SHIPPED):
        return f"shipped profile {path.relative_to(SHIPPED).with_suffix('').as_posix()}"
    return file


def _source(file: str, line: int, column: int | None, console: Console) -> None:
    """The line, with a caret below unless it points at its beginning. One that may hold a secret is not shown."""
    lines = _lines(file)
    if not 0 < line <= len(lines):
        return
    text = visible(lines[line - 1].replace("\t", " "))
    if any(word in text.lower() for word in _TELLING):
        return
    room = console.width - 20
    start = max(0, min((column or 1) - 1 - room // 2, len(text) - room))
    console.say(console.style(f"{line:>9} | ", "dim") + text[start : start + room])
    if column and column - 1 > len(text) - len(text.lstrip()):
        console.say(
            " " * 9 + console.style(" | ", "dim") + " " * max(0, column - 1 - start) + console.style("^", "advice")
        )


@cache
def _lines(file: str) -> list[str]:
    from fairledger.model.errors import LedgerError
    from fairledger.storage.files import decode

    try:
        return decode(Path(file).read_bytes(), file).split("\n")
    except (OSError, LedgerError):
        return []
