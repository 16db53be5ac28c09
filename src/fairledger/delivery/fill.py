"""Filling: one machine's values and secrets put into a prepared draft."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.owners import owner_of
from fairledger.catalog.seats import Seat
from fairledger.checks.engine import Report, in_order
from fairledger.delivery.prepare import LEFT_OUT, Prepared
from fairledger.families.build import before_upgrade
from fairledger.families.casting import SCRIPT, Cast, Hole
from fairledger.model.errors import WrongUseError
from fairledger.model.finding import Finding, Severity, finding_at
from fairledger.model.sheet import SECRET, Block, Node
from fairledger.model.showing import visible
from fairledger.model.suggest import did_you_mean
from fairledger.model.values import SecretRef, blanks_of, fill
from fairledger.profiles.secrets import Secrets
from fairledger.subject.subject import Subject, with_sheet

FILE = "file"
"""The role of what goes along."""


class Made(Struct, frozen=True):
    """A finished file that is nowhere yet."""

    name: str
    """Its path below the folder where the files go, with ``/``."""
    role: str
    """``answers``, ``script``, or ``file`` for what goes along."""
    data: bytes
    private: bool = False
    """Whether it holds a secret, so that nobody but its owner may read it."""
    bare: bytes | None = None
    """The same with nothing in the places of its secrets, where they all are references."""


class Filled(Struct, frozen=True):
    """What a prepared draft is for one machine: its files, or the report that says why there are none."""

    report: Report
    machine: str
    """The machine's name, as far as it is known."""
    files: tuple[Made, ...] = ()
    hiding: str = ""
    """What to know of secrets that are hidden in them; empty if there are none."""


def filled(prepared: Prepared, values: Mapping[str, str], secrets: Secrets | None) -> Filled:
    """A prepared draft with one machine's values; with errors it has no files.

    ``secrets`` may be missing where the draft was prepared without. Raises `RefusedError` if a secret is not to be
    had, `ContentError` if a value holds what a file cannot carry.
    """
    found = judged(prepared, values)
    if any(finding.severity == Severity.ERROR for finding in found.report.findings):
        return found
    values = {**prepared.usual, **values}
    return Filled(found.report, found.machine, *_made(prepared, values, secrets, found.machine))


def judged(prepared: Prepared, values: Mapping[str, str]) -> Filled:
    """What is found of one machine, without its files. Raises `ContentError`."""
    given, values = values, {**prepared.usual, **values}
    sheet = prepared.filled(values)
    more = [*_unfilled(prepared, values), *_unused(prepared, given)]
    kept, silenced = prepared.judged_with(sheet, more)
    report = Report(with_sheet(prepared.draft, sheet), kept, prepared.unknown, silenced)
    return Filled(report, machine_of(prepared, values))


def machine_of(prepared: Prepared, values: Mapping[str, str]) -> str:
    """The machine's name, as far as it is known."""
    name = prepared.machine
    return name if isinstance(name, str) else str(fill(name, {**prepared.usual, **values}))


def made(prepared: Prepared, values: Mapping[str, str], secrets: Secrets | None) -> tuple[Made, ...]:
    """The files of one machine that was judged before. Raises `RefusedError`, `ContentError` as `filled`.

    Without ``secrets`` their places hold what a file to be shown to others holds there.
    """
    values = {**prepared.usual, **values}
    return _made(prepared, values, secrets, machine_of(prepared, values))[0]


def carry(prepared: Prepared, values: Mapping[str, str]) -> None:
    """Sees that the files can carry the values of a machine. Raises `ContentError` as `made` does."""
    filled = {**prepared.usual, **values}

    def value_of(hole: Hole) -> str | None:
        return None if isinstance(hole.value, SecretRef) else str(fill(hole.value, filled))

    carried = [cast.carries(value_of) for cast in prepared.casts]
    if not all(carried):
        made(prepared, values, None)


def _made(
    prepared: Prepared, values: Mapping[str, str], secrets: Secrets | None, machine: str
) -> tuple[tuple[Made, ...], str]:
    """The files, and what to know of secrets that are hidden in them."""
    revealing = _Revealing(prepared, values, secrets, machine)
    files = []
    for at, (name, cast) in enumerate(zip(prepared.names, prepared.casts, strict=True)):
        texts = [one if isinstance(one, str) else one.put(revealing.value_of(one)) for one in cast.segments]
        held = prepared.secret_seats if at == 0 else any(hole.way[-1].name == SECRET for hole in cast.holes)
        private = bool(held) and not prepared.without_secrets
        bare = cast.joined(_left_out(prepared, cast, texts)) if private and prepared.all_referred else None
        files.append(Made(name, cast.role, cast.joined(texts), private, bare))
    if prepared.carrier:
        folder, slash, _ = prepared.route.file.rpartition("/")
        along = prepared.carrier.of([made.name.removeprefix(f"{folder}{slash}") for made in files])
        files += [Made(f"{folder}{slash}{one.name}", FILE, one.data, one.private) for one in along]
    return tuple(files), prepared.draft.family.hiding if revealing.hidden else ""


