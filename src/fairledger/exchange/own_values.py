"""Values that belong to one machine: the next one must never inherit them unseen."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.model.pattern import pattern
from fairledger.model.sheet import Node, Sheet
from fairledger.model.values import SecretRef, parse_text
from fairledger.profiles.intent import FieldPath, Intent

_MAC = pattern(r"(?:[0-9A-Fa-f]{2}[:-]){5}[0-9A-Fa-f]{2}")
_OWN: tuple[tuple[tuple[str, ...], str, str], ...] = (
    (("identity", "name"), "name", ""),
    (("account", "sign_in", "domain"), "name", "same"),
    (("network", "interface", "address"), "address", ""),
    (("network", "interface", "ipv6"), "ipv6", "[0-9A-Fa-f:]+(/[0-9]+)?"),
    (("network", "interface", "name"), "hardware", _MAC.pattern),
    (("disk", "which"), "disk", r"(/dev/)?disk/by-.*|.*(mpx|naa|t10|eui)\..*"),
    (("source", "partition"), "source", r"(/dev/)?disk/by-.*|UUID=.*"),
    (("licence", "activation_key"), "", "never"),
)
"""Fields, the placeholder for each, and (if only some values are a machine's own) the form of those.

``same``: only where it is a value that has the placeholder already."""


class Row(Struct, frozen=True):
    """One such value."""

    path: str
    """As in an address of a draft, list places from 0."""
    name: str
    """Of the placeholder, and of the roster's column."""
    value: str
    stays: bool = False
    """It stands in a direct answer or inside a text, which has to be changed by hand."""
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
            known = [row.value for row in rows if row.name == word]
            fits = value in known if form == "same" else not form or re.fullmatch(form, str(value))
            if not isinstance(value, str) or not value or not fits:
                continue
            own, slash, length = value.partition("/") if word in ("address", "ipv6") else (value, "", "")
            name = _free(word, own, rows)
            line = intent.place(*path).origin.line
            rows.append(Row(".".join(str(step) for step in path), name, own, line=line))
            if replaced:
                text = parse_text(f"${{{name}}}{slash}{length}")
                sections[names[0]] = _put(sections[names[0]], path[1:], text)
    return Intent(sections, intent.places), tuple(rows)


def own_elsewhere(intent: Intent, rest: Sheet, rows: tuple[Row, ...]) -> Iterator[Row]:
    """Where values of the machine stand in other texts (commands, direct answers), which keep them as they are."""
    told = {row.path for row in rows}
    values = {row.value: row.name for row in rows if len(row.value) > 3}
    word = re.compile("|".join(rf"(?<![\w.-]){re.escape(one)}(?![\w-])" for one in values) or r"(?!)", re.IGNORECASE)
    folded = {value.casefold(): name for value, name in values.items()}
    for name, value in intent.sections.items():
        for path, text in _texts(value, (name,)):
            match, place = word.search(text), ".".join(str(step) for step in path)
            if match and place not in told:
                line = intent.place(*path).origin.line
                yield Row(place, folded[match[0].casefold()], match[0], stays=True, line=line)
    for block in rest.blocks:
        for place, text, line in _answers(block.children, f"{block.pass_}:{block.component}"):
            match = word.search(text) or _MAC.fullmatch(text)
            if match:
                yield Row(place, folded.get(match[0].casefold(), "hardware"), match[0], stays=True, line=line)


def _texts(value: Any, path: FieldPath) -> Iterator[tuple[FieldPath, str]]:
    if isinstance(value, str):
        yield path, value
    elif isinstance(value, tuple):
        for at, one in enumerate(value):
            yield from _texts(one, (*path, at))
    elif isinstance(value, Struct) and not isinstance(value, SecretRef):
        for field in value.__struct_fields__:
            yield from _texts(getattr(value, field), (*path, field))


def _answers(nodes: tuple[Node, ...], above: str) -> Iterator[tuple[str, str, int | None]]:
    for node in nodes:
        place = f"{above}/{node.name}"
        if isinstance(node.value, str):
            yield place, node.value, node.origin.line
        yield from _answers(node.children, place)


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
