"""``fairledger help``: pages to read in the terminal."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger help addresses",
    "fairledger help write",
)
"""Shown below the help."""
PAGES = Path(__file__).parent.parent / "pages"


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """A topic, or a command."""
    parser.add_argument("topic", nargs="?", metavar="TOPIC", help="a page, or a command; without one, all are listed")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints the page, a command's help, or what there is."""
    from fairledger.cli.parser import COMMANDS, full_parser, inner_parsers
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean

    there = topics()
    if options.topic in there:
        _show(PAGES / f"{options.topic}.md", console)
        return Status.DONE
    if options.topic in COMMANDS:
        console.put(inner_parsers(full_parser())[options.topic].format_help())
        return Status.DONE
    if options.topic is not None:
        names = [*there, *COMMANDS]
        remedy = did_you_mean(options.topic, names) or f"pages are {', '.join(there)}; and every command has one"
        raise WrongUseError(f"there is no page {options.topic!r}", remedy=remedy)
    console.put(full_parser().format_help())
    console.say("\npages to read (fairledger help TOPIC):")
    for name, title in there.items():
        console.say(f"  {name:<16} {title}")
    return Status.DONE


def topics() -> dict[str, str]:
    """The pages by name, with their titles."""
    from fairledger.storage.looking import entries

    return {
        path.stem: path.read_text(encoding="utf-8").partition("\n")[0].removeprefix("# ")
        for path in entries(PAGES, ".md")
    }


def _show(path: Path, console: Console) -> None:
    from rich.markdown import Markdown

    console.table(Markdown(path.read_text(encoding="utf-8"), code_theme="bw"))
