"""Preparing: all that is worked out once for a draft, before anything is filled in for a machine."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from functools import cached_property
from hashlib import sha256

from msgspec.structs import replace as replaced

from fairledger.catalog.routes import Route, routes_of
from fairledger.catalog.seats import Seat
from fairledger.checks.engine import in_order, unknown_in
from fairledger.checks.rule import run, run_noting
from fairledger.checks.silence import heard
from fairledger.checks.view import View
from fairledger.delivery.carried import Carrier
from fairledger.families.casting import Cast, stamped
from fairledger.families.stamps import stamp_text
from fairledger.intent.identity import IDENTITY
from fairledger.model.errors import ContentError, WrongUseError
from fairledger.model.finding import Finding, Severity, finding_at
from fairledger.model.places import Place
from fairledger.model.sheet import Block, Node, Sheet
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target
from fairledger.model.values import Scalar, SecretRef, Template, Text, blanks_of, fill
from fairledger.profiles.resolve import Resolved
from fairledger.subject.subject import Subject, refilled, with_sheet

LEFT_OUT = "left-out"
"""What stands in the place of a secret in a file that is to be shown to others."""


class Prepared:
    """A draft for one route: checked as far as no placeholder matters, and written but for what is open.

    It is filled for one machine after the other, never for two at once.
    """

    def __init__(self, draft: Subject, route: Route, *, without_secrets: bool = False, stamp: bool = True) -> None:
        assert draft.draft is not None
        assert draft.target is not None
        self.resolved: Resolved = draft.draft
        self.target: Target = draft.target
        self.route = route
        self.without_secrets = without_secrets
        self.stamp = stamp
        self.draft = with_sheet(draft, draft.sheet, facts=replaced(draft.facts, route=route.name))
        self.blanks = draft.sheet.blanks()
        """The placeholders that are to be filled."""
        self.usual = {name: value for name, (value, _) in self.resolved.values.items() if name in self.blanks}
        """What they come to where nobody fills them."""
        open_seats = tuple(self.draft.seats.open)
        self._open_blocks = {id(seat.block) for seat in open_seats}
        # what is understood is worked out first: it belongs to no rule
        self.open_intent = self.draft.recognised.intent
        """What is understood of the draft, its placeholders standing."""
        self.open_answers = tuple(
            ((seat.block.pass_, seat.block.component, seat.path), seat.node.value)
            for seat in open_seats
            if isinstance(seat.node.value, Template)
        )
        """Where placeholders stand, with the texts around them."""
        self.open_places: tuple[tuple[Scalar, str, Place], ...] = (
            *((one.node.value, one.shown, one.place) for one in open_seats if one.node.value is not None),
            *((one.body, one.name, Place(origin=one.origin)) for one in draft.sheet.companions),
        )
        """What is open, as a person names it, and where it stands; the seats tell it until the first filling only."""
        self._view = View(self.draft)
        self._noticed = run_noting(self._view)
        self.secret_seats = {id(seat.node): seat for seat in self.draft.seats if _is_secret(seat)}
        """The seats of secrets, by the identities of their nodes in the draft's sheet."""
        self.all_referred = all(isinstance(one.node.value, SecretRef) for one in self.secret_seats.values())
        """Whether every secret is a reference, so that it stands in a hole of its file."""
        self.left_out: dict[int, str] = {}
        """What stands in such a hole where the secret is left out, by its identity."""
        identity = self.resolved.intent.get(IDENTITY)
        self.machine: Text = identity.name if identity is not None and identity.name is not None else ""

    @property
    def rules_left(self) -> tuple[str, ...]:
        """The rules that must wait for what is filled in."""
        return tuple(rule.id for rule in self._noticed.waiting)

    @cached_property
    def found_before(self) -> tuple[tuple[Finding, ...], tuple[Finding, ...]]:
        """What is found before anything is filled in, worst first, and what of it is silenced."""
        kept, silenced = heard((*self._known, *self._noticed.before), self.resolved.silences)
        return in_order(kept), in_order(silenced)

    @cached_property
    def _known(self) -> tuple[Finding, ...]:
        """What was found on the way, by no rule."""
        return (*self.draft.findings, *self._unasked)

    @cached_property
    def _unasked(self) -> tuple[Finding, ...]:
        """Usual values of placeholders that nobody has."""
        out = []
        for name, (_, origin) in self.resolved.values.items():
            if name not in self.blanks:
                told = f"nothing in the draft asks for the usual value of {name}"
                hint = did_you_mean(name, self.blanks) if self.blanks else "take it out"
                out.append(finding_at("value-unused", Severity.ADVICE, told, Place(origin=origin), hint))
        return tuple(out)

    @cached_property
    def unknown(self) -> int:
        """Of how many questions nobody knows whether they are asked; no value that is filled in changes that."""
        return unknown_in(self.draft)

    @cached_property
    def sources(self) -> tuple[tuple[str, str], ...]:
        """The draft and its profiles, each with the SHA-256 of what stood in it."""
        files = ((self.draft.file, self.draft.data), *self.resolved.read)
        return tuple((file, sha256(data).hexdigest()) for file, data in files)

    @cached_property
    def casts(self) -> tuple[Cast, ...]:
        """The files with holes. Raises `ContentError` where a value cannot be written."""
        sheet = self.draft.sheet.map_values(self._left_out) if self.without_secrets else self.draft.sheet
        answers, *beside = self.draft.family.cast(sheet, self.target, self.draft.catalog.own)
        if self.stamp:
            told = stamp_text(self.target, self.resolved.head.title)
            answers = stamped(answers, *self.draft.family.stamp(self.target, told))
        return tuple(one.looked_through() for one in (answers, *beside))

    @cached_property
    def names(self) -> tuple[str, ...]:
        """The files' paths below the folder where they go: the answer file under the name of the route first."""
        folder, slash, _ = self.route.file.rpartition("/")
        return tuple(f"{folder}{slash}{one.name}" if one.name else self.route.file for one in self.casts)

    @cached_property
    def carrier(self) -> Carrier:
        """The files that go along."""
        return Carrier(self.resolved.intent, self.draft.path.parent)

    @property
    def secrets_open(self) -> tuple[SecretRef, ...]:
        """References to secrets in which placeholders stand."""
        return tuple(value for value, _, _ in self.open_places if isinstance(value, SecretRef))

    @cached_property
    def same_secrets(self) -> bool:
        """Whether no value that is filled in changes which secrets there are, and whose."""
        holes = [hole for cast in self.casts for hole in cast.holes if isinstance(hole.value, SecretRef)]
        blocks = {id(hole.block): hole.block for hole in holes}.values()
        return not any(blanks_of(hole.value) for hole in holes) and not any(_open(one.children) for one in blocks)

    def _left_out(self, _block: Block, way: tuple[Node, ...], value: Scalar) -> Scalar:
        return LEFT_OUT if value and (isinstance(value, SecretRef) or id(way[-1]) in self.secret_seats) else value

    def filled(self, values: Mapping[str, str]) -> Sheet:
        """The sheet with values in the place of placeholders."""

        def put(block: Block, way: tuple[Node, ...], value: Scalar) -> Scalar:
            try:
                return fill(value, values)
            except ValueError as error:
                names = ", ".join(dict.fromkeys(blanks_of(value)))
                place = Place(block.pass_, block.component, way[-1].name, way[-1].origin)
                hint = "fill in another value, or quote nothing around it"
                told = f"what is filled in for {names} does not fit: {error}"
                raise ContentError([finding_at("value-refused", Severity.ERROR, told, place, hint)]) from error

        return self.draft.sheet.map_values(put, self._open_blocks)

    def judged_with(self, sheet: Sheet, more: Sequence[Finding]) -> tuple[tuple[Finding, ...], tuple[Finding, ...]]:
        """What is found once the sheet is filled in that way, and ``more``: worst first; and what of it is silenced."""
        holds, found = self._found_with(sheet)
        if holds and not found and not more:
            return self.found_before
        before = self._noticed.before if holds else ()
        kept, silenced = heard([*self._known, *before, *found, *more], self.resolved.silences)
        return in_order(kept), in_order(silenced)

    def _found_with(self, sheet: Sheet) -> tuple[bool, list[Finding]]:
        """Whether all that the rules found before holds, and what they find else."""
        if sheet is self.draft.sheet or not self.blanks:
            return True, run(self._view, self._noticed.waiting)
        filled, same = refilled(self.draft, sheet)
        if not same:
            # a value says something new of other answers: nothing that was found without it holds
            return False, run(View(filled))
        return self._noticed.with_values(View(filled, self._view))


