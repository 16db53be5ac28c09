"""``fairledger about``: one setting, component or pass explained."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from fairledger.cli.console import Console
from fairledger.cli.options import NamedTarget, add_catalog, add_image, own_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.model.target import Target

EXAMPLES = (
    "fairledger about bypass.network",
    "fairledger about windows-11 TimeZone",
    "fairledger about el9 network/--ip",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Target and name."""
    parser.add_argument(
        "target",
        nargs="?",
        action=NamedTarget,
        metavar="TARGET",
        help="a target's name, as in: fairledger targets; portable fields need none",
    )
    parser.add_argument(
        "name",
        metavar="SETTING",
        help="a portable field, a section, a choice; of a target also a setting (or its end), a component or a pass",
    )
    add_image(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints everything about one name."""
    from fairledger.catalog.address import matching
    from fairledger.catalog.catalog import Catalog
    from fairledger.catalog.meant import target_named
    from fairledger.catalog.own import NOTHING
    from fairledger.catalog.passes import passes_of
    from fairledger.catalog.tidy import choices_of
    from fairledger.cli.against import on_medium
    from fairledger.cli.reference import explain_component, explain_end, explain_pass, explain_settings
    from fairledger.families.reference import is_field

    section, _, field = options.name.partition(".")
    if field in choices_of(section):
        return _choice(options, console)
    if options.target is None:
        return _field(options, None, console)
    target = target_named(options.target)
    catalog = Catalog(target.family, target, own_of(options) or NOTHING)
    for one in passes_of(target.family):
        if one.name == options.name:
            return explain_pass(one, catalog, console)
    ended = [one for one in catalog.components() if one.ends == options.name]
    if options.name and (ended or any(one.ends == options.name for one in Catalog(target.family).components())):
        return explain_end(options.name, ended, catalog, console)
    medium = on_medium(options)
    component = catalog.named(options.name)
    if component is None and is_field(options.name):
        return _field(options, target, console)
    if component is not None:
        return explain_component(component, catalog, console, medium)
    found = matching(options.name, catalog)
    explain_settings(found, catalog, console, medium)
    return Status.DONE


def _field(options: argparse.Namespace, target: Target | None, console: Console) -> int:
    """A portable field, or a section."""
    from fairledger.cli.fields import explain_fields
    from fairledger.families.reference import is_field, named
    from fairledger.model.errors import WrongUseError

    if not is_field(options.name):
        remedy = f"for a setting name a target too: fairledger about TARGET {options.name}"
        raise WrongUseError(f"{options.name!r} is no portable field", remedy=remedy)
    return explain_fields(named(options.name), target, console)


def _choice(options: argparse.Namespace, console: Console) -> int:
    """A choice, for the target that was named, else for the newest that heeds it."""
    from fairledger.catalog.meant import target_named
    from fairledger.catalog.targets import all_targets
    from fairledger.catalog.tidy_finding import named, offered
    from fairledger.cli.tidying import as_json, show_one

    if options.target is not None:
        target = target_named(options.target)
    else:
        sure = [one for one in reversed(all_targets()) if one.sure]
        order = sorted(sure, key=lambda one: one.line != "client")
        target = next(one for one in order if any(row.name == options.name for row in offered(one)))
    found = named(options.name, target)
    if console.json:
        console.write_json({"target": target.id, "choices": as_json([found], {})})
        return Status.DONE
    show_one(found, console)
    if options.target is None:
        console.say(f"  as {target.name} has it")
    return Status.DONE
