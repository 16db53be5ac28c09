"""Plans of deliveries, and what came of them, for people and for machines."""

from __future__ import annotations

import shlex
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from fairledger.cli.console import Console
from fairledger.cli.report import finding_json, manner, verdict
from fairledger.model.showing import visible

if TYPE_CHECKING:
    from fairledger.checks.engine import Report
    from fairledger.delivery.machine import Machine
    from fairledger.delivery.parcel import Parcel
    from fairledger.delivery.plan import Plan
    from fairledger.delivery.readback import ReadBack
    from fairledger.fleet.discs import Discs
    from fairledger.fleet.judge import Judged
    from fairledger.fleet.served import Served

_MOST = 20
_WITH_SOURCE = ("change", "copy", "split")


def as_json(
    plan: Plan | None, report: Report, back: ReadBack | None = None, machines: Sequence[Machine] = ()
) -> dict[str, Any]:
    """The plan, and what was read back where it was carried out."""
    steps = plan.steps if plan is not None else ()
    told: dict[str, Any] = {
        "plan": [
            {"action": one.action, "path": one.path, "bytes": one.bytes, "from": one.source or None} for one in steps
        ],
        "needs": list(plan.needs) if plan is not None else [],
        "wipes": list(plan.wipes) if plan is not None else [],
        "by_itself": plan.by_itself if plan is not None else None,
        "then": list(plan.then) if plan is not None else [],
        "cares": list(plan.cares) if plan is not None else [],
        "host": list(plan.host) if plan is not None else [],
        "findings": [finding_json(one) for one in report.findings],
        "delivered": back is not None,
    }
    if machines:
        told["machines"] = machines_json(machines)
    if back is not None:
        told["read_back"] = {"where": back.where, "taken": back.taken, "good": back.good, "wrong": list(back.wrong)}
    return told


def machines_json(machines: Sequence[Machine]) -> list[dict[str, Any]]:
    """The command lines of virtual machines."""
    return [{"machine": one.name, "command": list(one.command())} for one in machines]


def show_machines(machines: Sequence[Machine], console: Console) -> None:
    """The same for people: a line each, to be copied."""
    for one in machines if not console.json else ():
        console.say(console.style(f"start {visible(one.name)}", "bold"))
        console.lines("  " + shlex.join(one.command()))
        console.say(f"  what it tells on its serial line: {visible(str(one.folder / one.name))}.log")


def show_plan(plan: Plan, parcel: Parcel, where: str, console: Console, *, bare: bool) -> None:
    """What is done, what it needs, what is lost, and what to do then; ``bare`` where it is made without secrets."""
    machine = f" for {visible(parcel.machine)}" if parcel.machine else ""
    console.say(console.style(f"{parcel.subject.file}{machine} to {where}", "bold"))
    for one in plan.steps:
        size = f"  {'about ' if bare else ''}{one.bytes:,} bytes" if one.bytes is not None else ""
        told = one.source and (one.action in _WITH_SOURCE or one.bytes is None)
        source = console.style(f"  ({one.source})", "dim") if told else ""
        console.say(f"  {one.action:<8} {visible(one.path)}{size}{source}")
    if not plan.steps and not plan.needs:
        console.say("  nothing is to be done: it stands there already")
    for care in plan.cares:
        console.paragraph(f"{'care':<8} {visible(care)}", indent="  ", hang=" " * 11, style="warning")
    for need in plan.needs:
        console.paragraph(f"{'needs':<8} {visible(need)}", indent="  ", hang=" " * 11, style="error")
    if plan.host:
        console.say("  an empty stick is made ready by commands of this system, which nobody runs for you:")
        for line in plan.host:
            console.lines(f"    {line}")
    for then in plan.then:
        lost = "is wiped" in then
        console.paragraph(f"{'then':<8} {visible(then)}", indent="  ", hang=" " * 11, style="error" if lost else None)