def _open(nodes: Iterable[Node]) -> bool:
    return any((node.value is not None and blanks_of(node.value)) or _open(node.children) for node in nodes)


def _is_secret(seat: Seat) -> bool:
    value = seat.node.value
    return isinstance(value, SecretRef) or (seat.setting is not None and seat.setting.secret and bool(value))


def prepare(draft: Subject, route: str, *, without_secrets: bool = False, stamp: bool = True) -> Prepared:
    """Prepares a draft for a route. Raises `WrongUseError` if the target has no such route."""
    assert draft.target is not None
    return Prepared(draft, route_named(route, draft.target), without_secrets=without_secrets, stamp=stamp)


def route_named(name: str, target: Target) -> Route:
    """The route of that name. Raises `WrongUseError` with the target's routes."""
    routes = routes_of(target)
    for route in routes:
        if route.name == name:
            return route
    names = [route.name for route in routes]
    raise WrongUseError(f"there is no route {name!r} for {target.name}", remedy=did_you_mean(name, names))


def route_to(kind: str, target: Target) -> Route:
    """The route that leads to a kind of place. Raises `WrongUseError` with those that there are."""
    routes = routes_of(target)
    for route in routes:
        if kind in route.to:
            return route
    if kind == "base":
        told = f"a system of {target.name} that is there already takes no answer file at its next start"
        raise WrongUseError(told, remedy="leave --base out")
    kinds = ", ".join(dict.fromkeys(one for route in routes for one in route.to))
    raise WrongUseError(f"files of {target.name} are not delivered to {kind}", remedy=f"there are: {kinds}")
