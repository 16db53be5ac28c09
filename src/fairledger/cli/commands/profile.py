"""``fairledger profile``: the library of profiles."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.status import Status

_FORMS = ("text", "json")


EXAMPLES = (
    "fairledger profile list",
    "fairledger profile show disk/uefi-one-disk",
    "fairledger profile add desk.toml bypass/older-hardware",
    "fairledger profile drop desk.toml bypass/older-hardware",
    "fairledger profile save desk.toml --section disk --as disk/desk",
    "fairledger profile check",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What is to be done with which profiles."""
    actions = parser.add_subparsers(dest="action", metavar="ACTION", required=True)
    every = actions.add_parser("list", help="every profile that drafts here can build on")
    every.add_argument("kind", nargs="?", metavar="KIND", help="only those of that kind, such as disk")
    one = actions.add_parser("show", help="one profile: what it is for and what it says")
    one.add_argument("name", metavar="PROFILE", help="kind/title, as in: fairledger profile list")
    more = actions.add_parser("add", help="make a draft build on profiles")
    less = actions.add_parser("drop", help="let a draft build on them no more")
    for action in (more, less):
        action.add_argument("draft", type=Path, metavar="DRAFT", help="the draft")
        action.add_argument("names", nargs="+", metavar="PROFILE", help="kind/title, as in: fairledger profile list")
    taken = actions.add_parser("save", help="take a section of a draft into a profile to which it then refers")
    taken.add_argument("draft", type=Path, metavar="DRAFT", help="the draft")
    taken.add_argument("--section", required=True, metavar="NAME", help="the section to take")
    taken.add_argument("--as", dest="name", required=True, metavar="KIND/TITLE", help="the new profile's name")
    taken.add_argument("--title", default="", help="what the profile is for, in a few words")
    taken.add_argument("--mine", action="store_true", help="into your own library, not the folder profiles/")
    taken.add_argument("--replace", action="store_true", help="replace the profile if it exists")
    right = actions.add_parser("check", help="whether profiles are right by themselves")
    right.add_argument(
        "names", nargs="*", metavar="PROFILE", help="which ones (default: all of this folder and your own)"
    )
    for action in (every, one, right):
        action.add_argument(
            "--in", dest="folder", type=Path, default=Path(), metavar="FOLDER", help="where the drafts are"
        )
    for action in (every, one, more, less, taken, right):
        action.add_argument("--format", choices=_FORMS, default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Does it."""
    done = {"list": _list, "show": _show, "add": _build, "drop": _build, "save": _save, "check": _check}
    return done[options.action](options, console)


def _list(options: argparse.Namespace, console: Console) -> int:
    from fairledger.authoring.shelf import listed
    from fairledger.cli.library import rows_of, show_library
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean

    found = listed(options.folder)
    if options.kind is not None:
        kinds = {one.name.partition("/")[0] for one in found}
        if options.kind not in kinds:
            remedy = did_you_mean(options.kind, sorted(kinds))
            raise WrongUseError(f"there is no profile of the kind {options.kind!r}", remedy=remedy)
        found = tuple(one for one in found if one.name.startswith(f"{options.kind}/"))
    if console.json:
        console.write_json({"profiles": rows_of(found)})
    else:
        show_library(found, console, whole=options.kind is not None)
    return Status.DONE


def _show(options: argparse.Namespace, console: Console) -> int:
    from fairledger.authoring.shelf import found, listed, shown
    from fairledger.profiles.library import Library

    path = found(options.name, Library(options.folder))
    text = shown(path)
    one = next(one for one in listed(options.folder) if one.name == options.name)
    if console.json:
        from fairledger.cli.library import rows_of

        console.write_json({**rows_of([one])[0], "text": text})
        return Status.DONE
    from fairledger.cli.library import show_one

    show_one(one, text, console)
    return Status.DONE


def _build(options: argparse.Namespace, console: Console) -> int:
    """Adds to what a draft builds on, or takes from it."""
    from fairledger.authoring import shelf

    done = (shelf.add if options.action == "add" else shelf.drop)(options.draft, options.names)
    if console.json:
        console.write_json({"draft": str(done.draft), "profiles": done.profiles, "changed": done.changed})
        return Status.DONE
    for name in dict.fromkeys(options.names):
        now = "now" if name in done.changed else "already"
        if options.action == "add":
            console.say(f"{done.draft} builds on {name} {now}")
        else:
            console.say(f"{done.draft} does not name {name} any more")
    if options.action == "add" and done.changed:
        console.say(f"  what it brings   fairledger show {done.draft} --changes {done.changed[0]}")
    return Status.DONE


def _save(options: argparse.Namespace, console: Console) -> int:
    from fairledger.authoring.shelf import save

    done = save(
        options.draft,
        options.section,
        options.name,
        title=options.title,
        own=options.mine,
        replace=options.replace,
    )
    if console.json:
        console.write_json({"profile": str(done.profile), "draft": str(done.draft)})
        return Status.DONE
    console.say(f"wrote {done.profile}")
    console.say(f"{done.draft} refers to it now: profiles = [..., {options.name!r}]")
    return Status.DONE


def _check(options: argparse.Namespace, console: Console) -> int:
    from fairledger.authoring.shelf import found, listed
    from fairledger.checks.engine import check
    from fairledger.cli.report import as_json, manner, show_report, verdict
    from fairledger.model.finding import Severity, reaches
    from fairledger.profiles.library import Library
    from fairledger.subject.opening import looked_at

    library = Library(options.folder)
    paths = [found(name, library) for name in options.names]
    if not options.names:
        paths = [one.file for one in listed(options.folder) if one.home != "shipped"]
    reports = [check(looked_at(path)) for path in paths]
    if console.json:
        console.write_json(as_json(reports))
    else:
        for report in reports:
            show_report(report, console)
        told = f"{len(reports)} profiles: {verdict(reports)}" if reports else "there are no profiles here"
        console.paragraph(told, style=manner(reports))
    failed = any(reaches(report.findings, Severity.ERROR) for report in reports)
    return Status.FINDINGS if failed else Status.DONE
