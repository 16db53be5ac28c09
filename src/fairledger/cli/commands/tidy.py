"""``fairledger tidy``: what comes after the bare system."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.options import NamedTarget
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger tidy list windows-11 right click",
    "fairledger tidy about windows-11 desktop.menus",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What is to be told of which choices."""
    actions = parser.add_subparsers(dest="action", metavar="ACTION", required=True)
    every = actions.add_parser("list", help="the choices of a target, by what one wants")
    every.add_argument(
        "target", action=NamedTarget, metavar="TARGET", help="a target's name, as in: fairledger targets"
    )
    every.add_argument("words", nargs="*", metavar="WORD", help="a topic, or what it is about in your own words")
    one = actions.add_parser("about", help="one choice: its values, what each changes, and how it is taken back")
    one.add_argument("target", action=NamedTarget, metavar="TARGET", help="a target's name")
    one.add_argument("name", metavar="CHOICE", help="section.choice, as in: fairledger tidy list")
    for action in (every, one):
        action.add_argument(
            "--in", dest="folder", type=Path, default=Path(), metavar="FOLDER", help="where drafts with their tidy/ are"
        )
        action.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Tells it."""
    from fairledger.catalog.meant import target_named
    from fairledger.catalog.own import beside
    from fairledger.catalog.tidy_finding import fitting, fitting_apps, named, offered
    from fairledger.cli.tidying import as_json, show_list, show_one

    target = target_named(options.target)
    own = beside(options.folder).choices
    if options.action == "about":
        found = named(options.name, target, own)
        if console.json:
            console.write_json({"choices": as_json([found], {})})
        else:
            show_one(found, console)
        return Status.DONE
    words = " ".join(options.words)
    rows = fitting(words, offered(target, own)) if words else offered(target, own)
    apps = fitting_apps(words, target)
    if console.json:
        console.write_json({"choices": as_json(rows, apps)})
    else:
        show_list(words, rows, apps, target, console)
    return Status.DONE
