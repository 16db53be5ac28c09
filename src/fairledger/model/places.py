"""Where things stand: in a file that somebody wrote, and in an answer sheet."""

from __future__ import annotations

from typing import Protocol

from msgspec import Struct
from msgspec.structs import replace


class Origin(Struct, frozen=True, gc=False):
    """The file and line that asked for something, and what it overrode there."""

    file: str = ""
    """As the user would name it; empty when nobody's file asked for it."""
    line: int | None = None
    """1-based."""
    column: int | None = None
    """1-based, counted in characters."""
    overrode: tuple[Origin, ...] = ()
    """Where the values stood that this one replaced, latest first."""
    by: str = ""
    """The portable section that translated it, if any (``locale``)."""

    def __str__(self) -> str:
        if not self.file:
            return "-"
        return f"{self.file}:{self.line}" if self.line else self.file


NOWHERE = Origin()


class Place(Struct, frozen=True, gc=False):
    """A seat in an answer sheet, and where its content came from."""

    pass_: str | None = None
    component: str | None = None
    setting: str | None = None
    """The path with items in brackets, as the user may type it."""
    origin: Origin = NOWHERE

    @property
    def place(self) -> Place:
        """Itself: a place is as good as what stands there."""
        return self


def line_below(place: Place, lines: int) -> Place:
    """The place so many lines below, in a text of several lines."""
    origin = place.origin
    if not lines or origin.line is None:
        return place
    return replace(place, origin=replace(origin, line=origin.line + lines, column=None))


class Placed(Protocol):
    """What can say where it stands, if anybody asks."""

    @property
    def place(self) -> Place:
        """Where it stands."""


NO_PLACE = Place()
