"""A TOML file as values with origins, before anybody knows what they mean; and how layers of it merge."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any, Self

from msgspec import Struct
from msgspec.structs import replace

from fairledger.intent.part import Part
from fairledger.model.errors import ContentError, FileTroubleError
from fairledger.model.finding import Finding, Severity
from fairledger.model.pattern import pattern
from fairledger.model.places import NOWHERE, Origin
from fairledger.model.toml_marks import Marks, marks_of
from fairledger.storage.files import MOST_LEVELS, MOST_PARTS, too_many


class Leaf(Struct, frozen=True):
    """A plain value: text, whole number, boolean; or something that no field takes (a date, a float)."""

    value: Any
    origin: Origin = NOWHERE


class Array(Struct, frozen=True):
    """A list of values or tables."""

    items: tuple[Raw, ...]
    origin: Origin = NOWHERE


class Table(Struct, frozen=True):
    """A table."""

    entries: dict[str, Raw]
    origin: Origin = NOWHERE

    def table(self, name: str) -> Table:
        """The table of that name; an empty one if there is none."""
        found = self.entries.get(name)
        return found if isinstance(found, Table) else Table({})


class Real(float):
    """A number with a point, which remembers how it is written: 1.10 is no 1.1 where a version is meant."""

    text: str

    def __new__(cls, text: str) -> Self:
        """The number that a text says."""
        made = super().__new__(cls, text)
        made.text = text
        return made


Raw = Leaf | Array | Table
EMPTY = Table({})

Shape = Callable[[tuple[str, ...]], type[Part] | None]
"""Tells which table the items of the list at a path of keys are; None where there is no list of tables."""


def parse(text: str, file: str) -> Table:
    """Reads TOML text. Raises `ContentError` where it is malformed, `FileTroubleError` where too deep."""
    import tomllib

    if _DEEP.search(text):
        raise _too_deep(file)
    if len(text) > _SMALL and text.count("=") + text.count(",") > MOST_PARTS:  # counted before they take memory
        raise too_many(file, "keys and items")
    try:
        data = tomllib.loads(text, parse_float=Real)
    except ValueError as error:  # also for numbers that no computer holds
        raise ContentError([_malformed(error, file, text)]) from error
    except RecursionError as error:
        raise _too_deep(file) from error
    deepest, parts = _measured(data)
    if deepest > MOST_LEVELS:
        raise _too_deep(file)
    if parts > MOST_PARTS:
        raise too_many(file, "keys and items")
    made = _made(data, (), marks_of(text), file)
    assert isinstance(made, Table)
    return made


_WORD = r"""(?:[A-Za-z0-9_-]{1,99}|"[^"\n]{0,99}"|'[^'\n]{0,99}')[ \t]{0,9}"""
_DEEP = pattern(rf"(?:{_WORD}\.[ \t]{{0,9}}){{{MOST_LEVELS}}}")
"""A key of so many parts, which would take the parser for ever."""
_SMALL = 1024 * 1024
"""Characters that are parsed whatever they hold."""


def _too_deep(file: str) -> FileTroubleError:
    told = f"the file is nested deeper than {MOST_LEVELS} levels"
    return FileTroubleError(told, file=file, remedy="is it the right file?")


def _measured(data: Any) -> tuple[int, int]:
    """How deep it is, and how many keys and items it holds."""
    most, parts, stack = 0, 0, [(data, 1)]
    while stack:
        value, level = stack.pop()
        most, parts = max(most, level), parts + 1
        if isinstance(value, dict):
            stack.extend((one, level + 1) for one in value.values())
        elif isinstance(value, list):
            stack.extend((one, level + 1) for one in value)
    return most, parts


def _malformed(error: ValueError, file: str, text: str) -> Finding:
    said = str(error)
    match = re.search(r" \(at line (\d+), column (\d+)\)$", said)
    message = re.sub(r" \(at .*\)$", "", said).rstrip(".")
    message = message[:1].lower() + message[1:]
    line, column = (int(match[1]), int(match[2])) if match else (text.count("\n") + 1, 1)
    return Finding(
        "toml-malformed",
        Severity.ERROR,
        f"the TOML text is malformed: {message}",
        "text stands in quotes, tables in [brackets], one key = value per line",
        file=file,
        line=line,
        column=column,
    )


def _made(data: Any, path: tuple[str | int, ...], marks: Marks, file: str) -> Raw:
    line, column = marks.get(path, (1, 1))
    origin = Origin(file, line, column)
    if isinstance(data, dict):
        return Table({key: _made(value, (*path, key), marks, file) for key, value in data.items()}, origin)
    if isinstance(data, list):
        return Array(tuple(_made(one, (*path, at), marks, file) for at, one in enumerate(data)), origin)
    return Leaf(data, origin)


def merged(low: Table, high: Table, shape: Shape, path: tuple[str, ...] = ()) -> Table:
    """Lays ``high`` over ``low``: tables key by key, lists of plain values replaced, lists of tables by identity.

    Absent keys leave what is below; false, zero and empty text override it. Inputs are not changed.
    """
    entries = dict(low.entries)
    for key, above in high.entries.items():
        below = entries.get(key)
        entries[key] = above if below is None else _over(below, above, shape, (*path, key))
    return Table(entries, high.origin if high.entries else low.origin)


def _over(below: Raw, above: Raw, shape: Shape, path: tuple[str, ...]) -> Raw:
    listed = shape(path)
    if listed is not None and isinstance(below, Array | Table) and isinstance(above, Array | Table):
        return _lists(_as_list(below), _as_list(above), shape, path, listed)
    if isinstance(below, Table) and isinstance(above, Table):
        return merged(below, above, shape, path)
    passed = below.origin
    overrode = (replace(passed, overrode=()), *passed.overrode)
    return replace(above, origin=replace(above.origin, overrode=overrode))


def _as_list(raw: Array | Table) -> Array:
    return raw if isinstance(raw, Array) else Array((raw,), raw.origin)


def _lists(low: Array, high: Array, shape: Shape, path: tuple[str, ...], listed: type[Part]) -> Array:
    items = list(low.items)
    for item in high.items:
        at = next((at for at, old in enumerate(items) if same(old, item, listed)), None)
        old = items[at] if at is not None else None
        if at is None or not isinstance(old, Table) or not isinstance(item, Table):
            items.append(item)
        elif listed.EXTENDS and not extends(item, listed):
            overrode = (replace(old.origin, overrode=()), *old.origin.overrode)
            items[at] = replace(item, origin=replace(item.origin, overrode=overrode))
        else:
            items[at] = merged(old, item, shape, path)
    return Array(tuple(items), high.origin)


def extends(item: Table, listed: type[Part]) -> bool:
    """Whether an item says that it changes an earlier one of its kind instead of replacing it."""
    said = item.entries.get(listed.EXTENDS)
    return isinstance(said, Leaf) and said.value is True


def same(old: Raw, new: Raw, listed: type[Part]) -> bool:
    """Whether two items of a list are the same one, by what tells them apart."""
    if not listed.KEY or not isinstance(old, Table) or not isinstance(new, Table):
        return False
    a, b = identity_of(old, listed), identity_of(new, listed)
    return a == b and type(a) is type(b)


def identity_of(item: Table, listed: type[Part]) -> object:
    """What tells an item of a list from the others."""
    said = item.entries.get(listed.KEY)
    if said is None:
        return listed.UNNAMED
    return said.value if isinstance(said, Leaf) else said
