"""``fairledger check``: drafts, profiles and answer files."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_layers, add_medium, add_target, asked_of, route_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.checks.engine import Report
    from fairledger.model.facts import Facts
    from fairledger.subject.opening import Asked


EXAMPLES = (
    "fairledger check desk.toml",
    "fairledger check answers/ --summary",
    "fairledger check - < autounattend.xml",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Files, and what is known of the machines."""
    parser.add_argument("files", nargs="+", type=Path, metavar="FILE", help="drafts, profiles or answer files")
    add_target(parser)
    parser.add_argument(
        "--firmware", choices=("uefi", "bios"), help="firmware of the machines (default: as a draft says)"
    )
    parser.add_argument(
        "--disk-size", metavar="SIZE", help='size of the disk, such as "256 GB" (default: as a draft says)'
    )
    parser.add_argument("--route", help="how the file reaches the installer (stick, disc, share, ...)")
    parser.add_argument("--root", type=Path, metavar="FOLDER", help="where files are that an answer file takes in")
    parser.add_argument(
        "--fail-on",
        choices=("error", "question", "warning", "advice"),
        default="error",
        help="mildest finding with status 1; question: errors, and questions that are left open",
    )
    parser.add_argument("--only", action="append", metavar="RULE", help="hear these rules only (may be repeated)")
    parser.add_argument("--except", dest="leave", action="append", metavar="RULE", help="do not hear these rules")
    parser.add_argument("--fix", action="store_true", help="show what has one right answer, and correct it in the file")
    add_layers(parser)
    add_medium(parser)
    add_catalog(parser)
    parser.add_argument(
        "--format", choices=("text", "json", "sarif", "junit"), default="text", help="form of the output"
    )


def run(options: argparse.Namespace, console: Console) -> int:
    """Checks each file and prints what was found."""
    from msgspec.structs import replace

    from fairledger.catalog.common import Common
    from fairledger.checks.engine import check
    from fairledger.cli.report import manner, open_questions, show_report, verdict
    from fairledger.model.errors import LedgerError
    from fairledger.model.finding import Severity, reaches
    from fairledger.subject.opening import looked_at

    asked = asked_of(options, _facts(options))
    if len(options.files) > 1:
        asked = replace(asked, common=Common())
    hears = _hearing(options)
    reports: list[Report] = []
    trouble: LedgerError | None = None
    for path in options.files:
        try:
            if options.fix:
                _mend(path, options, asked, console)
            report = hears(check(looked_at(path, asked)))
        except LedgerError as error:
            if len(options.files) == 1:
                raise
            console.error(error.sentence())
            trouble = error
            continue
        if options.format == "text":
            if reports:
                console.say()
            show_report(report, console)
        reports.append(report.slim())
    if options.format != "text":
        _write(options, reports, console)
    elif len(reports) > 1:
        console.say()
        console.paragraph(f"{len(reports)} files: {verdict(reports)}", style=manner(reports))
    if trouble is not None:
        return Status.FILE_TROUBLE
    mildest = Severity.ERROR if options.fail_on == "question" else Severity(options.fail_on)
    failed = any(reaches(report.findings, mildest) for report in reports)
    failed = failed or (options.fail_on == "question" and open_questions(reports) > 0)
    return Status.FINDINGS if failed else Status.DONE


def _facts(options: argparse.Namespace) -> Facts:
    """What the options tell of the machines. Raises `WrongUseError` for what is no size and no route."""
    from fairledger.model.errors import WrongUseError
    from fairledger.model.facts import machine
    from fairledger.model.size import parse_size

    try:
        disk = parse_size(options.disk_size).mib if options.disk_size else None
    except ValueError as error:
        raise WrongUseError(str(error)) from error
    return machine(firmware=options.firmware, disk_mib=disk, route=route_of(options.route))


def _hearing(options: argparse.Namespace) -> Callable[[Report], Report]:
    """What ``--only`` and ``--except`` leave of a report. Raises `WrongUseError` for a rule that does not exist."""
    only, leave = ([one for said in told or () for one in said.split(",")] for told in (options.only, options.leave))
    if not only and not leave:
        return lambda report: report
    from msgspec.structs import replace

    from fairledger.checks.rule import all_rules
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean

    known = [rule.id for rule in all_rules()]
    for one in (*only, *leave):
        if one not in known:
            raise WrongUseError(
                f"there is no rule {one!r}", remedy=did_you_mean(one, known) or "fairledger rule --list"
            )

    def heard(report: Report) -> Report:
        kept = tuple(one for one in report.findings if (not only or one.rule in only) and one.rule not in leave)
        return replace(report, findings=kept, left_out=len(report.findings) - len(kept))

    return heard


def _mend(path: Path, options: argparse.Namespace, asked: Asked, console: Console) -> None:
    """Corrects a file, and shows what changed, on standard error where standard output is a machine's."""
    from fairledger.authoring.mend import mend

    mended = mend(path, target=options.target, own=asked.own)
    tell = console.note if options.format != "text" else console.say
    for line in mended.difference:
        tell(line)
    for one in mended.left:
        tell(f"{path}: left as it is, since it would mend nothing: {one}")
    count = len(mended.done)
    if count:
        tell(f"{path}: {count} correction{'' if count == 1 else 's'}: {'; '.join(mended.done)}\n")


def _write(options: argparse.Namespace, reports: list[Report], console: Console) -> None:
    """The machine-readable forms."""
    from fairledger.cli import forms
    from fairledger.cli.report import as_json
    from fairledger.model.finding import Severity

    if options.format == "json":
        console.write_json(as_json(reports))
    elif options.format == "sarif":
        console.write_json(forms.sarif(reports))
    else:
        mildest = Severity.ADVICE if options.fail_on == "question" else Severity(options.fail_on)
        console.lines(forms.junit(reports, mildest).decode().rstrip("\n"))