def show_read_back(back: ReadBack, plan: Plan, console: Console) -> None:
    """What stands there now."""
    for one in back.wrong:
        console.paragraph(visible(one), indent="  ", hang="    ", style="error")
    if not back.good:
        console.say(console.style("not as planned", "error"))
        return
    done = "delivered" if plan.steps else "nothing changed"
    console.say(console.style(f"{done}, and read back: {visible(back.where)}", "good"))
    if back.report is not None:
        console.paragraph(verdict([back.report]), indent="  ", style=manner([back.report]))


def _notes_json(judged: Judged | None) -> list[dict[str, Any]]:
    """What was found in a roster."""
    notes = judged.notes if judged is not None else ()
    return [{**finding_json(one.finding), "row": one.row, "heading": one.heading} for one in notes]


def served_json(served: Served, *, done: bool) -> dict[str, Any]:
    """A server's folder for a roster."""
    server = served.server
    steps = server.placing.steps if server is not None else []
    return {
        "plan": [
            {"action": one.action, "path": one.path, "bytes": one.bytes, "from": one.source or None} for one in steps
        ],
        "needs": list(served.needs()) if server is not None else [],
        "wipes": list(served.wipes),
        "then": list(server.then) if server is not None else [],
        "cares": server.cares() if server is not None else [],
        "delivered": done,
        "findings": _notes_json(served.judged),
    }


def show_served(served: Served, console: Console, *, done: bool) -> None:
    """The same for people."""
    server = served.server
    if server is None:
        return
    for one in server.placing.steps[:_MOST]:
        console.say(f"  {one.action:<8} {visible(one.path)}  {one.bytes or 0:,} bytes")
    if len(server.placing.steps) > _MOST:
        console.say(f"  ... and {len(server.placing.steps) - _MOST:,} more")
    for care in server.cares():
        console.paragraph(f"{'care':<8} {visible(care)}", indent="  ", hang=" " * 11, style="warning")
    for need in served.needs() if not done else ():
        console.paragraph(f"{'needs':<8} {visible(need)}", indent="  ", hang=" " * 11, style="error")
    for then in server.then:
        console.paragraph(f"{'then':<8} {visible(then)}", indent="  ", hang=" " * 11)
    what = f"{served.count:,} machine{'' if served.count == 1 else 's'} in {visible(str(served.place))}"
    console.say(console.style(f"wrote what serves {what}" if done else f"{what} would be served", "bold"))
    if served.wipes:
        lost = ", ".join(visible(one) for one in served.wipes)
        console.paragraph(f"each machine that starts from there loses: {lost}", indent="  ", hang="    ", style="error")


def discs_json(discs: Discs, *, done: bool) -> dict[str, Any]:
    """The discs of a roster."""
    return {
        "plan": [
            {"action": one.action, "path": str(one.path), "bytes": len(one.data), "from": one.machine}
            for one in discs.discs
        ],
        "needs": [],
        "wipes": list(discs.wipes),
        "then": [],
        "delivered": done,
        **({"machines": machines_json(discs.machines)} if discs.machines else {}),
        "findings": _notes_json(discs.judged),
    }


def show_discs(discs: Discs, console: Console, *, done: bool) -> None:
    """The discs of a roster, a line each."""
    for one in discs.discs[:_MOST]:
        console.say(f"  {one.action:<8} {visible(str(one.path))}  {len(one.data):,} bytes")
    if len(discs.discs) > _MOST:
        console.say(f"  ... and {len(discs.discs) - _MOST:,} more")
    count = len(discs.discs)
    what = f"{count:,} answer disc{'' if count == 1 else 's'}"
    console.say(console.style(f"wrote {what}" if done else f"{what} would be made", "bold"))
    if discs.wipes:
        lost = ", ".join(visible(one) for one in discs.wipes)
        told = f"each machine that starts with its disc beside the installer's own loses: {lost}"
        console.paragraph(told, indent="  ", hang="    ", style="error")
    show_machines(discs.machines, console)
