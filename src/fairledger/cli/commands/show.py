"""``fairledger show``: a draft resolved, each answer with its origin."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli import status
from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, own_of


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The draft."""
    parser.add_argument("file", type=Path, metavar="FILE", help="the draft")
    parser.add_argument("--origin", action="store_true", help="say also what each answer overrode")
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints head, answers by pass, and how the draft stands."""
    from fairledger.checks.engine import check_resolved
    from fairledger.cli.view import as_json, show_sheet
    from fairledger.profiles.library import Library
    from fairledger.profiles.resolve import resolve_file

    resolved = resolve_file(options.file, Library(options.file.parent, own_of(options)))
    report = check_resolved(resolved)
    if options.format == "json":
        console.write_json(as_json(resolved, report))
        return status.DONE
    show_sheet(resolved, report, console, overrides=options.origin)
    return status.DONE
