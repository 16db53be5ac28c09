"""Options that several commands share."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fairledger.catalog.own import Own
    from fairledger.profiles.resolve import Wish


def add_catalog(parser: argparse.ArgumentParser) -> None:
    """The folder of catalog files that are added."""
    parser.add_argument(
        "--catalog",
        type=Path,
        metavar="FOLDER",
        help="catalog files of your own (default: the folder catalog/ beside the file)",
    )


def add_layers(parser: argparse.ArgumentParser) -> None:
    """A draft's variant, and profiles on top of it."""
    parser.add_argument("--variant", default="", metavar="NAME", help="a variant that the draft holds")
    parser.add_argument(
        "--with",
        dest="on_top",
        action="append",
        default=[],
        metavar="PROFILE",
        help="a profile laid over everything else; may be repeated",
    )


def wish_of(options: argparse.Namespace) -> Wish | None:
    """What was asked of the draft beyond its file; None for nothing, which spares an import."""
    if not options.variant and not options.on_top:
        return None
    from fairledger.profiles.resolve import Wish

    return Wish(variant=options.variant, on_top=tuple(options.on_top))


def own_of(options: argparse.Namespace) -> Own | None:
    """What that folder adds; None if nobody named one. Raises `CatalogError`, `FileTroubleError`."""
    if options.catalog is None:
        return None
    from fairledger.catalog.own import own_catalog

    return own_catalog(options.catalog)
