"""Options that several commands share."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from fairledger.catalog.own import Own


def add_catalog(parser: argparse.ArgumentParser) -> None:
    """The folder of catalog files that are added."""
    parser.add_argument(
        "--catalog",
        type=Path,
        metavar="FOLDER",
        help="catalog files of your own (default: the folder catalog/ beside the file)",
    )


def own_of(options: argparse.Namespace) -> Own | None:
    """What that folder adds; None if nobody named one. Raises `CatalogError`, `FileTroubleError`."""
    if options.catalog is None:
        return None
    from fairledger.catalog.own import own_catalog

    return own_catalog(options.catalog)
