"""``fairledger deliver``: the answer file where the installer finds it, with a plan first."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from fairledger.cli.console import Console
from fairledger.cli.options import add_catalog, add_layers, add_target, asked_of, pairs_of
from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.delivery.parcel import Parcel
    from fairledger.delivery.telling import How
    from fairledger.fleet.discs import Discs
    from fairledger.fleet.served import Served
    from fairledger.profiles.secrets import Secrets


EXAMPLES = (
    "fairledger deliver desk.toml --to folder:payload --dry-run",
    "fairledger deliver gate.toml --to answer-disc:gate.iso --fill number=03",
)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The draft or answer file, the place, and what is allowed."""
    parser.add_argument("file", type=Path, metavar="FILE", help="a draft, or an answer file")
    parser.add_argument(
        "--to",
        required=True,
        metavar="KIND:PLACE",
        help="stick:FOLDER (where it is mounted), share:FOLDER, folder:FOLDER, generalise:FOLDER, or "
        "answer-disc:FILE.iso (answer-disc:FOLDER with --roster), iso:FILE.iso with --from, or machine:FOLDER",
    )
    parser.add_argument("--dry-run", action="store_true", help="show the plan, and do nothing")
    parser.add_argument("--hold", action="store_true", help="under a name that no installer takes by itself")
    parser.add_argument(
        "--wipes",
        action="append",
        default=[],
        metavar="WHAT",
        help="allow what is lost at the machine, in the plan's own words; may be repeated",
    )
    parser.add_argument("--replace", action="store_true", help="replace what stands there already")
    parser.add_argument("--label", default="", metavar="LABEL", help="the volume's label, where nobody knows it")
    parser.add_argument(
        "--from",
        dest="source",
        type=Path,
        metavar="DISC",
        help="the installer's own disc",
    )
    parser.add_argument(
        "--as", dest="form", choices=("iso", "fat"), default="iso", help="answer-disc: the form (default: iso)"
    )
    parser.add_argument("--server", default="", metavar="URL", help="network: where machines reach the folder")
    parser.add_argument("--base", type=Path, metavar="IMAGE", help="machine: over a generalised system's disk")
    parser.add_argument("--run", action="store_true", help="machine: start it, once everything is made")
    parser.add_argument("--roster", type=Path, metavar="TABLE", help="an answer disc, or a machine, for each row")
    add_target(parser)
    parser.add_argument(
        "--fill", action="append", default=[], metavar="NAME=VALUE", help="fill a placeholder; may be repeated"
    )
    add_layers(parser)
    add_catalog(parser)
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Plans, does it, and reads it back."""
    from fairledger.cli.deliveries import as_json
    from fairledger.cli.report import show_report
    from fairledger.delivery.onto import MACHINES, medium_for, must_go_together, place_of
    from fairledger.delivery.parcel import parcel_of
    from fairledger.model.errors import WrongUseError
    from fairledger.profiles.secrets import Secrets
    from fairledger.profiles.seed import Seeds

    kind, place = place_of(options.to, base=options.base is not None)
    if options.run and (kind not in MACHINES or options.roster is not None):
        raise WrongUseError("--run starts one machine", remedy="write --to machine:FOLDER, and no --roster")
    must_go_together(kind, _how(options))
    if options.roster is not None:
        return _roster(options, kind, place, console)
    folder = options.file.parent
    # a plan can be had by whoever has no secrets
    seeds = Seeds(folder)
    secrets = None if options.dry_run else Secrets(folder, console.asker(twice=True), seeds)
    values = pairs_of(options.fill, "fills nothing", "write --fill NAME=VALUE")
    medium = medium_for(options.source, place)
    parcel = parcel_of(options.file, asked_of(options), kind, values, secrets, medium=medium)
    if not parcel.ready:
        if console.json:
            console.write_json(as_json(None, parcel.report))
        else:
            show_report(parcel.report, console)
            console.say("nothing was delivered")
        return Status.FINDINGS
    return _deliver(options, parcel, kind, place, secrets, console)


def _deliver(
    options: argparse.Namespace, parcel: Parcel, kind: str, place: Path, secrets: Secrets | None, console: Console
) -> int:
    from fairledger.cli.deliveries import as_json, show_machines, show_plan, show_read_back
    from fairledger.cli.progress import progress_of
    from fairledger.cli.secrecy import tell_of
    from fairledger.delivery.journal import take_back
    from fairledger.delivery.machine import run as started
    from fairledger.delivery.onto import carried_out, planned
    from fairledger.delivery.readback import read_back

    for path in take_back(place) if secrets is not None else ():
        console.note(f"took back {path}, which a delivery that was cut short had left")
    delivery = planned(parcel, kind, place, _how(options))
    machines = (delivery.machine,) if delivery.machine is not None else ()
    if not console.json:
        show_plan(delivery.plan, parcel, options.to, console, bare=secrets is None)
    if secrets is None:
        if console.json:
            console.write_json(as_json(delivery.plan, parcel.report, None, machines))
        show_machines(machines, console)
        return Status.DONE
    carried_out(delivery, progress_of(console, per=1 << 20, unit=" MiB"))
    tell_of(secrets, secrets.seeds, console)
    back = read_back(delivery, parcel, kind)
    if console.json:
        console.write_json(as_json(delivery.plan, parcel.report, back, machines))
    else:
        show_read_back(back, delivery.plan, console)
    show_machines(machines, console)
    if back.good and options.run and delivery.machine is not None:
        return Status.DONE if started(delivery.machine) == 0 else Status.FILE_TROUBLE
    return Status.DONE if back.good else Status.FINDINGS


def _how(options: argparse.Namespace) -> How:
    from fairledger.delivery.telling import How

    return How(
        hold=options.hold,
        replace=options.replace,
        wipes=tuple(options.wipes),
        label=options.label,
        source=options.source,
        base=options.base,
        server=options.server,
        fat=options.form == "fat",
    )


def _roster(options: argparse.Namespace, kind: str, place: Path, console: Console) -> int:
    from fairledger.cli.deliveries import discs_json, served_json, show_discs, show_served
    from fairledger.cli.progress import progress_of
    from fairledger.delivery.onto import MACHINES, SERVERS
    from fairledger.fleet.discs import Discs
    from fairledger.fleet.keys import Keys
    from fairledger.fleet.opening import open_table
    from fairledger.fleet.roster import Roster, Wishes
    from fairledger.fleet.served import Served
    from fairledger.model.errors import WrongUseError

    if kind not in ("answer-disc", *MACHINES, *SERVERS) or options.fill:
        told = "with a roster there are answer discs, machines and servers, and its rows fill the placeholders"
        raise WrongUseError(told, remedy="write --to answer-disc:FOLDER, machine:FOLDER, or network:FOLDER")
    wishes = Wishes(kind=kind, asked=asked_of(options), without_secrets=options.dry_run)
    roster = Roster(options.file, open_table(options.roster, None), wishes)
    keys = None if options.dry_run else Keys(console.asker(twice=True), None)
    how, progress = _how(options), progress_of(console)
    if kind in SERVERS:
        served = Served(roster, kind, place, how, keys, progress)
        return _all_rows(options, served, partial(served_json, served), partial(show_served, served), console)
    discs = Discs(roster, place, how, keys, progress, virtual=kind in MACHINES)
    return _all_rows(options, discs, partial(discs_json, discs), partial(show_discs, discs), console)


def _all_rows(
    options: argparse.Namespace,
    job: Discs | Served,
    as_json: Callable[..., dict[str, Any]],
    show: Callable[..., None],
    console: Console,
) -> int:
    """Judges all rows, and delivers where none is refused."""
    from fairledger.cli.rosters import show as show_judged

    judged = job.judge()
    if judged.errors:
        if console.json:
            console.write_json(as_json(done=False))
        else:
            show_judged(judged, str(options.roster), console)
            console.say("nothing was delivered")
        return Status.FINDINGS
    job.make()
    if not options.dry_run:
        job.write()
    if console.json:
        console.write_json(as_json(done=not options.dry_run))
    else:
        show(console, done=not options.dry_run)
    return Status.DONE
