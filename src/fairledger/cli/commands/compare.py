"""``fairledger compare``: what two files, drafts or answer files, really say differently."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_filling, add_layers, add_target, asked_of, pairs_of
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger compare old.xml new.xml",
    "fairledger compare desk.toml autounattend.xml --variant bios --fill number=01",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Two files, and the older one that both came from."""
    parser.add_argument("a", type=Path, metavar="A", help="a draft or an answer file")
    parser.add_argument("b", type=Path, metavar="B", help="another one")
    parser.add_argument("--base", type=Path, metavar="OLD", help="the file that both came from: says who changed what")
    add_target(parser)
    add_layers(parser)
    add_filling(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Compares and prints; status 1 if they differ."""
    from fairledger.cli import differences
    from fairledger.exchange.compare import changes, compare
    from fairledger.subject.filling import opened_with
    from fairledger.subject.settling import settled

    paths = [options.a, options.b, *([options.base] if options.base is not None else [])]
    values = pairs_of(options.fill, "fills nothing", "--fill NAME=VALUE")
    a, b, *rest = map(settled, opened_with(paths, asked_of(options), values))
    if rest:
        base = rest[0]
        found = changes(base, a, b)
        if options.format == "json":
            console.write_json(differences.changes_json(found))
        else:
            differences.show_changes(found, base, a, b, console)
        return Status.FINDINGS if found else Status.DONE
    comparison = compare(a, b)
    if options.format == "json":
        console.write_json(differences.as_json(comparison))
    else:
        differences.show(comparison, a, b, console)
    return Status.DONE if comparison.same else Status.FINDINGS
