"""``fairledger explain``: what an answer file will do, to be read before it is trusted."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, asked_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.events.explain import Explanation, Item

_STYLES = {"danger": "error", "care": "warning"}


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The file, and the form of the explanation."""
    parser.add_argument("file", type=Path, metavar="FILE", help="an answer file, whoever wrote it; or a draft")
    parser.add_argument("--target", help="what it is for (default: guessed from what the file says)")
    parser.add_argument("--out", type=Path, metavar="PAGE", help="where the page goes (with --format html)")
    parser.add_argument("--replace", action="store_true", help="replace a page that exists")
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json", "html"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Explains one file."""
    from fairledger.events.explain import explain
    from fairledger.subject.opening import opened
    from fairledger.subject.settling import with_companions

    subject = with_companions(opened(options.file, asked_of(options)))
    told = explain(subject)
    if options.format == "json":
        console.write_json(told)
    elif options.format == "html":
        from fairledger.events.page import page
        from fairledger.storage.files import write_file

        text = page(told, subject.data)
        if options.out is None:
            console.say(text.rstrip("\n"))
        else:
            write_file(options.out, text.encode("utf-8", "surrogatepass"), replace=options.replace)
            console.note(f"wrote {options.out}")
    else:
        _show(told, console)
    return Status.DONE


def _show(told: Explanation, console: Console) -> None:
    basis = f" ({told.basis})" if told.basis not in ("", "stated") else ""
    console.say(console.style(f"{told.file}", "bold") + f"  for {told.target}{basis}")
    console.say()
    for item in told.gist:
        _item(item, console)
    for chapter in told.chapters:
        console.say("\n" + console.style(chapter.title, "bold"))
        for item in chapter.items:
            _item(item, console)


def _item(item: Item, console: Console) -> None:
    import textwrap

    from fairledger.model.sheet import visible

    mark = {"danger": "!! ", "care": "!  "}.get(item.tone, "   ")
    line = f"  (line {item.line})" if item.line else ""
    folded = textwrap.wrap(f"{visible(item.text)}{line}", console.width - 6, break_on_hyphens=False) or [""]
    for at, part in enumerate(folded):
        text = (mark if at == 0 else "   ") + part
        console.say("  " + (console.style(text, _STYLES[item.tone]) if item.tone else text))
    for quoted in item.quote.split("\n") if item.quote else ():
        for part in textwrap.wrap(visible(quoted), console.width - 12, break_on_hyphens=False) or [""]:
            console.say(console.style("       | ", "dim") + part)
    for warning in item.warnings:
        console.say("       " + console.style(f"^ {warning}", "warning"))
