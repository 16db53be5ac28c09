"""The intent: what is wanted for one machine, in portable sections, every field with its place."""

from __future__ import annotations

from typing import Any, Generic, TypeVar, cast

from msgspec import Struct

from fairledger.model.places import NO_PLACE, Place

T = TypeVar("T")
FieldPath = tuple[str | int, ...]
"""From a section's name down to a field: names, and places in lists from 0."""


class Section(Generic[T]):
    """A portable section: its name, the type of its table, and how its list items are told apart."""

    def __init__(self, name: str, table: type[Struct], *, many_by: str = "", items: str = "") -> None:
        self.name = name
        self.table = table
        """The type of one table."""
        self.many_by = many_by
        """Set if the section is a list of tables: the field that tells them apart."""
        self.items = items
        """The field whose items an address may name directly after the section."""


class Intent(Struct, frozen=True):
    """Sections by name, and places by path of fields."""

    sections: dict[str, Any] = {}
    places: dict[FieldPath, Place] = {}

    def get(self, section: Section[T]) -> T | None:
        """The section's value; None where nothing was said."""
        return cast("T | None", self.sections.get(section.name))

    def place(self, *path: str | int) -> Place:
        """Where a field comes from: its own place, else that of the nearest part around it."""
        for end in range(len(path), 0, -1):
            if path[:end] in self.places:
                return self.places[path[:end]]
        return NO_PLACE
