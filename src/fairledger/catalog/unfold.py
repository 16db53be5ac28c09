"""Unfolds what catalog authors write once: shared shapes, rows that repeat, and what a group says for all inside it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

Rows = dict[str, dict[str, Any]]
"""Settings as authored: path and fields."""

HANDED_DOWN = ("passes", "usual_pass", "since", "until", "deprecated", "lines", "rare", "sure", "policy")
"""What a group or list says for everything inside it that says nothing itself."""


class UnfoldError(ValueError):
    """Something that cannot be unfolded, in words."""


def unfolded(settings: Rows, repeated: list[dict[str, Any]], shapes: dict[str, Rows]) -> Rows:
    """Every setting with all its fields.

    ``like`` puts a shape's settings below a path (the shape's own row is called ``.``); a table of ``repeated`` has
    ``rows``, and ``settings`` with ``<name>`` where a row's value goes. Raises `UnfoldError`.
    """
    whole: Rows = {}
    for path, fields in _all(settings, repeated, shapes):
        if path in whole:
            raise UnfoldError(f"{path} stands there twice")
        whole[path] = fields
    return {path: _with_inherited(path, fields, whole) for path, fields in whole.items()}


def _all(settings: Rows, repeated: list[dict[str, Any]], shapes: dict[str, Rows]) -> Iterator[tuple[str, Any]]:
    yield from _shaped(settings, shapes)
    for table in repeated:
        for row in table.get("rows", ()):
            yield from _shaped(_filled(table.get("settings", {}), row), shapes)


def _shaped(settings: Rows, shapes: dict[str, Rows]) -> Iterator[tuple[str, Any]]:
    for path, fields in settings.items():
        named = fields.get("like") if isinstance(fields, dict) else None
        if named is None:
            yield path, fields
            continue
        if not isinstance(named, str) or named not in shapes:
            raise UnfoldError(f"{path}: there is no shape {named!r}")
        own = {name: value for name, value in fields.items() if name != "like"}
        shape = shapes[named]
        yield path, {**shape.get(".", {"kind": "group"}), **own}
        for below, parts in _shaped({name: one for name, one in shape.items() if name != "."}, shapes):
            yield f"{path}/{below}", parts


def _filled(value: Any, row: dict[str, Any]) -> Any:
    if isinstance(value, str):
        return re.sub(r"<(\w+)>", lambda match: str(row.get(match[1], match[0])), value)
    if isinstance(value, list):
        return [_filled(one, row) for one in value]
    if isinstance(value, dict):
        return {_filled(name, row): _filled(one, row) for name, one in value.items()}
    return value


def _with_inherited(path: str, fields: dict[str, Any], whole: Rows) -> dict[str, Any]:
    out = dict(fields)
    above = path.rpartition("/")[0]
    while above:
        for name in HANDED_DOWN:
            if name in whole.get(above, {}):
                out.setdefault(name, whole[above][name])
        above = above.rpartition("/")[0]
    return out
