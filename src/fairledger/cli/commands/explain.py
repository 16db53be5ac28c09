"""``fairledger explain``: what an answer file will do, to be read before it is trusted."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_medium, add_target, asked_of
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger explain autounattend.xml",
    "fairledger explain desk.toml --format html --out desk.html",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The file, and the form of the explanation."""
    parser.add_argument("file", type=Path, metavar="FILE", help="an answer file, whoever wrote it; or a draft")
    add_target(parser)
    parser.add_argument("--out", type=Path, metavar="PAGE", help="where the page goes (with --format html)")
    parser.add_argument("--replace", action="store_true", help="replace a page that exists")
    add_medium(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json", "html"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Explains one file."""
    from fairledger.checks.against import against_medium
    from fairledger.cli.against import against_json, sentences, show_against
    from fairledger.cli.story import as_json, page, show
    from fairledger.events.story import story_of
    from fairledger.subject.opening import opened

    subject = opened(options.file, asked_of(options))
    told = story_of(subject)
    medium = against_medium(subject)
    if options.format == "json":
        console.write_json({**as_json(told), **against_json(medium)})
    elif options.format == "html":
        from fairledger.catalog.secrecy import is_secret
        from fairledger.model.showing import passwords_in
        from fairledger.storage.files import write_file

        secret = bool(passwords_in(subject.text)) or any(is_secret(seat) and seat.value for seat in subject.seats)
        lines = [text for _, text in sentences(medium)] if medium is not None else []
        text = page(told, subject.data, secret=secret, medium=lines)
        if options.out is None:
            console.lines(text.rstrip("\n"))
        else:
            write_file(options.out, text.encode("utf-8", "surrogatepass"), replace=options.replace)
            console.note(f"wrote {options.out}")
    else:
        show(told, console)
        if medium is not None:
            console.say()
            show_against(medium, console)
    return Status.DONE
