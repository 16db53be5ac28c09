"""``fairledger explain``: what an answer file will do, to be read before it is trusted."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_filling, add_layers, add_medium, add_target, asked_of, pairs_of
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger explain autounattend.xml",
    "fairledger explain desk.toml --out desk.html",
    "fairledger explain answers/",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The files, and the form of the explanation."""
    told = "answer files, whoever wrote them, or drafts; folders of them, or - for standard input"
    parser.add_argument("files", nargs="+", type=Path, metavar="FILE", help=told)
    add_target(parser)
    parser.add_argument("--out", type=Path, metavar="PAGE", help="where the page goes (.html); of one file only")
    parser.add_argument("--replace", action="store_true", help="replace a page that exists")
    add_layers(parser)
    add_filling(parser)
    add_medium(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json", "html"), default=None, help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Explains each file."""
    from fairledger.cli.console import json_text
    from fairledger.cli.explaining import Explaining
    from fairledger.fleet.over import over
    from fairledger.model.errors import WrongUseError
    from fairledger.storage.files import STANDARD_INPUT, read_standard_input, write_file
    from fairledger.subject.gathering import gathered

    form = _form(options)
    console.json = form != "text"
    meant = gathered(path for path in options.files if path != Path("-"))
    standard = [STANDARD_INPUT] if Path("-") in options.files else []
    several = len(meant.files) + len(standard) > 1
    if several and form == "html":
        raise WrongUseError("a page explains one file", remedy="name one, or leave --format html and --out out")
    values = pairs_of(options.fill, "fills nothing", "--fill NAME=VALUE")
    work = Explaining(asked_of(options), values, form, console.coloured(), console.width)
    told = [work(path, read_standard_input()) for path in standard]
    rows = []
    for one in (*told, *over(meant.files, work)):
        if one.trouble is not None:
            if not several:
                raise one.trouble
            console.error(one.trouble.sentence())
        elif options.out is not None:
            text = one.text if form == "html" else json_text(one.data)
            write_file(options.out, text.encode("utf-8", "surrogatepass"), replace=options.replace)
            console.note(f"wrote {options.out}")
        elif form == "json":
            rows.append(one.data)
        else:
            console.put(("\n" if rows else "") + one.text)
            rows.append({})
    if form == "json" and options.out is None:
        console.write_json(rows[0] if not several else {"files": rows})
    return Status.DONE


def _form(options: argparse.Namespace) -> str:
    """The form that is asked for, else that of the page's ending. Raises `WrongUseError` where they disagree."""
    from fairledger.model.errors import WrongUseError

    ending = options.out.suffix.lower() if options.out is not None else ""
    form: str = options.format or {".html": "html", ".htm": "html", ".json": "json"}.get(ending, "text")
    if options.out is not None and (form == "text" or (ending == ".json") != (form == "json")):
        told = f"{options.out} does not say in which form it is to be written"
        raise WrongUseError(told, remedy="end its name with .html or .json, or leave --out out")
    return form
