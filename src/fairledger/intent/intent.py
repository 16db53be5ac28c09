"""The intent: what is wanted for one machine, in portable sections, every field with its place."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property
from typing import Any, Generic, TypeVar

from msgspec import Struct

from fairledger.catalog.tidy import Choice
from fairledger.intent.part import Part
from fairledger.intent.walk import FieldPath, fields_below
from fairledger.model.places import NO_PLACE, Place, Placed

T = TypeVar("T")


class Section(Generic[T]):
    """A portable section: its name, the type of its table, and whether there are many of them."""

    def __init__(self, name: str, table: type[Part], *, many: bool = False, items: str = "") -> None:
        self.name = name
        self.table = table
        """The type of one table."""
        self.many = many
        """Whether the section is a list of tables."""
        self.items = items
        """The field whose items an address may name directly after the section."""

    @property
    def unwritten(self) -> frozenset[tuple[str, ...]]:
        """The names (from the section's on) of fields that no answer file holds by themselves."""
        below = fields_below(self.table, self.name)
        return frozenset(one.names for one in below if one.names[-1] in one.table.UNWRITTEN)


class Intent(Struct, frozen=True, dict=True):
    """Sections by name, and places by path of fields."""

    sections: dict[str, Any] = {}
    places: Mapping[FieldPath, Placed] = {}
    own: Mapping[str, Choice] = {}
    """The choices of one's own that the section ``own`` may make."""

    @cached_property
    def kept(self) -> dict[Any, Any]:
        """What others work out of it once."""
        return {}

    def get(self, section: Section[T]) -> T | None:
        """The section's value; None where nothing was said."""
        found: T | None = self.sections.get(section.name)
        return found

    def at(self, path: FieldPath) -> Any:
        """The value of a field."""
        here: Any = self.sections
        for step in path:
            here = here[step] if isinstance(step, int) or isinstance(here, dict) else getattr(here, step)
        return here

    def place(self, *path: str | int) -> Place:
        """Where a field comes from: its own place, else that of the nearest part around it, else of the first in it."""
        return self.placed(*path).place

    def placed(self, *path: str | int) -> Placed:
        """What can say where a field comes from; cheaper where few are asked."""
        for end in range(len(path), 0, -1):
            found = self.places.get(path[:end])
            if found is not None:
                return found
        return self._inside.get(path, NO_PLACE) if path else NO_PLACE

    @cached_property
    def _inside(self) -> dict[FieldPath, Placed]:
        """The first place inside each field."""
        first: dict[FieldPath, Placed] = {}
        for way, place in self.places.items():
            for end in range(1, len(way) + 1):
                first.setdefault(way[:end], place)
        return first
