"""Changing a draft's text: comments and order stay, all changes or none."""

from __future__ import annotations

import tomllib
from collections.abc import MutableMapping
from typing import Any

import tomlkit
from msgspec import Struct
from tomlkit.exceptions import TOMLKitError
from tomlkit.items import AoT

from fairledger.catalog.address import Spot, Step
from fairledger.intent.fields import FieldType, fields_of
from fairledger.intent.part import Part
from fairledger.intent.sections import items_at, section
from fairledger.model.errors import WrongUseError
from fairledger.model.items import is_new, place_in
from fairledger.model.kinds import choices_of, complaint
from fairledger.model.suggest import did_you_mean
from fairledger.model.values import parse_text
from fairledger.profiles.decode import Decoder
from fairledger.profiles.document import DraftHead
from fairledger.profiles.raw import Array, Leaf, Raw, Table

Container = MutableMapping[str, Any]


class AnswerChange(Struct, frozen=True):
    """A direct answer to be set, or with ``value`` None to be taken out."""

    spot: Spot
    value: Any = None
    before: tuple[str, ...] = ()
    """Of a list of plain values that the draft itself says nothing of: what it comes to."""

    @property
    def text(self) -> str:
        """The address as it would be typed."""
        return self.spot.text


class FieldChange(Struct, frozen=True):
    """A portable field to be set, or with ``value`` None to be taken out."""

    steps: tuple[Step, ...]
    value: Any = None
    kind: FieldType | None = None
    way: str = ""
    """``+``: the values are added to a list; ``-``: they are taken out of it; else they are all of it."""
    before: tuple[Any, ...] = ()
    """What the list comes to where the draft itself says nothing of it."""

    @property
    def text(self) -> str:
        """The address as it would be typed."""
        return ".".join(step.name + (f"[{step.item}]" if step.item is not None else "") for step in self.steps)


def answer_values(spot: Spot, typed: str) -> list[Any]:
    """What a typed value becomes, as `answer_value` does; of a list of plain values each one."""
    setting = spot.setting
    if not setting.repeats or spot.steps[-1][2] is not None:
        return [answer_value(spot, typed)]
    if typed.lstrip().startswith("["):
        rows = _inline(typed, setting.path)
        return [answer_value(spot, one if isinstance(one, str) else str(one)) for one in rows]
    parts = typed.split(",") if setting.form == "entry" else [typed]
    return [answer_value(spot, one.strip()) for one in parts]


def answer_value(spot: Spot, typed: str) -> Any:
    """What a typed value becomes in the draft. Raises `WrongUseError` if the setting cannot have it."""
    setting = spot.setting
    if setting.kind in ("group", "list", "component") and not setting.repeats and not setting.also:
        told = f"{setting.path or spot.component} takes no value of its own"
        raise WrongUseError(told, remedy="name a setting inside it")
    if setting.secret and typed.lstrip().startswith("{"):
        return _inline(typed, setting.path)
    text = parse_text(typed)
    if isinstance(text, str) and not (text == "" and setting.empty):
        wrong = complaint(setting.kind, text, setting)
        if wrong:
            told = "this value" if setting.secret else repr(typed)
            hint = "" if setting.secret else did_you_mean(typed, choices_of(setting.kind, setting))
            extra = hint if "did you mean" in hint else "nothing was written"
            raise WrongUseError(f"{told} cannot stand in {setting.path}: {wrong}", remedy=extra)
        if setting.kind == "boolean" and text in ("true", "false"):
            return text == "true"
        if setting.kind == "integer" and text.strip() == str(int(text)):
            return int(text)
    return typed


def _inline(typed: str, what: str) -> Any:
    try:
        return tomllib.loads(f"value = {typed}")["value"]
    except tomllib.TOMLDecodeError as error:
        told = "a list" if typed.lstrip().startswith("[") else "a table"
        remedy = 'write [ "a", "b" ], or a, b' if told == "a list" else 'write { env = "NAME", ask = true }'
        raise WrongUseError(f"{what}: {typed!r} is no TOML of {told}", remedy=remedy) from error


def field_change(
    steps: tuple[Step, ...], typed: str | None, how: str = "", before: tuple[Any, ...] = ()
) -> FieldChange:
    """A change of a portable field. Raises `WrongUseError` if there is no such field, or not with that value."""
    head = steps[0]
    table: type[Part] = DraftHead if head.name == "draft" else section(head.name).table
    way = list(steps)
    if head.name != "draft":
        told = section(head.name)
        if told.items and not told.many and head.item is not None:
            way[0:1] = [Step(head.name), Step(told.items, head.item)]
    kind: FieldType | None = None
    for step in way[1:]:
        fields = fields_of(table)
        if step.name not in fields:
            raise WrongUseError(f"{head.name} has no field {step.name!r}", remedy=did_you_mean(step.name, fields))
        kind = fields[step.name]
        table = kind.inner or table
    if typed is None:
        return FieldChange(tuple(way), None, kind)
    if kind is None or (kind.inner is not None and not typed.lstrip().startswith(("[", "{"))):
        raise WrongUseError(f"{head.name} names no field", remedy=f"write {head.name}.FIELD=VALUE")
    if how and (kind.item is None or kind.inner is not None):
        field = ".".join(step.name for step in way)
        raise WrongUseError(f"{field} is no list of plain values", remedy=f"write {field}=VALUE")
    value = _field_value(kind, typed, way)
    return FieldChange(tuple(way), value, kind, how, before)


