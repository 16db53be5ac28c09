"""What every family offers, and what its section modules are given to work with."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog, catalog_of
from fairledger.catalog.common import Common
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.seats import Seat, Seats
from fairledger.intent.intent import Intent
from fairledger.intent.walk import FieldPath
from fairledger.model.facts import Facts
from fairledger.model.finding import Finding, Severity, finding_at
from fairledger.model.places import Origin, Placed
from fairledger.model.sheet import ITEM_ACTION, Block, Node, Sheet, SheetBuilder
from fairledger.model.target import Limits, Target
from fairledger.model.values import Scalar

if TYPE_CHECKING:
    from fairledger.catalog.address import Spot


class Reading(Struct, frozen=True):
    """An answer file, read."""

    sheet: Sheet
    findings: tuple[Finding, ...]
    """What is wrong with the file as such; the sheet holds what could be read all the same."""
    hints: dict[str, str]
    """What the file says of its target: ``image``, ``arch``, ..."""
    common: Common | None = None
    """With what its blocks are shared, if they are; their origins then bear no file name."""


class Words:
    """What translating a section needs: the target, the facts, and the sheet under construction."""

    def __init__(self, intent: Intent, target: Target, facts: Facts, out: SheetBuilder) -> None:
        self.intent = intent
        self.target = target
        self.facts = facts
        self.out = out
        self.findings: list[Finding] = []
        self.told: list[FieldPath] = []
        """The fields of which something has been said."""
        self.catalog = catalog_of(target.family, target)

    def origin(self, *path: str | int) -> Origin:
        """The origin of a field, marked with the section that translates it."""
        return replace(self.intent.place(*path).origin, by=str(path[0]))

    def cannot(self, path: FieldPath, what: str, why: str, instead: str, severity: Severity = Severity.ERROR) -> None:
        """Says aloud what the target cannot express; milder where leaving it out does no harm."""
        self.told.append(path)
        message = f"{self.target.name} cannot express {what}: {why}"
        self.findings.append(finding_at("not-expressible", severity, message, self.intent.place(*path), instead))

    def leave_out(self, path: FieldPath, value: object, fields: tuple[str, ...], why: str) -> None:
        """Says of each field that says something that it is left out, where that does no harm."""
        for field in fields:
            if getattr(value, field) not in (None, (), False, ""):
                named = ".".join(str(part) for part in (*path, field) if isinstance(part, str))
                self.cannot(
                    (*path, field), named, why, "nothing needs to be done if it is meant for others", Severity.ADVICE
                )

    def field_error(self, path: FieldPath, message: str, hint: str) -> None:
        """Says that a field's value makes no sense."""
        self.told.append(path)
        self.findings.append(finding_at("field-value", Severity.ERROR, message, self.intent.place(*path), hint))


class Reader:
    """What recognising needs: the sheet by seats, and a record of what has been understood."""

    def __init__(self, seats: Seats, target: Target | None) -> None:
        self.seats = seats
        self.catalog = seats.catalog
        self.target = target
        self.places: dict[FieldPath, Placed] = {}
        self.kept: dict[Any, Any] = {}
        """What section modules look up once and use again, under keys of their own."""
        self.section = ""
        """The section that is being looked for."""
        self.understood: dict[int, str] = {}
        """The section as which a node or block was understood, by its identity."""

    def find(self, pass_: str, component: str, path: str) -> list[Seat]:
        """Every seat at a path (blocks for an empty one) that nobody has taken yet."""
        found = self.seats.find(pass_, component, path)
        return [one for one in found if id(one.node if path else one.block) not in self.understood] if found else []

    def first(self, pass_: str, component: str, path: str) -> Seat | None:
        """The first of them."""
        found = self.find(pass_, component, path)
        return found[0] if found else None

    def take(self, seat: Seat | None, *path: str | int, whole: bool = False) -> None:
        """Notes that a seat (with ``whole``: and all below it) has been understood as the field at ``path``."""
        if seat is None:
            return
        understood, section = self.understood, self.section
        understood[id(seat.node)] = section
        if whole and seat.children:
            for one in seat.walk():
                understood[id(one.node)] = section
        if path:
            self.places.setdefault(path, seat)

    def take_block(self, root: Seat, *path: str | int) -> None:
        """Notes that a block has been understood by its mere presence."""
        self.understood[id(root.block)] = self.section
        if path:
            self.places.setdefault(path, root)

    def misread(self) -> set[str]:
        """The sections that took an item which a file takes away or alters; what they took is nobody's again."""
        items = [one.parent.walk() for one in self.seats.unknown if one.name == ITEM_ACTION and one.parent is not None]
        wrong = {self.understood[id(one.node)] for item in items for one in item if id(one.node) in self.understood}
        if wrong:
            self.understood = {at: name for at, name in self.understood.items() if name not in wrong}
        return wrong

    def remainder(self) -> Sheet:
        """The sheet without what has been understood."""
        return self.seats.sheet.without(lambda one: id(one) in self.understood)


