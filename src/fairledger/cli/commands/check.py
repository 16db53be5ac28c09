"""``fairledger check``: drafts, profiles and answer files."""

from __future__ import annotations

import argparse
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_layers, add_medium, add_target, asked_of, route_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.checks.engine import Report
    from fairledger.cli.many import Hearing
    from fairledger.fleet.checking import Checked
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
    parser.add_argument(
        "files",
        nargs="+",
        type=Path,
        metavar="FILE",
        help="drafts, profiles or answer files, folders of them, or - for standard input",
    )
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
    parser.add_argument("--summary", action="store_true", help="of several files, a line each")
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
    from fairledger.cli.many import show_beside, show_passed_over, summary_line
    from fairledger.cli.report import manner, open_questions, verdict
    from fairledger.fleet.checking import Beside, with_beside
    from fairledger.model.finding import Finding, Severity, reaches
    from fairledger.subject.gathering import gathered

    hears = _hearing(options)
    standard = Path("-") in options.files
    meant = gathered(path for path in options.files if path != Path("-"))
    beside, together = Beside(), list[Finding]()
    reports: list[Report] = []
    text, several = options.format == "text", len(meant.files) + standard > 1
    trouble = False
    for done in _checked(options, meant.files, hears, console, standard=standard):
        if done.trouble is not None or done.report is None:
            if not several and done.trouble is not None:
                raise done.trouble
            console.error(done.trouble.sentence() if done.trouble is not None else str(done.path))
            trouble = True
            continue
        found = [*beside.look(done)] if several else []
        together += found
        if text and options.summary and several:
            console.paragraph(summary_line(done.report), hang="    ", style=manner([done.report]))
        elif text:
            console.put(("\n" if reports else "") + done.told)
        reports.append(with_beside(done.report, found, hears) if found else done.report)
    if not text:
        _write(options, reports, console)
    elif several:
        heard = [one for report in reports for one in report.findings if one in together]
        show_beside(heard, console)
        show_passed_over(meant.passed_over, console)
        console.say()
        count = f"{len(reports)} file{'' if len(reports) == 1 else 's'}"
        console.paragraph(f"{count}: {verdict(reports)}", style=manner(reports))
    elif text:
        show_passed_over(meant.passed_over, console)
    if trouble:
        return Status.FILE_TROUBLE
    mildest = Severity.ERROR if options.fail_on == "question" else Severity(options.fail_on)
    failed = any(reaches(report.findings, mildest) for report in reports)
    failed = failed or (options.fail_on == "question" and open_questions(reports) > 0)
    return Status.FINDINGS if failed else Status.DONE


def _checked(
    options: argparse.Namespace, files: Sequence[Path], hears: Hearing, console: Console, *, standard: bool
) -> Iterator[Checked]:
    """What is found in each file, those corrected before that can be."""
    from fairledger.cli.many import Teller, silent
    from fairledger.fleet.checking import Checked, Checking
    from fairledger.fleet.over import over
    from fairledger.model.errors import LedgerError, WrongUseError
    from fairledger.storage.files import STANDARD_INPUT, read_standard_input

    asked = asked_of(options, _facts(options))
    quiet = options.format != "text" or (options.summary and len(files) > 1)
    tell = silent if quiet else Teller(console.coloured(), console.width)
    work = Checking(asked, hears, tell, several=len(files) + standard > 1)
    if standard:
        if options.fix:
            raise WrongUseError("standard input cannot be corrected", remedy="name a file, or leave --fix out")
        yield work(STANDARD_INPUT, read_standard_input())
    if options.fix:
        for path in files:
            try:
                _mend(path, options, asked, console)
            except LedgerError as error:
                yield Checked(path, None, error)
                continue
            yield work(path)
        return
    yield from over(files, work)


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


def _hearing(options: argparse.Namespace) -> Hearing:
    """What ``--only`` and ``--except`` leave of a report. Raises `WrongUseError` for a rule that does not exist."""
    from fairledger.cli.many import Hearing

    only, leave = ([one for said in told or () for one in said.split(",")] for told in (options.only, options.leave))
    if not only and not leave:
        return Hearing()
    from fairledger.checks.rule import all_rules
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean

    known = [rule.id for rule in all_rules()]
    for one in (*only, *leave):
        if one not in known:
            raise WrongUseError(
                f"there is no rule {one!r}", remedy=did_you_mean(one, known) or "fairledger rule --list"
            )
    return Hearing(tuple(only), tuple(leave))


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