def _field_value(kind: FieldType, typed: str, way: list[Step]) -> Any:
    name = ".".join(step.name for step in way)
    value: Any = typed
    if kind.item is not None and typed.lstrip().startswith(("[", "{")):
        value = _inline(typed, name)
    elif kind.item is not None:
        value = [one.strip() for one in typed.split(",") if one.strip()]
    elif typed.lstrip().startswith("{"):
        value = _inline(typed, name)
    elif bool in kind.plain and typed in ("true", "false"):
        value = typed == "true"
    elif int in kind.plain and typed.isascii() and typed.isdecimal():
        value = int(typed)
    decoder = Decoder()
    decoder.value(raw_of(value), kind, tuple(step.name for step in way))
    if decoder.problems:
        first = decoder.problems[0]
        raise WrongUseError(first.message, remedy=first.hint or "nothing was written")
    return value


def raw_of(value: Any) -> Raw:
    """A plain value as the decoder takes it, without origins."""
    if isinstance(value, dict):
        return Table({key: raw_of(one) for key, one in value.items()})
    return Array(tuple(raw_of(one) for one in value)) if isinstance(value, list) else Leaf(value)


def changed(text: str, changes: list[AnswerChange | FieldChange], file: str, variant: str = "") -> str:
    """The draft's text with all changes made, in one of its variants if that is named.

    Raises `WrongUseError` if one cannot be made; then none is.
    """
    try:
        whole = tomlkit.parse(text)
    except TOMLKitError as error:
        raise WrongUseError(f"the draft cannot be edited: {error}", file=file) from error
    document: Container = _reached(whole, [_Step("variant"), _Step(variant)], {}) if variant else whole
    new_items: dict[tuple[str, ...], Container] = {}
    for change in changes:
        if isinstance(change, AnswerChange):
            spot = change.spot
            way = [_Step("answers"), _Step(spot.pass_), _Step(spot.component, spot.key, spot.item)]
            steps = [*way, *(_Step(*one) for one in spot.steps)]
            told = change.spot.text
        else:
            steps = _field_steps(change)
            told = change.text
        if change.value is None:
            _take_out(document, steps, told, file)
        elif isinstance(change, AnswerChange) and change.spot.whole:
            _reached(document, steps, new_items)
        else:
            first = steps[0].name
            fresh = first not in document
            several = isinstance(change, AnswerChange) and change.spot.setting.repeats
            value = change.value if isinstance(change, AnswerChange) else _listed(document, steps, change, file)
            before = change.before if isinstance(change, AnswerChange) else ()
            _put(document, steps, value, new_items, before if several else None)
            listed = items_at((first,))
            if fresh and listed is not None and listed.EXTENDS:
                _extend(document[first], listed.EXTENDS)
    result = tomlkit.dumps(whole)
    return result if text.endswith("\n\n") else result.rstrip("\n") + "\n"


def _listed(document: Container, steps: list[_Step], change: FieldChange, file: str) -> Any:
    """The values of a field; of a list that is added to or taken from, with what it holds."""
    if not change.way:
        return change.value
    here: Any = document
    for step in steps:
        here = here.get(step.name) if isinstance(here, MutableMapping) else None
    held = list(here if here is not None else change.before)
    if change.way == "+":
        return [*held, *(one for one in change.value if one not in held)]
    missing = [one for one in change.value if one not in held]
    if missing:
        raise WrongUseError(f"{change.text} does not hold {missing[0]}", file=file, remedy="nothing was changed")
    return [one for one in held if one not in change.value]


def without_component(text: str, pass_: str, component: str, file: str) -> str:
    """The draft's text without all that it answers directly in a component. Raises `WrongUseError`."""
    document = tomlkit.parse(text)
    _take_out(document, [_Step(name) for name in ("answers", pass_, component)], f"{pass_}:{component}", file)
    return tomlkit.dumps(document)


class _Step(Struct, frozen=True):
    """One step of the way to what is changed."""

    name: str
    key: str = ""
    """What tells the items of a list apart; empty where it is none, or nothing does."""
    item: str | None = None
    unnamed: object = None
    """What an item without that key is taken for."""

    def names(self, row: Any, place: int) -> bool:
        """Whether an item of the list, at a place from 1, is the one that is meant."""
        asked = place_in(self.item or "")
        if asked is not None:
            return asked == place
        if not isinstance(row, MutableMapping):
            return str(row) == self.item
        said = row.get(self.key, self.unnamed) if self.key else None
        return said is not None and str(said) == self.item


