"""``fairledger unset``: takes answers and portable fields out of a draft; all of a call or none."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_target, own_of
from fairledger.cli.status import Status

EXAMPLES = ("fairledger unset desk.toml bypass.network OOBE/HideEULAPage",)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The draft and the addresses."""
    parser.add_argument("file", type=Path, metavar="FILE", help="a draft, or an answer file")
    parser.add_argument("addresses", nargs="+", metavar="ADDRESS", help="as for set, without a value")
    parser.add_argument("--variant", default="", metavar="NAME", help="of that variant of the draft")
    add_target(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Changes the draft and says what was taken out."""
    from fairledger.authoring.change import unset_in

    own = own_of(options)
    done = unset_in(options.file, options.addresses, target=options.target, own=own, variant=options.variant)
    if options.format == "json":
        console.write_json({"changed": str(options.file), "unset": [line.text for line in done]})
        return Status.DONE
    for line in done:
        console.say(f"took out {line.text}")
    return Status.DONE
