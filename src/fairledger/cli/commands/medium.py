"""``fairledger medium``: what a medium is and holds."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.status import Status


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Which medium."""
    parser.add_argument(
        "path", type=Path, metavar="PATH", help="a disc (ISO), a folder, or an image file (install.wim, .esd, .swm)"
    )
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Looks at it, without copying or mounting it."""
    from fairledger.cli.media import as_json, show
    from fairledger.media.medium import look_at

    medium = look_at(options.path)
    if console.json:
        console.write_json(as_json(medium))
    else:
        show(medium, console)
    return Status.DONE
