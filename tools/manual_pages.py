"""The manual pages: one for the program, one for each command, made of the command line's grammar."""

from __future__ import annotations

import os
from argparse import ArgumentParser
from datetime import datetime

from argparse_manpage.manpage import Manpage

from fairledger import CATALOG_DATE, __version__
from fairledger.cli.parser import COMMANDS, full_parser, inner_parsers, module


def pages() -> dict[str, str]:
    """The pages by file name, in the language of ``man``; the same for the same sources."""
    os.environ.update(COLUMNS="80", SOURCE_DATE_EPOCH=_moment())
    whole = full_parser()
    page, _, _ = _page(whole, "fairledger", str(whole.description)).partition(".SH\nCOMMANDS")
    rows = [f".TP\n\\fBfairledger\\-{_plain(name)}\\fR(1)\n{_plain(line)}\n" for name, line in COMMANDS.items()]
    out = {"fairledger.1": page + ".SH COMMANDS\n" + "".join(rows) + _examples("fairledger demo", "fairledger help")}
    for name, parser in inner_parsers(whole).items():
        out[f"fairledger-{name}.1"] = _command(name, parser)
    return out


def _moment() -> str:
    """Midnight of the catalog's day, in seconds."""
    return str(int(datetime.fromisoformat(f"{CATALOG_DATE}T00:00:00+00:00").timestamp()))


def _command(name: str, parser: ArgumentParser) -> str:
    parser.epilog = None
    for inner in inner_parsers(parser).values():
        inner.epilog = None
    page = _page(parser, f"fairledger {name}", COMMANDS[name])
    title = f".TH FAIRLEDGER {name.upper()} "
    if not page.startswith(title):
        raise SystemExit(f"the page of {name} begins in another way than this tool expects")
    return f'.TH "FAIRLEDGER\\-{name.upper()}" ' + page.removeprefix(title) + _examples(*module(name).EXAMPLES)


def _examples(*lines: str) -> str:
    told = "".join(f"{_plain(line)}\n" for line in lines)
    return f"\n.SH EXAMPLES\n.nf\n{told}.fi\n"


def _plain(text: str) -> str:
    """Text in which nothing is an order for ``man``."""
    bare = text.replace("\\", "\\e").replace("-", "\\-").replace("'", "\\(aq").replace("`", "\\(ga")
    return f"\\&{bare}" if bare.startswith(".") else bare


def _page(parser: ArgumentParser, name: str, about: str) -> str:
    data = {
        "prog": name,
        "project_name": "Fair Ledger",
        "version": __version__,
        "description": about,
        "manual_title": f"Fair Ledger, catalog of {CATALOG_DATE}",
    }
    return str(Manpage(parser, data, format="single-commands-section"))


if __name__ == "__main__":
    from pathlib import Path

    for file, text in pages().items():
        Path(file).write_text(text, encoding="utf-8")
