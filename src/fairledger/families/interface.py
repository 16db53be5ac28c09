"""What every family offers, and what its section modules are given to work with."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog, catalog_of
from fairledger.catalog.common import Common
from fairledger.catalog.items import in_order
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.seats import Seat, Seats
from fairledger.catalog.tidy import Chosen, Effect
from fairledger.families.casting import Cast
from fairledger.intent.intent import Intent
from fairledger.intent.walk import FieldPath
from fairledger.model.errors import WrongUseError
from fairledger.model.facts import Facts
from fairledger.model.finding import Finding, Severity, finding_at
from fairledger.model.places import Origin, Placed
from fairledger.model.sheet import ITEM_ACTION, Block, Companion, Node, Sheet, SheetBuilder
from fairledger.model.target import Limits, Target
from fairledger.model.trace import Kept
from fairledger.model.values import Scalar
from fairledger.profiles.seed import Salt

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

    def needless(self, path: FieldPath, what: str, why: str) -> None:
        """Says that a field is right already without anything being written."""
        self.told.append(path)
        message = f"{self.target.name} has no use for {what}: {why}"
        hint = "nothing needs to be done"
        self.findings.append(finding_at("not-expressible", Severity.ADVICE, message, self.intent.place(*path), hint))

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


Rows = tuple[tuple[str, str], ...]
"""Fields with the settings that hold them."""


class Reader:
    """What recognising needs: the sheet by seats, and a record of what has been understood."""

    def __init__(self, seats: Seats, target: Target | None) -> None:
        self.seats = seats
        self.catalog = seats.catalog
        self.target = target
        self.places: dict[FieldPath, Placed] = {}
        self.kept = Kept(seats.trace)
        """What section modules look up once and use again, under keys of their own."""
        self.section = ""
        """The section that is being looked for."""
        self.understood: dict[int, str] = {}
        """The section as which a node or block was understood, by its identity."""

    def find(self, pass_: str, component: str, path: str) -> list[Seat]:
        """Every seat at a path (blocks for an empty one) that nobody has taken yet."""
        found = self.seats.find(pass_, component, path)
        if len(found) > 1 and found[0].component is not None and found[0].component.ordinal_of(path) is not None:
            found = in_order(found)
        # nodes are equal by what they hold: only their identity tells two of them apart
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
        understood.setdefault(id(seat.node), section)
        if whole and seat.children:
            for one in seat.walk():
                understood.setdefault(id(one.node), section)
        if path:
            # the first seat that says a field is where it comes from
            self.places.setdefault(path, seat)

    def take_fields(
        self, root: Seat, rows: Rows, path: FieldPath, fields: dict[str, Any], of: Callable[[Seat | None], Any]
    ) -> None:
        """Takes each field whose setting stands below ``root``, read by ``of``, which gives None for what it is not."""
        for field, setting in rows:
            seat = root.child(setting)
            value = of(seat) if seat is not None else None
            if value is not None:
                fields[field] = value
                self.take(seat, *path, field)

    def take_block(self, root: Seat, *path: str | int) -> None:
        """Notes that a block has been understood by its mere presence."""
        self.understood.setdefault(id(root.block), self.section)
        if path:
            self.places.setdefault(path, root)

    def misread(self) -> set[str]:
        """The sections that took an item which a file takes away or alters; what they took is nobody's again."""
        # such an item says what must go, not what is: a section that took it read the opposite
        items = [one.parent.walk() for one in self.seats.unknown if one.name == ITEM_ACTION and one.parent is not None]
        wrong = {self.understood[id(one.node)] for item in items for one in item if id(one.node) in self.understood}
        if wrong:
            self.understood = {at: name for at, name in self.understood.items() if name not in wrong}
        return wrong

    def remainder(self) -> Sheet:
        """The sheet without what has been understood."""
        return self.seats.sheet.without(lambda one: id(one) in self.understood)


class Scripted(Struct, frozen=True):
    """Commands that a script of the file writes into another one, which the installer then takes in."""

    file: str
    by: Seat
    """The script."""
    at: Seat
    """What takes the file in."""
    sheet: Sheet
    """What can be read of them, each with its line in the script."""
    whole: bool
    """Whether the script can write nothing else."""


