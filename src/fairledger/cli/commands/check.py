"""``fairledger check``: drafts, profiles and answer files."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli import status
from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_layers, own_of, wish_of


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Files, and what is known of the machines."""
    parser.add_argument("files", nargs="+", type=Path, metavar="FILE", help="drafts, profiles or answer files")
    parser.add_argument("--target", help="the target of answer files (default: guessed from what they say)")
    parser.add_argument("--firmware", choices=("uefi", "bios"), help="firmware of the machines, for answer files")
    parser.add_argument("--disk-size", metavar="SIZE", help='size of the disk, such as "256 GB", for answer files')
    parser.add_argument("--root", type=Path, metavar="FOLDER", help="where files are that an answer file takes in")
    parser.add_argument(
        "--fail-on",
        choices=("error", "warning", "advice"),
        default="error",
        help="mildest finding with status 1",
    )
    add_layers(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Checks each file and prints what was found."""
    from fairledger.checks.engine import check_file
    from fairledger.cli.report import as_json, show_report, verdict
    from fairledger.model.errors import LedgerError, WrongUseError
    from fairledger.model.finding import reaches
    from fairledger.model.size import parse_size
    from fairledger.model.target import Facts

    try:
        disk = parse_size(options.disk_size).mib if options.disk_size else None
    except ValueError as error:
        raise WrongUseError(str(error)) from error
    facts = Facts(firmware=options.firmware, disk_mib=disk)
    own = own_of(options)
    reports = []
    trouble: LedgerError | None = None
    for path in options.files:
        try:
            report = check_file(
                path, target=options.target, facts=facts, root=options.root, own=own, wish=wish_of(options)
            )
        except LedgerError as error:
            if len(options.files) == 1:
                raise
            console.error(error.sentence())
            trouble = error
            continue
        reports.append(report)
        if options.format == "text":
            if len(reports) > 1:
                console.say()
            show_report(report, console)
    if options.format == "json":
        console.write_json(as_json(reports))
    elif len(reports) > 1:
        console.say(f"\n{len(reports)} files: {verdict(reports, console)}")
    if trouble is not None:
        return status.FILE_TROUBLE
    failed = any(reaches(report.findings, options.fail_on) for report in reports)
    return status.FINDINGS if failed else status.DONE
