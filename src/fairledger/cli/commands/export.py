"""``fairledger export``: the catalog and the schemas of a target, for other programs."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from fairledger.cli.console import Console
from fairledger.cli.options import NamedTarget, add_catalog, own_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.catalog.catalog import Catalog

EXAMPLES = (
    "fairledger export windows-11 --as schema --out windows-11.schema.json",
    "fairledger export windows-11 --as relaxng --out windows-11.rng",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Target, form, and where it goes."""
    parser.add_argument(
        "target", action=NamedTarget, metavar="TARGET", help="a target's name, as in: fairledger targets"
    )
    parser.add_argument(
        "--as",
        dest="form",
        choices=("json", "relaxng", "schema"),
        help="json: the catalog; relaxng: a grammar of its answer files (XML only); "
        "schema: a JSON Schema for drafts and profiles (default: by the ending of --out, else json)",
    )
    parser.add_argument("--out", type=Path, metavar="FILE", help="write it there: .json, .rng, .schema.json")
    parser.add_argument("--replace", action="store_true", help="replace a file that exists")
    add_catalog(parser)


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints or writes one document."""
    from fairledger.authoring.editors import schema_line
    from fairledger.catalog.catalog import Catalog
    from fairledger.catalog.meant import target_named
    from fairledger.catalog.own import NOTHING
    from fairledger.storage.files import write_file

    form = _form(options)
    target = target_named(options.target)
    text = _document(Catalog(target.family, target, own_of(options) or NOTHING), form)
    if options.out is None:
        console.put(text)
        return Status.DONE
    write_file(options.out, text.encode(), replace=options.replace)
    console.say(f"wrote {options.out}")
    if form == "schema":
        console.say(f"  at the head of a draft beside it   {schema_line(options.out.name)}")
        console.say("  how editors use it                 fairledger help editors")
    return Status.DONE


def _form(options: argparse.Namespace) -> str:
    """The form that is asked for, else that of the file's ending. Raises `WrongUseError` where they disagree."""
    from fairledger.model.errors import WrongUseError

    if options.out is None:
        return options.form or "json"
    name = options.out.name.lower()
    ending = "schema" if name.endswith(".schema.json") else {".json": "json", ".rng": "relaxng"}.get(Path(name).suffix)
    form: str | None = options.form or ending
    if form is None or (form == "relaxng") != (ending == "relaxng"):
        remedy = "end its name with .json, .schema.json or .rng"
        raise WrongUseError(f"{options.out} does not say in which form it is to be written", remedy=remedy)
    return form


def _document(catalog: Catalog, form: str) -> str:
    from fairledger.authoring.schema import schema
    from fairledger.catalog.export import as_json
    from fairledger.cli.console import json_text
    from fairledger.families.registry import family_named
    from fairledger.model.errors import WrongUseError

    if form != "relaxng":
        return json_text(schema(catalog) if form == "schema" else as_json(catalog))
    made = family_named(catalog.family).grammar(catalog)
    if made is None:
        name = catalog.target.name if catalog.target is not None else catalog.family
        told = f"the answer files of {name} are not XML, so that there is no RELAX NG grammar of them"
        raise WrongUseError(told, remedy="use --as json, or --as schema for its drafts")
    return made.decode().rstrip("\n") + "\n"
