"""``fairledger write``: the answer file, under the name that the installer looks for."""

from __future__ import annotations

import argparse
from pathlib import Path

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_layers, asked_of
from fairledger.cli.status import Status


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Draft, route, folder, values."""
    parser.add_argument("file", type=Path, metavar="FILE", help="the draft")
    parser.add_argument(
        "--route",
        default="plain",
        help="how the file reaches the installer: stick, disc, share, boot-parameter, generalise, plain",
    )
    parser.add_argument("--out", type=Path, default=Path("out"), metavar="FOLDER", help="where to (default: out)")
    parser.add_argument(
        "--fill",
        action="append",
        default=[],
        metavar="NAME=VALUE",
        help="fill a placeholder; may be repeated",
    )
    parser.add_argument("--without-secrets", action="store_true", help="a file to show others: no secret is in it")
    parser.add_argument(
        "--for-upgrade",
        action="store_true",
        help="instead: the commands to run before an upgrade in place, which reads no answer file",
    )
    parser.add_argument("--replace", action="store_true", help="replace the file if it exists")
    add_layers(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Writes the file, or says what stands against it."""
    from fairledger.delivery.issue import issue, issue_for_upgrade
    from fairledger.model.errors import WrongUseError
    from fairledger.profiles.secrets import Secrets
    from fairledger.subject.opening import opened_draft

    values = {}
    for one in options.fill:
        name, equals, value = one.partition("=")
        if not equals or not name:
            raise WrongUseError(f"{one!r} fills nothing", remedy="write --fill NAME=VALUE")
        values[name] = value
    draft = opened_draft(options.file, asked_of(options))
    if options.for_upgrade:
        return _upgrade(issue_for_upgrade(draft, options.out, replace=options.replace), console)
    secrets = None if options.without_secrets else Secrets(options.file.parent, console.asker())
    issued = issue(draft, options.out, route=options.route, values=values, secrets=secrets, replace=options.replace)
    return _told(issued, options, console)


def _upgrade(issued, console: Console) -> int:  # type: ignore[no-untyped-def]
    from fairledger.cli.report import finding_json, show_report

    if console.json:
        findings = [finding_json(one) for one in issued.report.findings]
        console.write_json({"written": str(issued.path), "route": None, "findings": findings})
        return Status.DONE
    console.say(console.style(f"wrote {issued.path}", "bold"))
    console.say("  run it as administrator on the machine, then start the upgrade there")
    if issued.report.findings:
        console.say()
        show_report(issued.report, console)
    return Status.DONE


def _told(issued, options: argparse.Namespace, console: Console) -> int:  # type: ignore[no-untyped-def]
    from fairledger.cli.report import finding_json, show_report, verdict

    if options.format == "json":
        findings = [finding_json(one) for one in issued.report.findings]
        route = (
            {"name": issued.route.name, "goes": issued.route.goes, "typed": issued.route.typed}
            if issued.route
            else None
        )
        written = str(issued.path) if issued.path else None
        beside = [str(one) for one in issued.companions]
        console.write_json({"written": written, "companions": beside, "route": route, "findings": findings})
        return Status.DONE if issued.path else Status.FINDINGS
    if issued.path is None:
        show_report(issued.report, console)
        console.say("nothing was written")
        return Status.FINDINGS
    private = "; readable by you only, for it holds secrets" if issued.secret else ""
    console.say(console.style(f"wrote {issued.path}", "bold") + private)
    if options.without_secrets:
        console.say("  its secrets are left out: it is for reading, not for installing")
    for one in issued.companions:
        console.say(f"  with {one}")
    console.paragraph(f"it goes to {issued.route.goes}", indent="  ", hang="    ")
    console.say(f"  there type: {issued.route.typed}" if issued.route.typed else "  there is nothing to type")
    if issued.hiding:
        console.paragraph(issued.hiding, indent="  ", hang="    ")
    if issued.report.findings:
        console.say(f"  before use: {verdict([issued.report], console)} (fairledger check {options.file})")
    return Status.DONE
