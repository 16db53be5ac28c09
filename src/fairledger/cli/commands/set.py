"""``fairledger set``: answers and portable fields in a draft; all assignments of a call or none."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_target, own_of
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger set desk.toml bypass.network=true identity.name=LMR-DESK-01",
    "fairledger set desk.toml TimeZone=\"GMT Standard Time\" 'account[keeper].groups=Users'",
    "fairledger set ks.cfg 'network[eno1]/--ip=192.0.2.31'",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The draft and the assignments."""
    parser.add_argument("file", type=Path, metavar="FILE", help="a draft, or an answer file")
    parser.add_argument(
        "assignments",
        nargs="+",
        metavar="ADDRESS=VALUE",
        help="[PASS:][COMPONENT/]SETTING=VALUE, items as [name], [#2] or [+]; section.field=VALUE; += and -= for lists;"
        " a line without words by its name alone",
    )
    parser.add_argument("--variant", default="", metavar="NAME", help="in that variant of the draft, which may be new")
    add_target(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Changes the draft and says what was set where."""
    from fairledger.authoring.change import set_in

    own = own_of(options)
    done = set_in(options.file, options.assignments, target=options.target, own=own, variant=options.variant)
    if options.format == "json":
        console.write_json({"changed": str(options.file), "set": [line.text for line in done]})
        return Status.DONE
    for line in done:
        console.say(line.text)
        for remark in line.remarks:
            console.paragraph(remark, indent="    ")
    return Status.DONE
