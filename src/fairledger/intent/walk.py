"""The one way through the tables of sections: through what they can hold, and through what one of them holds."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import cache
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.intent.fields import FieldType, defaults_of, fields_of
from fairledger.intent.part import Part

FieldPath = tuple[str | int, ...]
"""From a section's name down to a field: names, and places in lists from 0."""


class Field(Struct, frozen=True):
    """A field that holds no table: its names from the section's on, the table it stands in, and what it accepts."""

    names: tuple[str, ...]
    table: type[Part]
    kind: FieldType


@cache
def fields_below(table: type[Part], *names: str) -> tuple[Field, ...]:
    """Every field of a table and of the tables inside it, in their order; ``names`` lead to the table."""
    out: list[Field] = []
    for name, kind in fields_of(table).items():
        way = (*names, name)
        out += fields_below(kind.inner, *way) if kind.inner is not None else (Field(way, table, kind),)
    return tuple(out)


def walked(value: Any, path: FieldPath) -> Iterator[tuple[FieldPath, Any]]:
    """Every field that holds no table, with its path, of a table or of a list of tables."""
    if isinstance(value, Part):
        for name in value.__struct_fields__:
            yield from walked(getattr(value, name), (*path, name))
    elif is_tables(value):
        for at, item in enumerate(value):
            yield from walked(item, (*path, at))
    else:
        yield path, value


def said(value: Any, path: FieldPath) -> list[FieldPath]:
    """The paths of all fields that say something, of a table or of a list of tables."""
    out: list[FieldPath] = []
    _gather(value, path, out)
    return out


def _gather(value: Any, path: FieldPath, out: list[FieldPath]) -> None:
    if is_tables(value):
        for at, item in enumerate(value):
            _gather(item, (*path, at), out)
        return
    if not isinstance(value, Part):
        out.append(path)
        return
    usual = defaults_of(type(value))
    for name in value.__struct_fields__:
        inner, below = getattr(value, name), (*path, name)
        if isinstance(inner, Part):
            before = len(out)
            _gather(inner, below, out)
            if inner.ALONE and len(out) == before:
                out.append(below)
        elif inner not in (None, (), "") and not (inner is False and usual[name] is False):
            if isinstance(inner, tuple) and isinstance(inner[0], Part):
                _gather(inner, below, out)
            else:
                out.append(below)


Change = Callable[[FieldPath, Any], Any]


def changed(value: Any, change: Change, path: FieldPath = ()) -> Any:
    """The same tables with each field that holds none changed: ``change`` gets its path and value."""
    if isinstance(value, Part):
        names = value.__struct_fields__
        return replace(value, **{name: changed(getattr(value, name), change, (*path, name)) for name in names})
    if is_tables(value):
        return tuple(changed(item, change, (*path, at)) for at, item in enumerate(value))
    return change(path, value)


def is_tables(value: Any) -> bool:
    """Whether a value is a list of tables, with at least one in it."""
    return isinstance(value, tuple) and bool(value) and isinstance(value[0], Part)


def names_of(path: FieldPath) -> tuple[str, ...]:
    """A path without the places of list items."""
    return tuple(step for step in path if isinstance(step, str))


def told(value: object) -> str:
    """A field's value as a person writes it; secrets only as where they come from."""
    if isinstance(value, bool):
        return "true" if value else "false"
    return ", ".join(told(one) for one in value) if isinstance(value, tuple) else str(value)
