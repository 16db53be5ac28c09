"""``fairledger values``: everyday values by plain words, with what each installer wants to read."""

from __future__ import annotations

import argparse

from fairledger.cli.console import Console
from fairledger.cli.options import add_image
from fairledger.cli.status import Status

_OF_MEDIA = ("edition", "package", "app", "group", "environment", "repository")
"""Lists that only a medium has."""
_KINDS = ("time-zone", "language", "keyboard", "region", "firewall-group", "feature", "capability", "power-plan")


EXAMPLES = (
    "fairledger values time-zone lisbon",
    "fairledger values keyboard swiss german",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """List and words."""
    told = f"one of {', '.join(_KINDS)}; of a medium {', '.join(_OF_MEDIA)}, and its features"
    parser.add_argument("kind", choices=(*_KINDS, *_OF_MEDIA), metavar="LIST", help=told)
    parser.add_argument("words", nargs="*", metavar="WORD", help="what people call it: a city, a language, a country")
    parser.add_argument("--most", type=int, default=15, metavar="N", help="how many to show (default: 15)")
    add_image(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints the rows that fit."""
    from fairledger.catalog.lists import look_up
    from fairledger.cli.listing import show_values

    words = " ".join(options.words)
    if options.medium is not None:
        return _on_medium(options, words, console)
    if options.kind in _OF_MEDIA:
        from fairledger.model.errors import WrongUseError

        raise WrongUseError(f"only a medium has a list of {options.kind}s", remedy="name one: --medium MEDIUM")
    rows = look_up(options.kind, words)
    if options.format == "json":
        listed = [
            {"name": row.name, "windows": row.windows or None, "linux": row.linux or None, "more": row.more}
            for row in rows
        ]
        console.write_json({"list": options.kind, "values": listed})
    else:
        show_values(options.kind, words, rows, max(options.most, 1), console)
    return Status.DONE if rows else Status.FINDINGS


def _on_medium(options: argparse.Namespace, words: str, console: Console) -> int:
    """What is on the medium that fits."""
    from fairledger.cli.against import on_medium, show_why
    from fairledger.model.errors import WrongUseError
    from fairledger.model.showing import visible

    medium = on_medium(options)
    assert medium is not None
    lists = medium.listed()
    if options.kind not in lists:
        remedy = f"leave --medium out, or ask for one of {', '.join(lists)}"
        raise WrongUseError(f"no medium has a list of {options.kind}s", remedy=remedy)
    names = lists[options.kind]
    found = [name for kind, name in medium.besides(words) if kind == options.kind]
    if console.json:
        told = None if names is None else [{"name": name} for name in found]
        console.write_json({"list": options.kind, "medium": medium.title, "values": told})
        return Status.DONE if found or names is None else Status.FINDINGS
    if names is None:
        console.say(f"nobody knows which {options.kind}s {medium.title} has")
        show_why(medium, console)
    elif not found:
        console.say(f"no {options.kind} on {medium.title} fits {words!r}" if words else f"{medium.title} has none")
    for name in found[: max(options.most, 1)]:
        console.say(visible(name))
    if len(found) > options.most:
        console.say(f"\n{len(found) - options.most} more: a word narrows them, --most {len(found)} shows all")
    return Status.DONE if found or names is None else Status.FINDINGS
