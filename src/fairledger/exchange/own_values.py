"""Values that belong to one machine: the next one must never inherit them unseen."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from functools import partial
from typing import Any

from msgspec import Struct

from fairledger.intent.intent import Intent
from fairledger.intent.walk import FieldPath, changed, names_of, walked
from fairledger.model.pattern import pattern
from fairledger.model.sheet import Node, Sheet
from fairledger.model.values import parse_text

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


class OwnValue(Struct, frozen=True):
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


def with_parameters(intent: Intent, *, replaced: bool) -> tuple[Intent, tuple[OwnValue, ...]]:
    """The values of one machine in an intent; ``replaced``: placeholders stand in their places."""
    rows: list[OwnValue] = []
    names_given = _Names()
    sections = dict(intent.sections)
    for names, word, form in _OWN:
        if names[0] not in sections or not word:
            continue
        puts: dict[FieldPath, object] = {}
        for path, value in walked(sections[names[0]], names[:1]):
            if names_of(path) != names:
                continue
            fits = (
                value == names_given.values.get(word) if form == "same" else not form or re.fullmatch(form, str(value))
            )
            if not isinstance(value, str) or not value or not fits:
                continue
            own, slash, length = value.partition("/") if word in ("address", "ipv6") else (value, "", "")
            name = names_given.free(word, own)
            line = intent.place(*path).origin.line
            rows.append(OwnValue(".".join(str(step) for step in path), name, own, line=line))
            if replaced:
                text = parse_text(f"${{{name}}}{slash}{length}")
                puts[path] = text
        if puts:
            sections[names[0]] = changed(sections[names[0]], partial(_put, puts), names[:1])
    return Intent(sections, intent.places), tuple(rows)


def own_elsewhere(intent: Intent, rest: Sheet, rows: tuple[OwnValue, ...]) -> Iterator[OwnValue]:
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
                yield OwnValue(place, folded[match[0].casefold()], match[0], stays=True, line=line)
    for block in rest.blocks:
        for place, text, line in _answers(block.children, f"{block.pass_}:{block.component}"):
            match = word.search(text) or _MAC.fullmatch(text)
            if match:
                yield OwnValue(place, folded.get(match[0].casefold(), "hardware"), match[0], stays=True, line=line)


def _put(new: dict[FieldPath, Any], path: FieldPath, value: Any) -> Any:
    return new.get(path, value)


def _texts(value: Any, path: FieldPath) -> Iterator[tuple[FieldPath, str]]:
    for here, found in walked(value, path):
        for at, one in enumerate(found if isinstance(found, tuple) else (found,)):
            if isinstance(one, str):
                yield ((*here, at) if isinstance(found, tuple) else here), one


def _answers(nodes: tuple[Node, ...], above: str) -> Iterator[tuple[str, str, int | None]]:
    for node in nodes:
        place = f"{above}/{node.name}"
        if isinstance(node.value, str):
            yield place, node.value, node.origin.line
        yield from _answers(node.children, place)


class _Names:
    """The names of placeholders that were given."""

    def __init__(self) -> None:
        self.values: dict[str, str] = {}
        self._names: dict[tuple[str, str], str] = {}
        self._last: Counter[str] = Counter()

    def free(self, word: str, value: str) -> str:
        """The placeholder's name: the same for the same value, else numbered."""
        if (word, value) in self._names:
            return self._names[word, value]
        self._last[word] += 1
        name = word if self._last[word] == 1 else f"{word}_{self._last[word]}"
        self._names[word, value] = name
        self.values[name] = value
        return name
