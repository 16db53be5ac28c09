"""Findings in the forms that build servers read: SARIF 2.1.0 and JUnit XML."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path, PurePath
from typing import Any
from urllib.parse import quote

from lxml import etree

from fairledger import __version__
from fairledger.checks.engine import Report
from fairledger.checks.rule import all_rules
from fairledger.cli.places import short_name
from fairledger.model.finding import Finding, Severity, reaches
from fairledger.model.showing import visible

_SCHEMA = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json"
_LEVELS = {Severity.ERROR: "error", Severity.WARNING: "warning", Severity.ADVICE: "note"}


def sarif(reports: Sequence[Report]) -> dict[str, Any]:
    """One run with every finding; rules are described once."""
    found = [finding for report in reports for finding in (*report.findings, *report.silenced)]
    known = {one.id: one for one in all_rules()}
    ids = sorted({finding.rule for finding in found})
    rules = [
        {
            "id": name,
            **(
                {"shortDescription": {"text": known[name].says}, "help": {"text": f"From: {known[name].source}."}}
                if name in known
                else {}
            ),
        }
        for name in ids
    ]
    results = [_result(finding, report, ids.index(finding.rule)) for report in reports for finding in report.findings]
    for report in reports:
        for finding in report.silenced:
            quiet = {"suppressions": [{"kind": "inSource"}]}
            results.append({**_result(finding, report, ids.index(finding.rule)), **quiet})
    driver = {"name": "Fair Ledger", "version": __version__, "rules": rules}
    run = {"tool": {"driver": driver}, "columnKind": "unicodeCodePoints", "results": results}
    return {"$schema": _SCHEMA, "version": "2.1.0", "runs": [run]}


def _result(finding: Finding, report: Report, index: int) -> dict[str, Any]:
    location: dict[str, Any] = {"artifactLocation": {"uri": _uri(finding.file or report.file)}}
    if finding.line:
        location["region"] = {
            "startLine": finding.line,
            **({"startColumn": finding.column} if finding.column else {}),
        }
    where: dict[str, Any] = {"physicalLocation": location}
    if finding.where:
        where["logicalLocations"] = [{"fullyQualifiedName": visible(finding.where)}]
    hint = f" ({visible(finding.hint)})" if finding.hint else ""
    return {
        "ruleId": finding.rule,
        "ruleIndex": index,
        "level": _LEVELS[finding.severity],
        "message": {"text": visible(finding.message) + hint},
        "locations": [where],
    }


def _uri(file: str) -> str:
    """A file as a reference: relative to where the program runs, or whole."""
    path = Path(file)
    return path.as_uri() if path.is_absolute() else quote(PurePath(file).as_posix())


def junit(reports: Sequence[Report], fail_on: Severity) -> bytes:
    """A suite for each file, a case for each rule that found something in it; a file without findings passes."""
    suites = etree.Element("testsuites", name="fairledger check")
    for report in reports:
        by_rule: dict[str, list[Finding]] = {}
        for finding in report.findings:
            by_rule.setdefault(finding.rule, []).append(finding)
        failed = sum(reaches(group, fail_on) for group in by_rule.values())
        count = str(len(by_rule) or 1)
        suite = etree.SubElement(suites, "testsuite", name=_safe(report.file), tests=count, failures=str(failed))
        if not by_rule:
            etree.SubElement(suite, "testcase", classname=_safe(report.file), name="check")
        for rule, group in by_rule.items():
            case = etree.SubElement(suite, "testcase", classname=_safe(report.file), name=rule)
            told = "\n".join(_line(finding) for finding in group)
            if reaches(group, fail_on):
                first = min(group, key=lambda one: one.sort_key)
                failure = etree.SubElement(case, "failure", message=_safe(first.message), type=first.severity)
                failure.text = _safe(told)
            else:
                etree.SubElement(case, "system-out").text = _safe(told)
    data: bytes = etree.tostring(suites, encoding="utf-8", xml_declaration=True, pretty_print=True)
    return data


def _line(finding: Finding) -> str:
    place = f"{short_name(finding.file or '')}:{finding.line}: " if finding.line else ""
    hint = f" -> {finding.hint}" if finding.hint else ""
    return f"{place}{finding.severity}: {finding.message}{hint}"


def _safe(text: str) -> str:
    return "\n".join(visible(line) for line in text.split("\n"))
