"""``fairledger export``: the catalog and the schemas of a target, for other programs."""

from __future__ import annotations

import argparse

from fairledger.cli.console import Console
from fairledger.cli.options import NamedTarget, add_catalog, own_of
from fairledger.cli.status import Status

EXAMPLES = (
    "fairledger export windows-11 --as schema --out windows-11.schema.json",
    "fairledger export windows-11 --as relaxng --out windows-11.rng",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Target and form."""
    parser.add_argument(
        "target", action=NamedTarget, metavar="TARGET", help="a target's name, as in: fairledger targets"
    )
    parser.add_argument(
        "--as",
        dest="form",
        choices=("json", "relaxng", "schema"),
        default="json",
        help="json: the catalog; relaxng: a grammar of its answer files (XML only); "
        "schema: a JSON Schema for drafts and profiles",
    )
    add_catalog(parser)


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints one document."""
    from fairledger.catalog.catalog import Catalog
    from fairledger.catalog.meant import target_named
    from fairledger.catalog.own import NOTHING

    target = target_named(options.target)
    catalog = Catalog(target.family, target, own_of(options) or NOTHING)
    if options.form == "relaxng":
        return _grammar(catalog, console)
    if options.form == "schema":
        from fairledger.authoring.schema import schema

        console.write_json(schema(catalog))
    else:
        from fairledger.catalog.export import as_json

        console.write_json(as_json(catalog))
    return Status.DONE


def _grammar(catalog, console: Console) -> int:  # type: ignore[no-untyped-def]
    from fairledger.families.registry import family_named
    from fairledger.model.errors import WrongUseError

    made = family_named(catalog.family).grammar(catalog)
    if made is None:
        told = f"the answer files of {catalog.target.name} are not XML, so that there is no RELAX NG grammar of them"
        raise WrongUseError(told, remedy="use --as json, or --as schema for its drafts")
    console.lines(made.decode().rstrip("\n"))
    return Status.DONE