def _extend(found: Any, field: str) -> None:
    """An item that begins with one changed field means to change an earlier one, not to replace it."""
    for row in found if isinstance(found, list) else (found,):
        row[field] = True


def _field_steps(change: FieldChange) -> list[_Step]:
    out: list[_Step] = []
    names: tuple[str, ...] = ()
    for step in change.steps:
        names = (*names, step.name)
        listed = items_at(names) if step.item is not None else None
        key, unnamed = (listed.KEY, listed.UNNAMED) if listed is not None else ("", None)
        out.append(_Step(step.name, key, step.item, unnamed))
    return out


def _put(
    document: Container,
    steps: list[_Step],
    value: Any,
    new_items: dict[tuple[str, ...], Container],
    before: tuple[str, ...] | None,
) -> None:
    """Puts a value; with ``before`` it is one of several, after these where the draft says none yet."""
    *way, last = steps
    here = _reached(document, way, new_items)
    held = here.get(last.name, list(before or ()))
    if last.item is not None and before is not None:  # one of several plain values, in the place of another
        rows = list(held) if isinstance(held, list) else [held]
        at = next((at for at, row in enumerate(rows) if last.names(row, at + 1)), None)
        if at is None:
            raise WrongUseError(f"{last.name}[{last.item}] does not stand in the draft", remedy="nothing was changed")
        rows[at] = value
        value = rows
    elif last.item is not None:
        raise WrongUseError(f"{last.name} is a list of tables", remedy="name a field inside it")
    elif before is not None:
        value = [*(held if isinstance(held, list) else [held]), value]
    here[last.name] = _toml(value)


def _reached(document: Container, way: list[_Step], new_items: dict[tuple[str, ...], Container]) -> Container:
    """The table at the end of a way; what is missing of it is made."""
    here = document
    walked: tuple[str, ...] = ()
    for at, step in enumerate(way):
        name = step.name
        walked = (*walked, name if step.item is None else f"{name}[{step.item}]")
        if step.item is None:
            if name not in here:
                here[name] = tomlkit.table(is_super_table=at + 1 < len(way))
            found = here[name]
            if isinstance(found, list) and len(found) == 1:
                found = found[0]
            if not isinstance(found, MutableMapping):
                raise WrongUseError(f"{name} is no table in the draft", remedy="mend it there first")
            here = found
        elif walked in new_items:
            here = new_items[walked]
        else:
            here = _item(here, step, step.item)
            new_items[walked] = here
    return here


def _toml(value: Any) -> Any:
    if isinstance(value, dict):
        table = tomlkit.inline_table()
        table.update({name: _toml(one) for name, one in value.items()})
        return table
    if isinstance(value, list) and any(isinstance(one, dict) for one in value):
        rows = tomlkit.array()
        rows.extend([_toml(one) for one in value])
        return rows
    return value


def _item(here: Container, step: _Step, item: str) -> Container:
    name, key = step.name, step.key
    if name not in here:
        here[name] = tomlkit.aot() if not _is_inline(here) else tomlkit.array()
    rows = here[name]
    if isinstance(rows, MutableMapping):
        if step.names(rows, 1):
            return rows
        raise WrongUseError(f"{name} is one table in the draft, not a list", remedy=f"write it as [[...{name}]] there")
    if not is_new(item):
        for number, row in enumerate(rows, 1):
            if step.names(row, number):
                return row  # type: ignore[no-any-return]
        if not key or place_in(item) is not None:
            raise WrongUseError(f"{name}[{item}] does not stand in the draft", remedy=f"write {name}[+] for a new one")
    new = tomlkit.table() if isinstance(rows, AoT) else tomlkit.inline_table()
    if key and not is_new(item):
        new[key] = int(item) if item.isdecimal() and str(int(item)) == item else item
    rows.append(new)
    return rows[-1]  # type: ignore[no-any-return]


def _is_inline(here: Container) -> bool:
    return isinstance(here, tomlkit.items.InlineTable)


def _take_out(document: Container, steps: list[_Step], told: str, file: str) -> None:
    way: list[tuple[Any, Any]] = []
    here: Any = document
    for step in steps:
        name = step.name
        if not isinstance(here, MutableMapping) or name not in here:
            raise WrongUseError(f"{told} is not answered in this draft", file=file, remedy="nothing was changed")
        way.append((here, name))
        here = here[name]
        if isinstance(here, list) and step.item is not None:
            rows = [at for at, row in enumerate(here) if step.names(row, at + 1)]
            if not rows:
                raise WrongUseError(f"{told} is not answered in this draft", file=file, remedy="nothing was changed")
            way.append((here, rows[0]))
            here = here[rows[0]]
        elif step.item is not None and not step.names(here, 1):
            raise WrongUseError(f"{told} is not answered in this draft", file=file, remedy="nothing was changed")
    for number, (container, name) in enumerate(reversed(way)):
        if number == 0 or len(container[name]) == 0:
            del container[name]
        else:
            return
