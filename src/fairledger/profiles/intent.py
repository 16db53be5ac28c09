"""The intent: what is wanted for one machine, in portable sections, every field with its place."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import cache
from typing import Any, Generic, TypeVar

from msgspec import Struct
from msgspec.structs import fields

from fairledger.model.places import NO_PLACE, Place, Placed

T = TypeVar("T")
FieldPath = tuple[str | int, ...]
"""From a section's name down to a field: names, and places in lists from 0."""


class Section(Generic[T]):
    """A portable section: its name, the type of its table, and how its list items are told apart."""

    def __init__(
        self, name: str, table: type[Struct], *, many_by: str = "", items: str = "", unwritten: tuple[str, ...] = ()
    ) -> None:
        self.name = name
        self.table = table
        """The type of one table."""
        self.many_by = many_by
        """Set if the section is a list of tables: the field that tells them apart."""
        self.items = items
        """The field whose items an address may name directly after the section."""
        self.unwritten = unwritten
        """Paths of fields that count when drafts are resolved, or by what is not written."""


class Intent(Struct, frozen=True):
    """Sections by name, and places by path of fields."""

    sections: dict[str, Any] = {}
    places: Mapping[FieldPath, Placed] = {}

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
        """Where a field comes from: its own place, else that of the nearest part around it."""
        return self.spot(*path).place

    def spot(self, *path: str | int) -> Placed:
        """What can say where a field comes from; cheaper where few are asked."""
        for end in range(len(path), 0, -1):
            found = self.places.get(path[:end])
            if found is not None:
                return found
        return NO_PLACE


def said(value: object, path: FieldPath) -> Iterator[FieldPath]:
    """The paths of all fields of a section's value that say something, with the places of list items."""
    if isinstance(value, tuple) and value and isinstance(value[0], Struct) and _is_table(value[0]):
        for at, item in enumerate(value):
            yield from said(item, (*path, at))
    elif isinstance(value, Struct) and _is_table(value):
        for name, usual in _fields(type(value)):
            inner = getattr(value, name)
            silent = inner in (None, (), "") or (inner is False and usual is False)
            if not silent:
                yield from said(inner, (*path, name))
    else:
        yield path


def told(value: object) -> str:
    """A field's value as a person writes it; secrets only as where they come from."""
    if isinstance(value, bool):
        return "true" if value else "false"
    return ", ".join(told(one) for one in value) if isinstance(value, tuple) else str(value)


def names_of(path: FieldPath) -> tuple[str, ...]:
    """A path without the places of list items."""
    return tuple(step for step in path if isinstance(step, str))


@cache
def _fields(table: type[Struct]) -> tuple[tuple[str, object], ...]:
    """The names of a table's fields, with their defaults."""
    return tuple((field.name, field.default) for field in fields(table))


def _is_table(value: Struct) -> bool:
    return type(value).__module__.startswith("fairledger.profiles.")
