"""Values that belong to one machine: the next one must never inherit them unseen."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.model.pattern import pattern
from fairledger.model.values import parse_text
from fairledger.profiles.intent import FieldPath, Intent

_MAC = pattern(r"(?:[0-9A-Fa-f]{2}[:-]){5}[0-9A-Fa-f]{2}")
_OWN: tuple[tuple[tuple[str, ...], str, str], ...] = (
    (("identity", "name"), "name", ""),
    (("network", "interface", "address"), "address", ""),
    (("network", "interface", "ipv6"), "ipv6", "[0-9A-Fa-f:]+(/[0-9]+)?"),
    (("network", "interface", "name"), "hardware", _MAC.pattern),
    (("disk", "which"), "disk", r"(/dev/)?disk/by-.*|.*(mpx|naa|t10|eui)\..*"),
    (("source", "partition"), "source", r"(/dev/)?disk/by-.*|UUID=.*"),
    (("licence", "activation_key"), "", "never"),
)
"""Fields, the placeholder for each, and (if only some values are a machine's own) the form of those."""


class Row(Struct, frozen=True):
    """One such value."""

    path: str
    """As in an address of a draft, list places from 0."""
    name: str
    """Of the placeholder, and of the roster's column."""
    value: str
    stays: bool = False
    """It stands in a direct answer, which has to be changed by hand."""
    line: int | None = None
    """Where it stood in the answer file."""


def with_parameters(intent: Intent, *, replaced: bool) -> tuple[Intent, tuple[Row, ...]]:
    """The values of one machine in an intent; ``replaced``: placeholders stand in their places."""
    rows: list[Row] = []
    sections = dict(intent.sections)
    for names, word, form in _OWN:
        if names[0] not in sections or not word:
            continue
        for path, value in list(_at(sections[names[0]], names[1:], (names[0],))):
            if not isinstance(value, str) or not value or (form and not re.fullmatch(form, value)):
                continue
            own, slash, length = value.partition("/") if word in ("address", "ipv6") else (value, "", "")
            name = _free(word, own, rows)
            line = intent.place(*path).origin.line
            rows.append(Row(".".join(str(step) for step in path), name, own, line=line))
            if replaced:
                text = parse_text(f"${{{name}}}{slash}{length}")
                sections[names[0]] = _put(sections[names[0]], path[1:], text)
    return Intent(sections, intent.places), tuple(rows)


def _free(word: str, value: str, rows: list[Row]) -> str:
    """The placeholder's name: the same for the same value, else numbered."""
    taken = {row.name: row.value for row in rows}
    name, number = word, 1
    while taken.get(name, value) != value:
        number += 1
        name = f"{word}_{number}"
    return name


def _at(value: Any, names: tuple[str, ...], path: FieldPath) -> Iterator[tuple[FieldPath, Any]]:
    if isinstance(value, tuple):
        for at, one in enumerate(value):
            yield from _at(one, names, (*path, at))
    elif not names:
        yield path, value
    elif isinstance(value, Struct):
        yield from _at(getattr(value, names[0]), names[1:], (*path, names[0]))


def _put(value: Any, path: FieldPath, new: Any) -> Any:
    if not path:
        return new
    step, *rest = path
    if isinstance(step, int):
        return tuple(_put(one, tuple(rest), new) if at == step else one for at, one in enumerate(value))
    return replace(value, **{step: _put(getattr(value, step), tuple(rest), new)})
