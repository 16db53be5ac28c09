"""``fairledger help``: pages to read in the terminal."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path
from typing import Any, ClassVar

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
    parser.add_argument("topic", nargs="*", metavar="TOPIC", help="a page, or a command; without one, all are listed")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints the page, a command's help, or what there is."""
    from fairledger.cli.parser import COMMANDS, full_parser, inner_parsers
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean

    there, topic = topics(), "-".join(options.topic).lower()
    if topic in there:
        _show(PAGES / f"{topic}.md", console)
        return Status.DONE
    first, *rest = options.topic or [""]
    if first in COMMANDS:
        asked = inner_parsers(full_parser())[first]
        asked = inner_parsers(asked).get("".join(rest), asked)
        console.put(asked.format_help())
        return Status.DONE
    if topic:
        names = [*there, *COMMANDS]
        remedy = did_you_mean(topic, names) or f"pages are {', '.join(there)}; and every command has one"
        raise WrongUseError(f"there is no page {topic!r}", remedy=remedy)
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
    from rich.markdown import Heading, Markdown
    from rich.text import Text

    class AtTheLeft(Heading):
        """A heading that stands where its text stands."""

        def __rich_console__(self, *_: object) -> Iterator[Text]:
            yield Text(self.text.plain, style="bold")

    class Page(Markdown):
        elements: ClassVar[dict[str, Any]] = {**Markdown.elements, "heading_open": AtTheLeft}

    page = Page(path.read_text(encoding="utf-8"), code_theme="ansi_dark")
    console.table(page, _WIDEST, {"markdown.code": "bold", "markdown.code_block": "none"})


_WIDEST = 100