class Family(Protocol):
    """A language of answer files."""

    @property
    def name(self) -> str:
        """Its word, as in targets."""

    @property
    def hiding(self) -> str:
        """What its way of hiding secrets is worth, in a sentence; told once when a file is written."""

    @property
    def suffixes(self) -> tuple[str, ...]:
        """File names that are probably its own."""

    def limits(self, target: Target | None) -> Limits:
        """What its installer can and cannot do."""

    def read(
        self, data: bytes, file: str, root: Path | None = None, own: Own = NOTHING, common: Common | None = None
    ) -> Reading:
        """Reads an answer file. Raises `FileTroubleError` if it is no text or too deep.

        ``root`` is the folder in which files that it takes in are looked for; without it they are only told.
        ``own`` adds to the catalog. What is read may be shared with other files by ``common``.
        """

    def write(self, sheet: Sheet, target: Target, own: Own = NOTHING) -> bytes:
        """The answer file of a sheet without open placeholders and secrets. Raises `ContentError`."""

    def grammar(self, catalog: Catalog) -> bytes | None:
        """A RELAX NG grammar of a target's answer files; None where they are not XML."""

    def settle(self, sheet: Sheet, facts: Facts) -> Sheet:
        """Last touches to a sheet that a draft came to, such as the architecture of its components."""

    def revise(self, text: str, seats: Seats, spot: Spot, value: Scalar | None) -> str:
        """An answer file's text with one answer set (with None: taken out), all other text as it was.

        Raises `WrongUseError` where that is impossible.
        """

    def guess(self, reading: Reading) -> tuple[Target, str] | None:
        """The target that a file was probably made for, and what says so."""

    def groups(self) -> dict[str, str]:
        """The groups that every system brings, by their names in lower case, those of other display languages too.

        Each with the name that is right in all of them; empty where nobody can know.
        """

    def zone_name(self, iana: str) -> str:
        """How its answer files write a time zone."""

    def conceal(self, block: Block, way: tuple[Node, ...], secret: str, *, form: str, machine: str) -> str:
        """How a secret is written into the node at the end of ``way``.

        ``form`` says what the secret is (``plain`` or ``hash``), ``machine`` is the machine's name.
        """

    def unveiled(self, sheet: Sheet) -> Sheet:
        """A sheet whose encoded secrets stand as they are, so that they can be compared; never to be shown."""

    def mended(self, text: str, sheet: Sheet, findings: Sequence[Finding]) -> tuple[str, str] | None:
        """The text with the first thing corrected that only this family's syntax knows, and what that was."""

    def comments(self, text: str) -> list[tuple[int, str]]:
        """The comments of an answer file, each with the line in which it ends."""

    def companions_of(self, sheet: Sheet) -> tuple[str, ...]:
        """The names of the scripts beside the answer file that it calls."""

    def readable(self, block: Block, way: tuple[Node, ...]) -> bool:
        """Whether a secret in the node at the end of ``way`` stands readable in the answer file."""

    def garbled(self, block: Block, way: tuple[Node, ...]) -> bool:
        """Whether a secret in the node at the end of ``way`` is said to be encoded, and is not."""

    def meant(self, line: str) -> str:
        """The well-known command that a command line nearly is, and is not; empty if there is none."""

    def disagrees(self, reading: Reading, target: Target) -> str:
        """What in a file says that it is for another target; empty if nothing does."""

    def hides(self, setting_parent: str, component: str) -> bool:
        """Whether the family has an encoding for secrets in that group of settings."""