def _left_out(prepared: Prepared, cast: Cast, texts: list[str]) -> list[str]:
    """The texts of a file with nothing in the places of its secrets."""
    known, out = prepared.left_out, list(texts)
    for at, one in enumerate(cast.segments):
        if isinstance(one, Hole) and isinstance(one.value, SecretRef):
            if id(one) not in known:
                known[id(one)] = one.put(LEFT_OUT)
            out[at] = known[id(one)]
    return out


class _Revealing:
    """Gives the values of holes, secrets in the form in which they are written."""

    def __init__(self, prepared: Prepared, values: Mapping[str, str], secrets: Secrets | None, machine: str) -> None:
        self.prepared, self.values, self.secrets, self.machine = prepared, values, secrets, machine
        self.hidden = False
        """Whether a secret was written in another form than its own."""

    def value_of(self, hole: Hole) -> str:
        value = fill(hole.value, self.values)
        if not isinstance(value, SecretRef):
            return str(value)
        if self.secrets is None:
            return LEFT_OUT
        if not self.prepared.same_secrets or self.secrets.seeds.own_salt:
            text, hidden = self._revealed(hole, value, self.secrets)
        else:
            if id(hole) not in self.secrets.shared:
                self.secrets.shared[id(hole)] = (hole, *self._revealed(hole, value, self.secrets))
            _, text, hidden = self.secrets.shared[id(hole)]
        self.hidden = self.hidden or hidden
        return text

    def _revealed(self, hole: Hole, value: SecretRef, secrets: Secrets) -> tuple[str, bool]:
        """A secret as it is written, and whether that is another form than its own."""
        if hole.way[-1].name == SECRET:
            return secrets.fetch(value, f"the secret in {hole.block.component}"), False
        seat, family = self.prepared.secret_seats[id(hole.way[-1])], self.prepared.draft.family
        # the seat may still hold what the machine before was filled with
        block, way = _of_machine(hole, self.values)
        owner = owner_of(seat.component, block, way)
        secret = secrets.fetch(value, f"the password of {visible(owner)}" if owner else purpose(seat, block))
        salt = partial(secrets.seeds.salt, machine=self.machine)
        hide = partial(family.conceal, block, way, secret, form=value.form, salt=salt)
        hidden = secrets.hidden((id(hole.way[-1]), owner, secret), self.machine, hide)
        return hidden, not family.readable(block, way)


def _of_machine(hole: Hole, values: Mapping[str, str]) -> tuple[Block, tuple[Node, ...]]:
    """The block of a hole and the way down to it, with a machine's values: whose password it is may be one of them."""
    made: dict[int, Node] = {}

    def of(node: Node) -> Node:
        value = node.value
        value = value if value is None or isinstance(value, SecretRef) else fill(value, values)
        made[id(node)] = replace(node, value=value, children=tuple(of(child) for child in node.children))
        return made[id(node)]

    block = replace(hole.block, children=tuple(of(child) for child in hole.block.children))
    return block, tuple(made[id(node)] for node in hole.way)


def purpose(seat: Seat, block: Block) -> str:
    """What a secret is for that is nobody's password, in words for a question: where it stands."""
    known = seat.component
    which = next((one.value for one in block.children if known is not None and one.name == known.key), None)
    named = f"[{visible(which)}]" if isinstance(which, str) else ""
    return f"{seat.block.component}{named} {seat.shown}"


def _unfilled(prepared: Prepared, values: Mapping[str, str]) -> list[Finding]:
    missing = [name for name in prepared.blanks if name not in values]
    if not missing:
        return []
    out = []
    for value, shown, place in prepared.open_places:
        for name in blanks_of(value):
            if name in missing:
                told = f"the placeholder ${{{name}}} in {shown} is not filled"
                finding = finding_at("placeholder-unfilled", Severity.ERROR, told, place, f"add --fill {name}=VALUE")
                out.append(finding)
    return out


def _unused(prepared: Prepared, values: Mapping[str, str]) -> list[Finding]:
    known = prepared.blanks
    out = []
    for name in values:
        if name not in known:
            hint = did_you_mean(name, known) if known else "the draft has no placeholders"
            told = f"nothing in the draft asks for the value {name}"
            out.append(Finding("placeholder-unknown", Severity.ERROR, told, hint, file=prepared.draft.file))
    return out


UPGRADE = "before-upgrade.cmd"


def filled_for_upgrade(draft: Subject) -> Filled:
    """The command file that must run before an upgrade in place, which reads no answer file.

    Raises `WrongUseError` where there is nothing to run.
    """
    target, resolved = draft.target, draft.draft
    assert target is not None
    assert resolved is not None
    text, findings = before_upgrade(resolved.intent, target, draft.facts)
    if not text:
        told = f"nothing in the draft can be brought about before an upgrade to {target.name}"
        remedy = "bypass.security_chip and bypass.processor can; the rest needs a fresh installation"
        raise WrongUseError(told, file=draft.file, remedy=remedy)
    data = ("\r\n".join(text.rstrip("\n").split("\n")) + "\r\n").encode()
    return Filled(Report(draft, in_order(findings)), "", (Made(UPGRADE, SCRIPT, data),))
