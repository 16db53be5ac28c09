"""A roster: a table with a row for each machine, whose columns fill the placeholders of drafts."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from functools import cached_property
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.routes import PLAIN, route_wanted
from fairledger.catalog.seats import Seat
from fairledger.catalog.secrecy import is_secret
from fairledger.delivery.fill import Filled, judged, machine_of
from fairledger.delivery.prepare import Prepared, prepare, route_to
from fairledger.fleet.table import Row, Table
from fairledger.intent.network import NETWORK
from fairledger.model.errors import ContentError, LedgerError, UnsaidError, WrongUseError
from fairledger.model.finding import Finding, Severity
from fairledger.model.showing import looks_secret, quoted
from fairledger.model.suggest import did_you_mean
from fairledger.model.values import SecretRef, Template, Text, blanks_of
from fairledger.profiles.resolve import Selection
from fairledger.storage.looking import real
from fairledger.subject.opening import Asked, opened_draft

DRAFT, VARIANT, MACHINE = "draft", "variant", "machine"
RESERVED = (DRAFT, VARIANT, MACHINE)
"""Columns that choose, and fill nothing."""
BY_THEMSELVES = ("serial", "asset")
"""Columns of which no two rows may hold the same, without anybody saying so."""
MOST_DRAFTS = 100
"""Drafts, with their variants, that one roster may choose among: each is prepared and kept."""


_Spot = tuple[str | None, int | None, int | None]
"""File, line and column."""


_ALONE = ("", "")
"""The draft and variant where no column chooses."""


class Noted(Struct, frozen=True):
    """Something that was found in a roster."""

    finding: Finding
    row: int | None = None
    """From 1, the head not counted; None where no row is meant."""
    heading: str | None = None
    """The name of the column."""


class Wishes(Struct, frozen=True, kw_only=True):
    """What is said along with a roster."""

    route: str | None = None
    kind: str = ""
    """The kind of place that the files are delivered to, which says the route; empty where none is meant."""
    named_by: str = ""
    unique: tuple[str, ...] = ()
    pass_over: tuple[str, ...] = ()
    asked: Asked = Asked()
    without_secrets: bool = False
    writes: bool = False
    """Whether files are written, so that it counts what they are called."""
    stamp: bool = True
    shard: tuple[int, int] = (1, 1)
    """Which of how many parts of the rows is meant: the first of eight has rows 1, 9, 17 and so on."""


class Lane:
    """A draft in one variant: prepared once, filled for each of its rows."""

    def __init__(self, path: Path, variant: str, wishes: Wishes, data: bytes | None = None) -> None:
        on_top = wishes.asked.selection.on_top if wishes.asked.selection is not None else ()
        selection = Selection(variant=variant, on_top=on_top) if variant or on_top else None
        draft = opened_draft(path, replace(wishes.asked, selection=selection), data)
        assert draft.target is not None
        route = wishes.route or draft.facts.route
        if wishes.kind:
            route = route_to(wishes.kind, draft.target).name
        elif wishes.writes:
            route = route_wanted(route, draft.target)
        self.prepared: Prepared = prepare(
            draft, route or PLAIN, without_secrets=wishes.without_secrets, stamp=wishes.stamp
        )
        self._always: frozenset[Finding] | None = None
        taken = next((name for name in self.prepared.blanks if name in RESERVED), None)
        if taken is not None:
            told = f"the placeholder ${{{taken}}} has the name of a column that chooses the {taken}"
            raise WrongUseError(told, file=str(path), remedy="give it another name")
        asks = next((one for one in self.prepared.secrets_open if any(by.kind == "ask" for by in one.sources)), None)
        if asks is not None:
            told = f"a secret that is asked for depends on ${{{blanks_of(asks)[0]}}}: it would be another in each row"
            raise WrongUseError(told, file=str(path), remedy="take ask out of the reference, or the placeholder")
        # looked at before anything is filled in: what is open then stands in the very same seats
        _ = self.common, self.headings, self.kinds, self.stands, self.secret, self.own
        name = self.prepared.machine
        answers = (template for _, template in self.prepared.open_answers)
        self.tells_name = isinstance(name, Template) and any(one.parts == name.parts for one in answers)
        """Whether the name stands in the file as it is, so that files of two names differ."""

    @cached_property
    def common(self) -> frozenset[Finding]:
        """What is found whatever is filled in."""
        return frozenset(self.prepared.found_before[0])

    def meet(self, findings: Collection[Finding]) -> None:
        """Notes what one of its rows had; what none was without is told of the draft."""
        if findings is self.prepared.found_before[0]:
            self._always = self.common if self._always is None else self._always & self.common
            return
        self._always = (self.common if self._always is None else self._always) & frozenset(findings)

    @property
    def met(self) -> frozenset[Finding] | None:
        """What none of its rows so far was without; None before the first."""
        return self._always

    @property
    def always(self) -> tuple[Finding, ...]:
        """What is found in every row, in order."""
        kept = self.common if self._always is None else self._always
        return tuple(sorted(kept, key=lambda one: one.sort_key))

    @cached_property
    def headings(self) -> dict[_Spot, tuple[str, ...]]:
        """The placeholders at each place of the draft."""
        found: dict[_Spot, tuple[str, ...]] = {}
        for seat in self.prepared.draft.seats.open:
            origin = seat.node.origin
            if seat.node.value is not None:
                found[origin.file or None, origin.line, origin.column] = blanks_of(seat.node.value)
        return found

    @cached_property
    def kinds(self) -> dict[str, set[str]]:
        """The kinds of values of the settings in which each placeholder stands."""
        found: dict[str, set[str]] = {}
        for seat in self.prepared.draft.seats.open:
            for name in blanks_of(seat.node.value) if seat.node.value is not None else ():
                found.setdefault(name, set()).add(seat.setting.kind if seat.setting is not None else "text")
        return found

    @cached_property
    def stands(self) -> dict[str, tuple[str, ...]]:
        """Where each placeholder stands, as a person names it."""
        found: dict[str, dict[str, None]] = {}
        for seat in self.prepared.draft.seats.open:
            for name in blanks_of(seat.node.value) if seat.node.value is not None else ():
                found.setdefault(name, {})[f"{seat.block.component}/{seat.shown}"] = None
        return {name: tuple(places) for name, places in found.items()}

    @cached_property
    def secret(self) -> frozenset[str]:
        """The placeholders that come to a secret itself, or a part of it."""
        found: set[str] = set()
        for seat in self.prepared.draft.seats.open:
            value = seat.node.value
            if isinstance(value, Template) and is_secret(seat):
                found |= {*value.names}
            elif isinstance(value, SecretRef):  # what only leads to a secret is none itself
                names = [one.name for one in value.sources if one.kind == "value"]
                found |= {blank for one in names if isinstance(one, Template) for blank in one.names}
        return frozenset(found)

    def hides(self, finding: Finding) -> bool:
        """Whether a finding only says that a secret stands in the file, which is told of its column."""
        names = self.headings.get((finding.file, finding.line, finding.column), ())
        return finding.rule == "secret-in-draft" and bool(self.secret.intersection(names))

    @cached_property
    def own(self) -> tuple[tuple[str, Text], ...]:
        """What belongs to one machine alone: kinds and texts, yet to be filled."""
        network = self.prepared.draft.recognised.intent.get(NETWORK)
        rows: list[tuple[str, Text]] = []
        for one in network.interface if network is not None else ():
            rows += [("address", one.address)] if one.address is not None else []
            rows += [("address", one.ipv6)] if one.ipv6 is not None and one.ipv6 not in ("auto", "dhcp", "off") else []
            rows += [("hardware address", one.name)] if one.name else []
        for seat in self.prepared.draft.seats:  # what no section understands
            text = seat.node.value
            if isinstance(text, str | Template) and seat.setting is not None:
                rows += [("address", text)] if "own-address" in seat.setting.traits else []
                rows += [("hardware address", text)] if _tells_apart(seat) else []
        return tuple(dict.fromkeys(rows))


def _tells_apart(seat: Seat) -> bool:
    """Whether it tells an item of a list, or a use of a component, from the others: an interface by its address."""
    around = seat.parent.setting if seat.parent is not None else None
    key = around.key if around is not None else seat.component.key if seat.component is not None else ""
    return bool(key) and seat.name == key


class Machine(Struct, frozen=True):
    """A row with what it comes to."""

    row: Row
    lane: Lane
    values: Mapping[str, str]
    name: str
    filled: Filled | None = None
    """What was found of it, if it was checked."""
    named_itself: bool = True
    """Whether the name is the filled one, not that of a column."""


class Roster:
    """A table, with the drafts that its rows fill."""

    def __init__(self, draft: Path, table: Table, wishes: Wishes) -> None:
        self.draft = draft
        self.table = table
        self.wishes = wishes
        self.folder = Path() if table.file == "the table" else Path(table.file).parent
        self.places = {name: at for at, name in enumerate(table.head)}
        for name in (*filter(None, (wishes.named_by,)), *wishes.unique, *wishes.pass_over):
            if name not in self.places:
                raise WrongUseError(f"the table has no column {quoted(name)}", remedy=did_you_mean(name, table.head))
        self._lanes: dict[tuple[str, str], Lane | LedgerError] = {}
        unique = dict.fromkeys((*wishes.unique, *BY_THEMSELVES))
        self.unique = tuple(name for name in unique if name in self.places)
        """The columns of which no two rows may hold the same."""
        self._chooses = DRAFT in self.places or VARIANT in self.places
        self.asked_for: set[str] = set()
        """The columns that some draft asks for."""

    def value(self, row: Row, name: str) -> str:
        """What a row says in a column; empty where there is no such column."""
        at = self.places.get(name)
        return row.cells[at] if at is not None else ""

    def rows(self) -> Iterator[Row]:
        """The rows that are meant. Raises `FileTroubleError`."""
        return (row for row in self.table if self.mine(row.number))

    def mine(self, number: int) -> bool:
        """Whether a row is meant."""
        part, parts = self.wishes.shard
        return number % parts == part % parts

    def met(self) -> Iterator[tuple[tuple[str, str], frozenset[Finding]]]:
        """What every row so far had, by drafts and variants."""
        for key, lane in self._lanes.items():
            if isinstance(lane, Lane) and lane.met is not None:
                yield key, lane.met

    def sources(self) -> Iterator[tuple[tuple[str, str], tuple[tuple[str, str], ...]]]:
        """By drafts and variants, what each was made of, with its SHA-256."""
        return ((key, lane.prepared.sources) for key, lane in self._lanes.items() if isinstance(lane, Lane))

    def meet(self, key: tuple[str, str], findings: frozenset[Finding]) -> None:
        """Notes what every row of a draft and a variant had that somebody else looked at."""
        lane = self._lanes.get(key)
        if isinstance(lane, Lane):
            lane.meet(findings)

    def lane(self, row: Row) -> Lane:
        """The draft and variant of a row. Raises what opening and preparing them does."""
        key = (self.value(row, DRAFT), self.value(row, VARIANT)) if self._chooses else _ALONE
        known = self._lanes.get(key)
        if known is None:
            if len(self._lanes) >= MOST_DRAFTS:
                told = f"the table chooses among more than {MOST_DRAFTS} drafts and variants"
                raise WrongUseError(told, remedy="split it by its column draft")
            try:
                known = Lane(self._chosen(key[0]), key[1], self.wishes)
                self.asked_for |= set(known.prepared.blanks)
            except UnsaidError:
                raise
            except LedgerError as error:
                known = error
            self._lanes[key] = known
        if isinstance(known, LedgerError):
            raise known
        return known

    def is_secret(self, name: str) -> bool:
        """Whether a column fills a secret, or sounds like one, so that nothing of it is shown."""
        return any(name in lane.secret for lane in self.lanes) or looks_secret(name)

    def hides(self, name: str) -> bool:
        """Whether nothing of a column is shown: it fills a secret, or nobody knows what it fills."""
        known = self.is_secret(name) or any(isinstance(one, LedgerError) for one in self._lanes.values())
        return known or not any(self.lanes)

    def as_text(self, name: str) -> bool:
        """Whether what stands in a column is a name, a serial number or a key, so that each digit counts."""
        kinds = {kind for lane in self.lanes for kind in lane.kinds.get(name, ())}
        return name in (*RESERVED, *BY_THEMSELVES, *self.wishes.unique) or not kinds <= {"integer", "size"}

    @property
    def lanes(self) -> Iterator[Lane]:
        """Those that rows have chosen so far."""
        return (one for one in self._lanes.values() if isinstance(one, Lane))

    def _chosen(self, named: str) -> Path:
        if not named:
            return self.draft
        path = self.folder / named
        if not real(path).is_relative_to(real(self.folder)):
            raise WrongUseError(f"the draft {quoted(named)} leaves the folder of the table", remedy="put it below that")
        return path

    def machine(self, row: Row, *, judge: bool = True) -> Machine:
        """A row with what it comes to; with ``judge`` it is checked.

        Raises `ContentError` where a value cannot stand where it is filled in.
        """
        lane = self.lane(row)
        blanks = lane.prepared.blanks
        values = {name: cell for name, at in self.places.items() if name in blanks and (cell := row.cells[at])}
        found = judged(lane.prepared, values) if judge else None
        filled_name = found.machine if found is not None else machine_of(lane.prepared, values)
        named = self.wishes.named_by or (MACHINE if MACHINE in self.places else "")
        name = self.value(row, named) if named else filled_name
        return Machine(row, lane, values, name or filled_name, found, name in ("", filled_name))

    def of_row(self, machine: Machine) -> Iterator[Noted]:
        """What is found in a row beyond what every row of its draft would have."""
        common = machine.lane.common
        found = machine.filled.report.findings if machine.filled is not None else ()
        machine.lane.meet(found)
        if found is machine.lane.prepared.found_before[0]:
            return
        for one in found:
            if one not in common and not machine.lane.hides(one):
                yield self.noted(one, machine.row, machine.lane)

    def noted(self, finding: Finding, row: Row, lane: Lane | None = None) -> Noted:
        """A finding in a row: its place is the row's, since that is what is to be changed."""
        names = lane.headings.get((finding.file, finding.line, finding.column), ()) if lane is not None else ()
        heading = next((name for name in names if name in self.places), None)
        if finding.rule == "placeholder-unfilled":
            empty = next((name for name in names if not self.value(row, name)), None)
            told = f"the cell is empty, and {finding.setting or 'the draft'} needs it"
            told = told if empty in self.places else f"nothing fills ${{{empty}}}, which {finding.setting} needs"
            hint = f'fill it in, or give what is usual in the draft: [values] {empty} = "..."'
            finding = replace(finding, message=told, hint=hint)
            heading = empty
        return Noted(replace(finding, file=self.table.file, line=row.line, column=None), row.number, heading)

    def refused(self, error: LedgerError, row: Row) -> Iterator[Noted]:
        """Why a row comes to nothing."""
        known = self._lanes.get((self.value(row, DRAFT), self.value(row, VARIANT)))
        lane = known if isinstance(known, Lane) else None
        if isinstance(error, ContentError):
            # what is wrong with the draft stands in it; what does not fit stands in the row
            for one in error.findings:
                yield self.noted(one, row, lane) if lane is not None else Noted(one, row.number)
            return
        yield self.noted(Finding("row-refused", Severity.ERROR, error.message, error.remedy), row)
