"""Writing the answer file of a draft: checked, filled, secrets put in last."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace as replaced

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.routes import Route, routes_of
from fairledger.checks.engine import Report, findings_of, in_order
from fairledger.checks.silence import heard
from fairledger.families.build import before_upgrade
from fairledger.intent.identity import IDENTITY
from fairledger.intent.intent import Intent
from fairledger.model.errors import WrongUseError
from fairledger.model.finding import Finding, Severity, finding_at
from fairledger.model.places import Place
from fairledger.model.sheet import Block, Node, visible
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target
from fairledger.model.values import Scalar, SecretRef, blanks_of, fill
from fairledger.profiles.secrets import Secrets
from fairledger.storage.files import write_file
from fairledger.subject.subject import Subject, with_sheet

LEFT_OUT = "left-out"
"""What stands in the place of a secret in a file that is to be shown to others."""


class Issued(Struct, frozen=True):
    """An answer file that was written, or the report that says why not."""

    report: Report
    path: Path | None = None
    route: Route | None = None
    secret: bool = False
    """Whether the file holds a secret, and is readable by its owner only."""
    hiding: str = ""
    """What to know of secrets that are hidden in it; empty if there are none."""
    companions: tuple[Path, ...] = ()
    """Scripts that were written beside it and go with it."""


def route_named(name: str, target: Target) -> Route:
    """The route of that name. Raises `WrongUseError` with the target's routes."""
    routes = routes_of(target)
    for route in routes:
        if route.name == name:
            return route
    names = [route.name for route in routes]
    raise WrongUseError(f"there is no route {name!r} for {target.name}", remedy=did_you_mean(name, names))


def issue(
    draft: Subject, out: Path, *, route: str, values: Mapping[str, str], secrets: Secrets | None, replace: bool
) -> Issued:
    """Checks and writes the answer file of a draft; with errors nothing is written.

    ``values`` fill placeholders; without ``secrets`` a word that says so stands in the place of each. Raises
    `RefusedError` if a secret is not to be had or the file exists, `ContentError` if a value holds what the file
    cannot carry, `FileTroubleError`, `WrongUseError`.
    """
    target, family, resolved = draft.target, draft.family, draft.draft
    assert target is not None
    assert resolved is not None
    way = route_named(route, target)
    sheet = draft.sheet.map_values(lambda _block, _way, value: fill(value, values))
    ready = with_sheet(draft, sheet, facts=replaced(draft.facts, route=way.name))
    findings = [*draft.findings, *findings_of(ready), *_unfilled(ready), *_unused(values, draft)]
    report = Report(ready, in_order(heard(findings, resolved.silences)))
    if any(finding.severity == Severity.ERROR for finding in report.findings):
        return Issued(report)
    hidden = {id(seat.node) for seat in ready.seats if seat.setting is not None and seat.setting.secret and seat.value}
    encoded = False
    machine = _machine(resolved.intent, values)

    def reveal(block: Block, nodes: tuple[Node, ...], value: Scalar) -> Scalar:
        nonlocal encoded
        if secrets is None and (isinstance(value, SecretRef) or (id(nodes[-1]) in hidden and value)):
            return LEFT_OUT
        if not isinstance(value, SecretRef):
            return value
        encoded = encoded or not family.readable(block, nodes)
        assert secrets is not None
        fetched = secrets.fetch(value, _named(block, nodes, draft.catalog))
        return family.conceal(block, nodes, fetched, form=value.form, machine=machine)

    shown = sheet.map_values(reveal)
    data = family.write(shown, target, draft.catalog.own)
    path = out / way.file
    write_file(path, data, replace=replace, private=bool(hidden) and secrets is not None)
    beside = tuple(path.parent / one.name for one in shown.companions)
    for one, place in zip(shown.companions, beside, strict=True):
        write_file(place, _script(one.name, str(one.body)), replace=replace)
    return Issued(report, path, way, bool(hidden) and secrets is not None, family.hiding if encoded else "", beside)


UPGRADE = "before-upgrade.cmd"


def issue_for_upgrade(draft: Subject, out: Path, *, replace: bool) -> Issued:
    """Writes the command file that must run before an upgrade in place, which reads no answer file.

    Raises `WrongUseError` where there is nothing to run, `RefusedError` if the file exists.
    """
    target, resolved = draft.target, draft.draft
    assert target is not None
    assert resolved is not None
    text, findings = before_upgrade(resolved.intent, target, draft.facts)
    if not text:
        told = f"nothing in the draft can be brought about before an upgrade to {target.name}"
        remedy = "bypass.security_chip and bypass.processor can; the rest needs a fresh installation"
        raise WrongUseError(told, file=draft.file, remedy=remedy)
    path = out / UPGRADE
    write_file(path, _script(UPGRADE, text), replace=replace)
    return Issued(Report(draft, in_order(findings)), path)


def _script(name: str, body: str) -> bytes:
    """A companion's bytes: lines end as its interpreter wants them; a mark tells PowerShell the encoding."""
    text = body.replace("\r\n", "\n").rstrip("\n").replace("\n", "\r\n") + "\r\n"
    return text.encode("utf-8-sig" if name.endswith(".ps1") else "utf-8")


def _machine(intent: Intent, values: Mapping[str, str]) -> str:
    """The machine's name, as far as it is known."""
    identity = intent.get(IDENTITY)
    return str(fill(identity.name, values)) if identity is not None and identity.name is not None else ""


def _named(block: Block, nodes: tuple[Node, ...], catalog: Catalog) -> str:
    """What a secret is for, in words for a question: the account's name, else which use of a component it is in."""
    for node in reversed(nodes[:-1]):
        name = node.text("Name") or node.text("Username")
        if name:
            return f"the password of {name}"
    for node in block.children:
        if node.name in ("--name", "--username") and isinstance(node.value, str):
            return f"the password of {node.value}"
    known = catalog.anywhere(block.component)
    which = next((node.value for node in block.children if known is not None and node.name == known.key), None)
    named = f"{block.component}[{visible(str(which))}]" if which is not None else block.component
    return f"{named} {'/'.join(node.name for node in nodes)}"


def _unfilled(ready: Subject) -> list[Finding]:
    out = []
    for seat in ready.seats:
        blanks = blanks_of(seat.value) if seat.value is not None else ()
        for name in blanks:
            told = f"the placeholder ${{{name}}} in {seat.shown} is not filled"
            place = Place(seat.block.pass_, seat.block.component, seat.shown, seat.node.origin)
            out.append(finding_at("placeholder-unfilled", Severity.ERROR, told, place, f"add --fill {name}=VALUE"))
    for one in ready.sheet.companions:
        for name in blanks_of(one.body):
            told = f"the placeholder ${{{name}}} in {one.name} is not filled"
            place = Place(origin=one.origin)
            out.append(finding_at("placeholder-unfilled", Severity.ERROR, told, place, f"add --fill {name}=VALUE"))
    return out


def _unused(values: Mapping[str, str], draft: Subject) -> list[Finding]:
    known = draft.sheet.blanks()
    out = []
    for name in values:
        if name not in known:
            hint = did_you_mean(name, known) if known else "the draft has no placeholders"
            told = f"nothing in the draft asks for the value {name}"
            out.append(Finding("placeholder-unknown", Severity.ERROR, told, hint, file=draft.file))
    return out
