"""``fairledger values``: everyday values by plain words, with what each installer wants to read."""

from __future__ import annotations

import argparse

from fairledger.cli.console import Console
from fairledger.cli.status import Status

_KINDS = ("time-zone", "language", "keyboard", "region", "firewall-group", "feature", "capability", "power-plan")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """List and words."""
    parser.add_argument("kind", choices=_KINDS, metavar="LIST", help=f"one of {', '.join(_KINDS)}")
    parser.add_argument("words", nargs="*", metavar="WORD", help="what people call it: a city, a language, a country")
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints the rows that fit."""
    from fairledger.catalog.lists import look_up
    from fairledger.cli.listing import show_values

    words = " ".join(options.words)
    rows = look_up(options.kind, words)
    if options.format == "json":
        listed = [
            {"name": row.name, "windows": row.windows or None, "linux": row.linux or None, "more": row.more}
            for row in rows
        ]
        console.write_json({"list": options.kind, "values": listed})
    else:
        show_values(options.kind, words, rows, console)
    return Status.DONE
