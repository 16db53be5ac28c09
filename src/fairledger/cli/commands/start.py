"""``fairledger start``: begin a new draft."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.status import Status


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The file and what is known of the job."""
    parser.add_argument("file", type=Path, metavar="FILE", help="the draft to be written, such as desk.toml")
    parser.add_argument("--target", required=True, help="a target's name, as in: fairledger targets")
    parser.add_argument("--title", help="what the draft is for (default: from the file's name)")
    parser.add_argument("--edition", help="which edition is installed, such as Pro")
    parser.add_argument("--arch", help="architecture of the machines (default: the target's first)")
    parser.add_argument("--firmware", choices=("uefi", "bios"), help="firmware of the machines, for the checks")
    parser.add_argument(
        "--profile",
        action="append",
        default=[],
        metavar="KIND/TITLE",
        help="a profile to build on; may be repeated",
    )
    parser.add_argument("--replace", action="store_true", help="replace the file if it exists")
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Writes the draft and says what comes next."""
    from fairledger.authoring.beginning import Job, new_draft
    from fairledger.storage.files import write_file

    job = Job(
        target=options.target,
        title=options.title or options.file.stem.replace("-", " ").replace("_", " "),
        edition=options.edition,
        arch=options.arch,
        firmware=options.firmware,
        profiles=tuple(options.profile),
    )
    text = new_draft(job, options.file)
    write_file(options.file, text.encode(), replace=options.replace)
    if options.format == "json":
        console.write_json({"written": str(options.file)})
        return Status.DONE
    console.say(f"wrote {options.file}")
    console.say(f"next: fairledger show {options.file}    fairledger check {options.file}")
    return Status.DONE
