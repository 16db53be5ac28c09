"""``fairledger start``: begin a new draft."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from fairledger.cli.console import Console
from fairledger.cli.options import add_target
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.authoring.from_medium import Taken


EXAMPLES = (
    "fairledger start desk.toml --target windows-11 --edition Pro",
    "fairledger start gate.toml --target rhel-9 --profile locale/en-gb --profile disk/whole-disk-by-installer",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The file and what is known of the job."""
    parser.add_argument("file", type=Path, metavar="FILE", help="the draft to be written, such as desk.toml")
    add_target(parser, "what is to be installed, as in: fairledger targets; windows-11 means its newest release")
    told = "the medium that it is for: it says target, architecture and edition"
    parser.add_argument("--medium", type=Path, metavar="PATH", help=told)
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
    from fairledger.authoring.editors import schema_name
    from fairledger.storage.files import write_file

    taken = _taken(options)
    job = Job(
        target=taken.target if taken is not None else options.target,
        title=options.title or options.file.stem.replace("-", " ").replace("_", " "),
        edition=taken.edition if taken is not None else options.edition,
        arch=taken.arch if taken is not None else options.arch,
        firmware=options.firmware,
        profiles=tuple(options.profile),
    )
    text = new_draft(job, options.file)
    write_file(options.file, text.encode(), replace=options.replace)
    if options.format == "json":
        said = {"target": job.target, "arch": job.arch, "edition": job.edition} if taken is not None else {}
        console.write_json({"written": str(options.file), **said})
        return Status.DONE
    console.say(f"wrote {options.file}")
    if taken is not None:
        console.say(f"  from {options.medium}: {', '.join(one for one in (job.target, job.arch, job.edition) if one)}")
        if job.edition is None and len(taken.editions) > 1:
            several = f"several editions are on it: {', '.join(taken.editions)}; say --edition"
            console.paragraph(several, indent="  ", hang="  ")
    name = schema_name(job.target)
    console.say(f"  what it comes to   fairledger show {options.file}")
    console.say(f"  what is missing    fairledger check {options.file}")
    console.say(f"  for editors        fairledger export {job.target} --out {options.file.parent / name}")
    return Status.DONE


def _taken(options: argparse.Namespace) -> Taken | None:
    """What the medium says; None if nobody named one. Raises `WrongUseError` where then nobody knows the target."""
    if options.medium is not None:
        from fairledger.authoring.from_medium import taken_from
        from fairledger.media.facts import facts_at

        return taken_from(
            facts_at(options.medium),
            str(options.medium),
            target=options.target,
            arch=options.arch,
            edition=options.edition,
        )
    if options.target is None:
        from fairledger.model.errors import WrongUseError

        remedy = "say --target, as in: fairledger targets; or name the medium: --medium PATH"
        raise WrongUseError("nobody knows what the draft is for", remedy=remedy)
    return None
