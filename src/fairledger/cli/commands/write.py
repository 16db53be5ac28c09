"""``fairledger write``: the answer file, under the name that the installer looks for."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_filling, add_layers, add_medium, asked_of, pairs_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.delivery.fill import Filled
    from fairledger.delivery.place import Issued


EXAMPLES = (
    "fairledger write desk.toml --route stick --out out",
    "fairledger write gate.toml --fill number=03 --out out",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Draft, route, folder, values."""
    parser.add_argument("file", type=Path, metavar="FILE", help="the draft")
    parser.add_argument(
        "--route",
        help="how the file reaches the installer: stick, disc, share, boot-parameter, generalise, plain (default: as "
        "the draft says, else plain)",
    )
    parser.add_argument("--out", type=Path, default=Path("out"), metavar="FOLDER", help="where to (default: out)")
    add_filling(parser)
    parser.add_argument("--without-secrets", action="store_true", help="a file to show others: no secret is in it")
    parser.add_argument("--no-stamp", action="store_true", help="no comment in it for which release it is")
    parser.add_argument("--seed", metavar="HEX", help="instead of the project's file .fairledger-seed: 32 hex digits")
    parser.add_argument("--own-salt", action="store_true", help="hash each machine's passwords with a salt of its own")
    parser.add_argument(
        "--for-upgrade",
        action="store_true",
        help="instead: the commands to run before an upgrade in place, which reads no answer file",
    )
    parser.add_argument(
        "--single-file", action="store_true", help="nothing may lie beside the answer file: all in it, or refused"
    )
    parser.add_argument(
        "--undo", type=Path, metavar="FILE", help="write also a script (.ps1, .cmd) that takes the choices back"
    )
    parser.add_argument("--replace", action="store_true", help="replace the file if it exists")
    add_layers(parser)
    add_medium(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Writes the file, or says what stands against it."""
    from fairledger.catalog.routes import route_wanted
    from fairledger.cli.secrecy import tell_of
    from fairledger.delivery.bare import bared, known_secrets
    from fairledger.delivery.fill import filled, filled_for_upgrade
    from fairledger.delivery.place import Folder, place
    from fairledger.delivery.prepare import prepare
    from fairledger.delivery.undo import must_be_alone, undo_of
    from fairledger.model.facts import Facts
    from fairledger.profiles.secrets import Secrets
    from fairledger.profiles.seed import Seeds
    from fairledger.subject.opening import opened_draft

    values = pairs_of(options.fill, "fills nothing", "write --fill NAME=VALUE")
    facts = Facts(single_file=True) if options.single_file else None
    draft = opened_draft(options.file, asked_of(options, facts=facts))
    if options.single_file:
        must_be_alone(draft)
    undo = undo_of(draft, options.undo, replace=options.replace) if options.undo else None
    folder = Folder(options.out, replace=options.replace)
    if options.for_upgrade:
        made = filled_for_upgrade(draft)
        return _upgrade(made, folder.put(made.files)[0], console)
    assert draft.target is not None
    route = route_wanted(options.route or draft.facts.route, draft.target)
    prepared = prepare(draft, route, without_secrets=options.without_secrets, stamp=not options.no_stamp)
    seeds = Seeds(options.file.parent, options.seed, own_salt=options.own_salt)
    secrets = None if options.without_secrets else Secrets(options.file.parent, console.asker(twice=True), seeds)
    made = filled(prepared, values, secrets)
    if options.without_secrets:
        known, short = known_secrets(prepared, Secrets(options.file.parent))
        made = bared(made, known)
        if short:
            console.note(f"{short} of its secrets have less than 4 characters, and are not searched for in commands")
    issued = place(prepared, made, folder) if made.files else None
    for path in folder.stale:
        console.note(f"took away {path}, which only the replaced file called")
    tell_of(secrets, seeds, console)
    outside = tuple(secrets.outside) if secrets is not None else ()
    if issued is not None and undo is not None:
        undo.write(replace=options.replace)
    status = _told(made, issued, outside, options, console)
    if issued is not None and undo is not None and not console.json:
        from fairledger.cli.tidying import show_undo

        show_undo(undo, console)
    return status


def _upgrade(made: Filled, where: str, console: Console) -> int:
    from fairledger.cli.report import finding_json, show_report

    if console.json:
        findings = [finding_json(one) for one in made.report.findings]
        console.write_json({"written": where, "route": None, "findings": findings})
        return Status.DONE
    console.say(console.style(f"wrote {where}", "bold"))
    console.say("  run it as administrator on the machine, then start the upgrade there")
    if made.report.findings:
        console.say()
        show_report(made.report, console)
    return Status.DONE


def _told(
    made: Filled, issued: Issued | None, outside: tuple[str, ...], options: argparse.Namespace, console: Console
) -> int:
    from fairledger.cli.report import manner, show_report, verdict
    from fairledger.events.copies import shared
    from fairledger.subject.subject import Subject

    if options.format == "json":
        console.write_json({**_json(made, issued, outside), "undo": str(options.undo) if options.undo else None})
        return Status.DONE if issued else Status.FINDINGS
    if issued is None:
        show_report(made.report, console)
        console.say("nothing was written")
        return Status.FINDINGS
    answers, *beside = issued.files
    private = "; readable by you only, for it holds secrets" if answers.private else ""
    console.say(console.style(f"wrote {answers.where}", "bold") + private)
    if options.without_secrets:
        console.say("  its secrets are left out: it is for reading, not for installing")
    for one in beside:
        console.say(f"  with {one.where}")
    route = issued.route
    console.paragraph(f"it goes to {route.goes}", indent="  ", hang="    ")
    for folder in dict.fromkeys(Path(one.where).parent.name for one in beside):
        there = route.beside or "wherever the file is"
        console.paragraph(f"the folder {folder} goes along: to {there}", indent="  ", hang="    ")
    console.say(f"  there type: {route.typed}" if route.typed else "  there is nothing to type")
    alike = [words for words, _ in shared(made.report.of)] if isinstance(made.report.of, Subject) else []
    if alike:
        told = f"every copy of the image shares the {'; the '.join(alike)}; and all that scripts and the image hold"
        console.paragraph(told, indent="  ", hang="    ", style="warning")
    if made.hiding:
        console.paragraph(made.hiding, indent="  ", hang="    ")
    told = f"before use: {verdict([made.report])} (fairledger check {options.file})"
    console.paragraph(told, indent="  ", hang="    ", style=manner([made.report]))
    return Status.DONE


def _json(made: Filled, issued: Issued | None, outside: tuple[str, ...]) -> dict[str, Any]:
    from fairledger.cli.report import finding_json

    findings = [finding_json(one) for one in made.report.findings]
    told: dict[str, Any] = {"written": None, "companions": [], "route": None, "findings": findings}
    if issued is None:
        return told
    answers, *beside = issued.files
    route = issued.route
    told |= {"written": answers.where, "companions": [one.where for one in beside]}
    told["route"] = {"name": route.name, "goes": route.goes, "typed": route.typed}
    told["issued"] = {
        "machine": issued.machine or None,
        "draft": issued.draft,
        "variant": issued.variant or None,
        "target": issued.target,
        "files": [
            {"file": one.where, "role": one.role, "sha256": None if one.private else one.digest} for one in issued.files
        ],
        "sources": [{"file": file, "sha256": digest} for file, digest in issued.sources],
        "silences": [{"rule": one.rule, "at": one.at or None, "because": one.because} for one in issued.silences],
        "secrets_from_outside": list(outside),
        "version": issued.version,
    }
    return told
