"""``fairledger targets``: what operating systems it knows."""

from __future__ import annotations

import argparse

from fairledger.cli import status
from fairledger.cli.console import Console


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """No arguments but the form."""
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints the table of targets."""
    from fairledger.catalog.targets import all_targets

    rows = all_targets()
    if options.format == "json":
        console.write_json({"targets": rows})
        return status.DONE
    from rich.table import Table

    table = Table(box=None, padding=(0, 2, 0, 0), header_style="bold")
    for head in ("target", "name", "build", "released", "architectures"):
        table.add_column(head, overflow="fold")
    for row in rows:
        name = row.name if row.sure else f"{row.name} (not certain)"
        table.add_row(row.id, name, row.build, row.released, ", ".join(row.architectures))
    console.table(table)
    for row in rows:
        if row.editions:
            console.paragraph(f"{', '.join(row.editions)}", indent=f"\neditions of {row.id}: ", hang="  ")
    console.say(f"\nBegin with: fairledger start FILE --target {rows[0].id}")
    return status.DONE
