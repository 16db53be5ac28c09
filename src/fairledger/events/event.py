"""One thing that an answer file does to a machine."""

from __future__ import annotations

from enum import StrEnum

from msgspec import Struct


class Weight(StrEnum):
    """How much a reader must mind an event."""

    NOTE = "note"
    CARE = "care"
    DANGER = "danger"


class Event(Struct, frozen=True, kw_only=True, rename={"as_": "as"}):
    """One thing that happens, in a sentence, with all that is known of it."""

    chapter: str
    """Under which head it is told."""
    phase: str | None = None
    """The pass or section of the file in which it stands; None for what nobody says."""
    moment: str | None = None
    """When that is, in a sentence."""
    as_: str | None = None
    """Whom a command runs as."""
    what: str
    severity: Weight = Weight.NOTE
    destroys: tuple[str, ...] = ()
    """What is lost: disks, by their names here."""
    asks: str | None = None
    """The question that stops the installation."""
    restarts: bool = False
    """Whether the machine restarts or ends with it."""
    rights: str | None = None
    """With what rights a command runs."""
    sure: bool = True
    """False where the catalog is not certain of what it does."""
    quote: str = ""
    """A command or script, as it is."""
    says: tuple[str, ...] = ()
    """What the quotation does, in words, as far as it is understood."""
    warnings: tuple[str, ...] = ()
    """What a reader should know of the quotation."""
    file: str | None = None
    line: int | None = None
    """1-based."""
