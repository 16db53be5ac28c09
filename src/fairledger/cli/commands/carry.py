"""``fairledger carry``: a draft for another release, edition or architecture."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fairledger.cli.console import Console
from fairledger.cli.options import NamedTarget, add_catalog, own_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.authoring.carry import Carried, Move

_MOST_NEW = 12


EXAMPLES = (
    "fairledger carry desk.toml --to windows-11",
    "fairledger carry desk.toml --to windows-11 --out desk-11.toml",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The draft, and where it goes."""
    parser.add_argument("draft", type=Path, metavar="DRAFT", help="the draft")
    parser.add_argument(
        "--to", required=True, action=NamedTarget, metavar="TARGET", help="the release that it is to be for"
    )
    parser.add_argument("--edition", help="the edition to be installed there")
    parser.add_argument("--arch", help="the architecture of the machines")
    parser.add_argument(
        "--out", type=Path, metavar="NEW", help="write the new draft; without it there is a report only"
    )
    parser.add_argument("--replace", action="store_true", help="replace a file that exists")
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Reports, and writes if that is wished."""
    from fairledger.authoring.carry import carry
    from fairledger.authoring.secrecy import holds_secret
    from fairledger.model.finding import Severity, reaches
    from fairledger.storage.files import write_file

    done = carry(options.draft, options.to, edition=options.edition, arch=options.arch, own=own_of(options))
    if options.out is not None:
        data = done.text.encode("utf-8", "surrogatepass")
        write_file(options.out, data, replace=options.replace, private=holds_secret(done.text))
    if options.format == "json":
        console.write_json(_json(done, options.out))
    else:
        _show(done, options, console)
    return Status.FINDINGS if reaches(done.findings, Severity.ERROR) else Status.DONE


def _json(done: Carried, out: Path | None) -> dict[str, Any]:
    from fairledger.cli.report import finding_json

    def rows(moves: Sequence[Move]) -> list[dict[str, Any]]:
        return [{"what": one.what, "why": one.why, "file": one.origin.file, "line": one.origin.line} for one in moves]

    return {
        "from": done.old.id,
        "to": done.new.id,
        "written": str(out) if out else None,
        "rewritten": rows(done.rewritten),
        "taken_out": rows(done.taken_out),
        "to_do": rows(done.to_do),
        "new_there": [{"component": one.component, "setting": one.setting} for one in done.new_there],
        "findings": [finding_json(one) for one in done.findings],
    }


def _show(done: Carried, options: argparse.Namespace, console: Console) -> None:
    console.say(console.style(f"{options.draft}: from {done.old.name} to {done.new.name}", "bold"))
    for head, moves, tone in (
        ("left for you", done.to_do, "error"),
        ("taken out", done.taken_out, "warning"),
        ("rewritten", done.rewritten, "good"),
    ):
        if moves:
            console.say("\n" + console.style(head, tone))
        for one in moves:
            line = f"line {one.origin.line}: " if one.origin.line and one.origin.file == str(options.draft) else ""
            console.paragraph(f"{line}{one.what}", indent="  ", hang="    ")
            console.paragraph(f"-> {one.why}", indent="      ", hang="         ")
    if done.findings:
        console.say("\n" + console.style("check says now, and did not before", "bold"))
        for finding in done.findings:
            hint = f" -> {finding.hint}" if finding.hint else ""
            console.paragraph(f"{finding.severity}: {finding.message}{hint}", indent="  ", hang="    ")
    if not (done.to_do or done.taken_out or done.rewritten or done.findings):
        console.say("  everything in the draft is right there too")
    if done.new_there:
        console.say(f"\nnew there, maybe worth a look ({len(done.new_there)})")
        for came in done.new_there[:_MOST_NEW]:
            console.say(f"  {came.component}/{came.setting}")
        if len(done.new_there) > _MOST_NEW:
            command = f"fairledger targets --compare {done.old.id} {done.new.id}"
            console.say(f"  ... and {len(done.new_there) - _MOST_NEW} more: {command}")
    if options.out is not None:
        console.say(f"\nwrote {options.out}")
    else:
        console.say("\nnothing was written; add --out NEW.toml")
