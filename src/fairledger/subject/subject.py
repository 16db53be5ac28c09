"""What everything works on: a draft or an answer file, opened once."""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.common import Common
from fairledger.catalog.seats import Seat, Seats
from fairledger.families.build import Recognised, recognise, recognise_again
from fairledger.families.interface import Family, Scripted
from fairledger.intent.intent import Intent
from fairledger.model.errors import ContentError
from fairledger.model.facts import Facts
from fairledger.model.finding import Finding, Severity
from fairledger.model.sheet import Sheet
from fairledger.model.target import Limits, Target
from fairledger.storage.files import decode_as

if TYPE_CHECKING:
    from fairledger.profiles.document import Document
    from fairledger.profiles.resolve import Resolved


class FileKind(Enum):
    """What a file is."""

    DRAFT = "draft"
    PROFILE = "profile"
    ANSWERS = "answer file"


class Opened(Struct, frozen=True, kw_only=True, dict=True):
    """A file that was opened, although perhaps nobody can tell what it is for: a profile, or a broken draft."""

    path: Path
    data: bytes
    kind: FileKind
    findings: tuple[Finding, ...] = ()
    """What was found on the way: by reading, resolving and translating."""
    document: Document | None = None
    """A draft or profile as it stands in its file; None if even that could not be read, and for answer files."""

    @property
    def file(self) -> str:
        """As the user would name it."""
        return str(self.path)

    @cached_property
    def _decoded(self) -> tuple[str, str]:
        return decode_as(self.data, self.file)

    @property
    def text(self) -> str:
        """The file's text. Raises `FileTroubleError` if it is none."""
        return self._decoded[0]

    @property
    def encoding(self) -> str:
        """In which encoding the text is written. Raises `FileTroubleError`."""
        return self._decoded[1]


class Subject(Opened, frozen=True, kw_only=True, dict=True):
    """A file whose language is known; what is dear is worked out when somebody first asks for it."""

    family: Family
    target: Target | None
    """None if nobody knows it: the family's whole catalog serves then."""
    basis: str
    """How the target is known: stated, or guessed from what; empty if it is not."""
    line: str = ""
    """The line of releases that an answer file seems to be for."""
    catalog: Catalog
    facts: Facts
    sheet: Sheet = Sheet()
    whole: bool = True
    """False for a draft that comes to no sheet; its findings say why."""
    draft: Resolved | None = None
    """What a draft and its profiles say; None for answer files."""
    plains: Mapping[str, str] = {}
    """Secrets behind hashes, where a draft says them; never shown."""
    common: Common | None = None
    """With what its blocks are shared, if they are."""

    @cached_property
    def seats(self) -> Seats:
        """The sheet seen with its catalog."""
        return Seats(self.sheet, self.catalog, self.common)

    @cached_property
    def recognised(self) -> Recognised:
        """What the sheet means, and what of it nobody could read."""
        return recognise(self.seats, self.target)

    @property
    def intent(self) -> Intent:
        """What the sheet means."""
        return self.recognised.intent

    @property
    def understood(self) -> Mapping[int, str]:
        """The section as which a node or block (by its identity in memory) was understood."""
        return self.recognised.understood

    @cached_property
    def scripted(self) -> tuple[Scripted, ...]:
        """What scripts of the file write that its installer then takes in."""
        return self.family.scripted(self.seats)

    @cached_property
    def unseen(self) -> list[Seat]:
        """The uses of components that take in what nobody can know all of."""
        known = {id(one.at) for one in self.scripted if one.whole}
        takes_in = (one for one in self.seats.roots if one.component is not None and "takes-in" in one.component.traits)
        return [one for one in takes_in if id(one) not in known]

    @cached_property
    def limits(self) -> Limits:
        """What the target's installer can and cannot do."""
        return self.family.limits(self.target)

    def let_go(self) -> None:
        """Undoes circles of what was worked out, so that what one file took serves the next at once."""
        if "seats" in self.__dict__:
            self.seats.let_go()


def usable(one: Opened) -> Subject:
    """The subject, if the file came to one. Raises `ContentError` with all that is wrong."""
    if isinstance(one, Subject) and one.whole:
        return one
    raise ContentError([finding for finding in one.findings if finding.severity == Severity.ERROR] or one.findings)


def refilled(subject: Subject, sheet: Sheet) -> tuple[Subject, bool]:
    """The same file with its placeholders filled, and whether it means the same apart from these.

    It takes over the seats, so that only one filling can be looked at, until the next; the seats of a sheet with open
    placeholders are never dear, but what they mean is.
    """
    before = subject.recognised
    changed = subject.seats.refill(sheet)
    again = recognise_again(before, subject.seats, changed)
    filled = replace(subject, sheet=sheet, common=None)
    known = again or recognise(subject.seats, subject.target)
    filled.__dict__.update(seats=subject.seats, recognised=known, limits=subject.limits)
    return filled, again is not None


def with_sheet(subject: Subject, sheet: Sheet, *, facts: Facts | None = None) -> Subject:
    """The same file with another sheet, of which nothing is worked out yet."""
    return replace(subject, sheet=sheet, facts=facts or subject.facts, common=None)