class Family(ABC):
    """A language of answer files. A family states what it has; the rest is answered for it, as honestly as can be."""

    name: str
    """Its word, as in targets."""
    typed: bool = False
    """Whether its files tell kinds of scalars apart: text from numbers, nothing from what is absent."""
    adds_up: bool = False
    """Whether several blocks of a component that stands once are as good as one; else each is a line of its own."""
    undoes: bool = False
    """Whether it can write a script that takes choices back."""
    hiding: str = ""
    """What its way of hiding secrets is worth, in a sentence that is told when a file is written; empty without one."""

    @abstractmethod
    def limits(self, target: Target | None) -> Limits:
        """What its installer can and cannot do."""

    @abstractmethod
    def read(
        self, data: bytes, file: str, root: Path | None = None, own: Own = NOTHING, common: Common | None = None
    ) -> Reading:
        """Reads an answer file. Raises `FileTroubleError` if it is no text or too deep.

        ``root`` is the folder in which files that it takes in are looked for; without it they are only told.
        ``own`` adds to the catalog. What is read may be shared with other files by ``common``.
        """

    @abstractmethod
    def cast(self, sheet: Sheet, target: Target, own: Own = NOTHING) -> tuple[Cast, ...]:
        """The files that a sheet comes to, the answer file first, with a hole for each value that is still open.

        Raises `ContentError` where a value cannot be written.
        """

    def write(self, sheet: Sheet, target: Target, own: Own = NOTHING) -> bytes:
        """The answer file of a sheet in which nothing is open. Raises `ContentError`, `ValueError` if something is."""
        answers = self.cast(sheet, target, own)[0]
        left = next(answers.holes, None)
        if left is not None:
            raise ValueError(f"{left.way[-1].name} is still open: {left.value}")
        return answers.whole(lambda hole: str(hole.value))

    def stamp(self, target: Target, told: str) -> tuple[int, str]:  # noqa: ARG002
        """Where a comment of those words stands in an answer file (after how many lines), and how it is written."""
        return 0, ""

    def guess(self, reading: Reading) -> tuple[Target, str] | None:  # noqa: ARG002
        """The target that a file was probably made for, and what says so; None if nobody can tell."""
        return None

    def disagrees(self, reading: Reading, target: Target) -> str:  # noqa: ARG002
        """What in a file says that it is for another target; empty if nothing does."""
        return ""

    def grammar(self, catalog: Catalog) -> bytes | None:  # noqa: ARG002
        """A RELAX NG grammar of a target's answer files; None where they are not XML."""
        return None

    def settle(self, sheet: Sheet, facts: Facts) -> Sheet:  # noqa: ARG002
        """Last touches to a sheet that a draft came to, such as the architecture of its components."""
        return sheet

    def revise(self, text: str, seats: Seats, spot: Spot, value: Scalar | None) -> str:  # noqa: ARG002
        """An answer file's text with one answer set (with None: taken out), all other text as it was.

        Raises `WrongUseError` where that is impossible.
        """
        told = f"answer files of the family {self.name} cannot be corrected in place"
        raise WrongUseError(told, remedy="adopt the file, and change the draft")

    def mended(self, text: str, sheet: Sheet, findings: Sequence[Finding]) -> tuple[str, str] | None:  # noqa: ARG002
        """The text with the first thing corrected that only this family's syntax knows, and what that was."""
        return None

    def comments(self, text: str) -> list[tuple[int, str]]:  # noqa: ARG002
        """The comments of an answer file, each with the line in which it ends."""
        return []

    def aged(self, intent: Intent, target: Target) -> Iterator[tuple[str, str, str, bool]]:  # noqa: ARG002
        """What a release does not honour any more, or of which nobody knows that it does: section, field, a sentence,
        and whether it is certain."""
        yield from ()

    def companions_of(self, sheet: Sheet) -> tuple[str, ...]:  # noqa: ARG002
        """The names of the scripts beside the answer file that it calls."""
        return ()

    def scripted(self, seats: Seats) -> tuple[Scripted, ...]:  # noqa: ARG002
        """What scripts of the file write that its installer then takes in."""
        return ()

    def groups(self) -> dict[str, str]:
        """The groups that every system brings, by their names in lower case, those of other display languages too.

        Each with the name that is right in all of them; empty where nobody can know.
        """
        return {}

    def zone_name(self, iana: str) -> str:
        """How its answer files write a time zone."""
        return iana

    def companion(self, name: str, text: str) -> Companion:
        """A file beside the answer file as it was read, its secret apart."""
        return Companion(name, text)

    def chosen(self, intent: Intent, target: Target, facts: Facts) -> tuple[Chosen, ...]:  # noqa: ARG002
        """The choices that an intent makes, and what each comes to on a release."""
        return ()

    def spoken(self, body: str, interpreter: str, target: Target, *, sign_in: bool) -> tuple[tuple[str, ...], int]:  # noqa: ARG002
        """What a command or script does, in words, and how many of its lines nobody understood."""
        return (), 0

    def changes(self, body: str, interpreter: str) -> tuple[tuple[int, Effect], ...]:  # noqa: ARG002
        """What a command or script changes, with the lines (1-based) that say so."""
        return ()

    def taken_back(self, intent: Intent, target: Target, ending: str) -> str:  # noqa: ARG002
        """A script of a kind, told by the ending of its file, that takes choices back; empty if there is none."""
        return ""

    def unwrapped(self, line: str) -> tuple[str, tuple[str, ...]]:
        """The command that a line of our own form brings about in the end, and in a few words how."""
        return line, ()

    def meant(self, line: str) -> str:  # noqa: ARG002
        """The well-known command that a command line nearly is, and is not; empty if there is none."""
        return ""

    def hides(self, setting_parent: str, component: str) -> bool:  # noqa: ARG002
        """Whether the family has an encoding or a hash for secrets in that group of settings."""
        return False

    def veil(self, way: tuple[Node, ...]) -> str | None:  # noqa: ARG002
        """What the last node of ``way`` says once the secret beside it is hidden; None if it says nothing of that."""
        return None

    def readable(self, block: Block, way: tuple[Node, ...]) -> bool:  # noqa: ARG002
        """Whether a secret in the node at the end of ``way`` stands readable in the answer file."""
        return True

    def extra_fault(self, text: str) -> tuple[str, str]:  # noqa: ARG002
        """What is wrong with something that is kept as it stands, and the remedy; empty if nothing is."""
        return "", ""

    def garbled(self, block: Block, way: tuple[Node, ...]) -> bool:  # noqa: ARG002
        """Whether a secret in the node at the end of ``way`` is said to be encoded, and is not."""
        return False

    def conceal(
        self,
        block: Block,  # noqa: ARG002
        way: tuple[Node, ...],  # noqa: ARG002
        secret: str,
        *,
        form: str,  # noqa: ARG002
        salt: Salt,  # noqa: ARG002
    ) -> str:
        """How a secret is written into the node at the end of ``way``; as it is, where the family hides none.

        ``form`` says what the secret is (``plain`` or ``hash``), ``salt`` gives the salt of an account's hash.
        """
        return secret

    def unveiled(self, sheet: Sheet) -> Sheet:
        """A sheet whose encoded secrets stand as they are, so that they can be compared; never to be shown."""
        return sheet
