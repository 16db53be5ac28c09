"""``fairledger export``: the catalog of a target, for other programs."""

from __future__ import annotations

import argparse

from fairledger.cli import status
from fairledger.cli.console import Console


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Target and form."""
    parser.add_argument("target", metavar="TARGET", help="a target's name, as in: fairledger targets")
    parser.add_argument("--as", dest="form", choices=("json",), default="json", help="form of the export")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints one document."""
    from fairledger.catalog.export import as_json
    from fairledger.catalog.targets import target_named

    console.write_json(as_json(target_named(options.target)))
    return status.DONE
