"""``fairledger adopt``: an answer file becomes a draft."""

from __future__ import annotations

import argparse
import re
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_target, own_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.exchange.adopt import Adopted


EXAMPLES = (
    "fairledger adopt autounattend.xml --out desk.toml",
    "fairledger adopt anaconda-ks.cfg --out gate.toml",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The file, and what is to become of it."""
    parser.add_argument("file", type=Path, metavar="FILE", help="an answer file, whoever wrote it")
    parser.add_argument("--out", type=Path, metavar="DRAFT", help="the draft to be written, desk.toml")
    add_target(parser)
    parser.add_argument(
        "--parameters", action="store_true", help="values of this one machine become placeholders and a roster's row"
    )
    parser.add_argument(
        "--without-secrets", action="store_true", help="leave passwords and keys out; the environment must have them"
    )
    parser.add_argument("--profile-of", metavar="NAME", help="take just one section, as a profile: disk/desk")
    parser.add_argument("--replace", action="store_true", help="replace files that exist")
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Adopts, writes, and says what became of everything."""
    from fairledger.catalog.own import NOTHING
    from fairledger.exchange.adopt import Manner, adopt
    from fairledger.exchange.deposit import deposit
    from fairledger.storage.files import read_bytes

    own = own_of(options)
    out = _out(options)
    manner = Manner(options.parameters, not options.without_secrets, (options.profile_of or "").partition("/")[0])
    adopted = adopt(
        read_bytes(options.file),
        options.file,
        out,
        manner,
        target=options.target,
        own=own or NOTHING,
    )
    written = deposit(adopted, out, parameters=options.parameters, replace=options.replace)
    if options.format == "json":
        console.write_json(_json(adopted, written))
    else:
        _say(adopted, written, options, console)
    return Status.FINDINGS if adopted.kept_apart or adopted.findings else Status.DONE


def _out(options: argparse.Namespace) -> Path:
    """Where the draft goes; a profile with a whole name goes into the library of this folder."""
    from fairledger.model.errors import WrongUseError

    if options.out is not None:
        return Path(options.out)
    kind, slash, title = (options.profile_of or "").partition("/")
    if not slash or not title or ".." in title:
        remedy = "say --out desk.toml, or --profile-of disk/desk"
        raise WrongUseError("it is not said where the draft is to go", remedy=remedy)
    return Path("profiles") / kind / f"{title}.toml"


def _json(adopted: Adopted, written: list[Path]) -> dict[str, Any]:
    from fairledger.cli.report import finding_json

    return {
        "written": [str(path) for path in written],
        "target": adopted.target.id,
        "basis": adopted.basis,
        "sections": list(adopted.sections),
        "answers": adopted.answers,
        "machine": [{"field": row.path, "name": row.name, "value": row.value} for row in adopted.own],
        "total": adopted.total,
        "drops": adopted.drops,
        "not_kept": list(adopted.kept_apart),
        "findings": [finding_json(one) for one in adopted.findings],
    }


def _typed(path: str) -> str:
    """A field's path as an address: places in lists count from 1 there."""
    return re.sub(r"\.(\d+)(?=\.|$)", lambda place: f"[#{int(place[1]) + 1}]", path)


def _say(adopted: Adopted, written: list[Path], options: argparse.Namespace, console: Console) -> None:
    console.say(console.style(f"wrote {written[0]}", "bold") + f", for {adopted.target.name}")
    if adopted.basis != "stated":
        console.paragraph(adopted.basis, indent="  ")
    console.paragraph("portable: " + (", ".join(adopted.sections) or "nothing"), indent="  ", hang="    ")
    if not options.profile_of:
        from_sections = max(adopted.total - adopted.answers, 0)
        share = f"  {from_sections} of {adopted.total} answers come from sections, {adopted.answers} stay direct"
        console.say(share + (f"; {adopted.drops} that sections would add are dropped" if adopted.drops else ""))
        if not adopted.kept_apart:
            proof = "written again, the draft gives the same answers as the file"
            console.say("  " + console.style(proof, "good"))
    for row in adopted.own:
        became = f" -> ${{{row.name}}}" if options.parameters else ""
        became = " (it stays as it is: change it there)" if row.stays else became
        console.say(console.style(f"  this machine's own: {_typed(row.path)} = {row.value}{became}", "warning"))
    if adopted.own and not options.parameters:
        console.say("    the next machine must have others: --parameters makes placeholders of them")
    for path in written[1:]:
        console.say(f"  with {path}" + (" (readable by you only)" if path.parent.name == "secrets" else ""))
    for place in adopted.kept_apart:
        console.say(console.style(f"  not as the file says it: {place}", "error"))
    if adopted.comments:
        lines = "a line" if adopted.comments == 1 else f"{adopted.comments} lines"
        verb = "belongs" if adopted.comments == 1 else "belong"
        console.say(f"  {lines} of comments {verb} to no one setting, at the top")
    for finding in adopted.findings:
        console.paragraph(f"the file: line {finding.line}: {finding.message}", indent="  ", hang="    ")
    if not options.profile_of:
        console.say(f"Next: fairledger check {written[0]}")
