"""``fairledger show``: a draft resolved, each answer with its origin."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_layers, add_medium, asked_of
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger show desk.toml",
    "fairledger show desk.toml --disk",
    "fairledger show desk.toml --changes bypass/older-hardware",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The draft."""
    parser.add_argument("file", type=Path, metavar="FILE", help="the draft")
    parser.add_argument("--origin", action="store_true", help="say also what each answer overrode")
    parser.add_argument("--changes", default="", metavar="PROFILE", help="say what a profile brings to the draft")
    parser.add_argument("--tidy", action="store_true", help="what its choices change, and how that is taken back")
    parser.add_argument("--disk", action="store_true", help="draw the disks to scale instead")
    parser.add_argument("--figure", type=Path, metavar="FILE", help="draw the disks into a PNG or SVG file")
    add_layers(parser)
    add_medium(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints head, answers by pass, and how the draft stands."""
    from fairledger.checks.against import against_medium
    from fairledger.checks.engine import check
    from fairledger.cli.against import against_json
    from fairledger.cli.view import as_json, show_sheet
    from fairledger.subject.opening import opened_draft

    if options.changes:
        return _changes(options, console)
    draft = opened_draft(options.file, asked_of(options))
    if options.tidy:
        from fairledger.cli.tidying import show_chosen

        return show_chosen(draft, console)
    if options.disk or options.figure:
        return _disks(options, draft, console)
    medium = against_medium(draft)
    if options.format == "json":
        console.write_json({**as_json(draft), **against_json(medium)})
        return Status.DONE
    show_sheet(draft, check(draft), console, overrides=options.origin, medium=medium)
    return Status.DONE


def _disks(options: argparse.Namespace, draft, console: Console) -> int:  # type: ignore[no-untyped-def]
    """The disks to scale."""
    from fairledger.cli import disks

    if options.figure:
        from fairledger.cli.disk_figure import figure

        figure(draft, options.figure)
        console.note(f"wrote {options.figure}")
    if console.json:
        console.write_json({"disks": disks.as_json(draft)})
    elif options.disk:
        disks.draw(draft, console)
    return Status.DONE


def _changes(options: argparse.Namespace, console: Console) -> int:
    """What one of the draft's profiles brings."""
    from msgspec.structs import replace

    from fairledger.cli.library import show_brought
    from fairledger.exchange.brings import brings
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean
    from fairledger.profiles.resolve import Selection
    from fairledger.subject.opening import opened_draft

    asked = asked_of(options)
    whole = opened_draft(options.file, asked)
    names = [name for name, _ in whole.draft.profiles] if whole.draft is not None else []
    if options.changes not in names:
        remedy = did_you_mean(options.changes, names) or "name one of its profiles"
        raise WrongUseError(f"the draft does not build on {options.changes!r}", remedy=remedy, candidates=names)
    without = replace(asked.selection or Selection(), leave_out=options.changes)
    rows, alike = brings(opened_draft(options.file, replace(asked, selection=without)), whole)
    if console.json:
        listed = [
            {
                "pass": one.pass_,
                "component": one.component,
                "setting": one.setting,
                "before": one.before,
                "after": one.after,
            }
            for one in rows
        ]
        console.write_json({"profile": options.changes, "answers": listed, "same_in_effect": list(alike)})
    else:
        show_brought(options.changes, rows, alike, console)
    return Status.DONE
