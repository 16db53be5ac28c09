"""``fairledger find``: settings by plain words."""

from __future__ import annotations

import argparse

from fairledger.cli.console import Console
from fairledger.cli.options import NamedTarget, add_catalog, add_image, own_of
from fairledger.cli.status import Status

_MOST_FIELDS = 4
"""Portable fields that are shown before the settings."""


EXAMPLES = (
    "fairledger find windows-11 skip licence page",
    "fairledger find el9 time server --most 3",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Target, words, and what narrows the search."""
    parser.add_argument(
        "target", action=NamedTarget, metavar="TARGET", help="a target's name, as in: fairledger targets"
    )
    parser.add_argument("words", nargs="+", metavar="WORD", help="what the setting is about, in your own words")
    parser.add_argument("--pass", dest="pass_", default="", metavar="PASS", help="only settings that may stand there")
    parser.add_argument("--component", default="", metavar="NAME", help="only components with this in their name")
    parser.add_argument(
        "--since", default="", action=NamedTarget, metavar="TARGET", help="only what came with that release or later"
    )
    told = "how many settings to show (default: 6; 3 where portable fields fit)"
    parser.add_argument("--most", type=int, metavar="N", help=told)
    add_image(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints what fits, best first."""
    from fairledger.catalog.catalog import Catalog
    from fairledger.catalog.meant import target_named
    from fairledger.catalog.own import NOTHING
    from fairledger.catalog.search import find
    from fairledger.catalog.targets import releases_from
    from fairledger.cli.against import on_medium
    from fairledger.cli.fields import fields_json, show_fields
    from fairledger.cli.listing import found_json, show_found
    from fairledger.families.reference import fitting
    from fairledger.model.errors import WrongUseError

    target = target_named(options.target)
    if options.most is not None and options.most < 1:
        raise WrongUseError("--most must be 1 or more", remedy="leave it out for 6")
    catalog = Catalog(target.family, target, own_of(options) or NOTHING)
    _examine(options, catalog)
    question = " ".join(options.words)
    came_with = releases_from(options.since, target) if options.since else frozenset[str]()
    found = find(question, catalog, pass_=options.pass_, component=options.component, came_with=came_with)
    narrowed = options.pass_ or options.component or options.since
    fields = [] if narrowed else [one.item for one in fitting(question, target)[:_MOST_FIELDS]]
    medium = on_medium(options)
    most = options.most or (3 if fields and options.format == "text" else 6)
    if options.format == "json":
        rows = [*fields_json(fields, medium=medium is not None), *found_json(found[:most], catalog, medium)]
        told = {"target": target.id, "results": rows}
        if medium is not None:
            told["besides"] = [{"kind": kind, "name": name} for kind, name in medium.besides(question)]
        console.write_json(told)
    else:
        show_fields(fields, target, console)
        if found or not fields:
            show_found(question, found, catalog, console, most=most, medium=medium)
    return Status.DONE if fields or found or (medium is not None and medium.besides(question)) else Status.FINDINGS


def _examine(options: argparse.Namespace, catalog) -> None:  # type: ignore[no-untyped-def]
    """Refuses a pass or a component that does not exist."""
    from fairledger.catalog.passes import pass_names
    from fairledger.model.errors import WrongUseError
    from fairledger.model.suggest import did_you_mean

    passes = pass_names(catalog.family)
    if options.pass_ and options.pass_ not in passes:
        raise WrongUseError(f"there is no pass {options.pass_!r}", remedy=did_you_mean(options.pass_, passes))
    names = catalog.names()
    if not any(options.component.casefold() in name.casefold() for name in names):
        remedy = did_you_mean(options.component, names)
        raise WrongUseError(f"no component has {options.component!r} in its name", remedy=remedy)
