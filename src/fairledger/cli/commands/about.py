"""``fairledger about``: one setting, component or pass explained."""

from __future__ import annotations

import argparse

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_image, own_of
from fairledger.cli.status import Status


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Target and name."""
    parser.add_argument("target", metavar="TARGET", help="a target's name, as in: fairledger targets")
    parser.add_argument("name", metavar="SETTING", help="a setting's path or its tail, a component, or a pass")
    add_image(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints everything about one name."""
    from fairledger.catalog.address import matching
    from fairledger.catalog.catalog import Catalog
    from fairledger.catalog.own import NOTHING
    from fairledger.catalog.passes import passes_of
    from fairledger.catalog.targets import target_named
    from fairledger.cli.against import on_medium
    from fairledger.cli.reference import explain_component, explain_end, explain_pass, explain_settings

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
    if component is not None:
        return explain_component(component, catalog, console, medium)
    found = matching(options.name, catalog)
    explain_settings(found, catalog, console, medium)
    return Status.DONE
