"""Sections whose fields match settings one by one: a table of rows translates and recognises them."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cached_property
from typing import Any

from msgspec import Struct

from fairledger.catalog.seats import Seat
from fairledger.families.interface import Reader, Words
from fairledger.intent.fields import defaults_of
from fairledger.intent.part import Part
from fairledger.intent.walk import FieldPath
from fairledger.model.finding import Severity
from fairledger.model.sheet import Branch
from fairledger.model.values import SecretRef, SecretSource, Template, join, split


class Row(Struct, frozen=True):
    """A field and where it stands."""

    field: str
    pass_: str
    component: str
    setting: str = ""
    """Empty where the component itself says it."""
    how: str = "text"
    """``text``, ``number``, ``csv`` (joined by commas), ``many`` (repeated), ``flag`` (true stands, false does
    not), ``secret``, ``word``: the field has the value ``value`` when the setting stands, or ``choice``: ``value``
    holds pairs of the field's word and the setting's."""
    value: Any = None
    moot: Any = None
    """The field's value to which a release without the setting comes by itself: nothing has to be said."""


class Items(Struct, frozen=True):
    """A list of tables of a section, each item of which is a use of a component that may repeat."""

    field: str
    table: type[Part]
    pass_: str
    component: str
    rows: tuple[Row, ...]
    """Of one item: pass and component are those of the list. The first of them is what an item cannot be without."""

    def can(self, words: Words) -> bool:
        """Whether the target has the component."""
        return words.catalog.component(self.component) is not None


def item_rows(pass_: str, component: str, *rows: tuple[str, str] | tuple[str, str, str]) -> tuple[Row, ...]:
    """Rows of items: field, setting, and how it is written where that is not as text."""
    return tuple(Row(one[0], pass_, component, *one[1:]) for one in rows)


class TableSection:
    """Translates and recognises one section by its rows, and by those of its lists."""

    def __init__(self, table: type[Part], name: str, rows: tuple[Row, ...] = (), items: tuple[Items, ...] = ()) -> None:
        self.table = table
        self.name = name
        self.rows = rows
        self.items = items

    @cached_property
    def defaults(self) -> Any:
        """The section with nothing said."""
        return self.table()

    def can(self, row: Row, words: Words) -> bool:
        """Whether the target has the row's setting."""
        known = words.catalog.component(row.component)
        return known is not None and (not row.setting or known.setting(row.setting) is not None)

    def canonical(self, value: Any, words: Words) -> Any:
        """The fields that a row of the target can hold."""
        kept = self._kept(value, self.rows, words)
        for each in self.items:
            if each.can(words):
                items = getattr(value, each.field)
                kept[each.field] = tuple(each.table(**self._kept(one, each.rows, words)) for one in items)
        made = self.table(**kept)
        return made if made != self.defaults else None

    def _kept(self, value: Any, rows: tuple[Row, ...], words: Words) -> dict[str, Any]:
        kept: dict[str, Any] = {}
        for row in rows:
            found = getattr(value, row.field)
            if self.can(row, words) and self._says(row, found):
                kept.setdefault(row.field, found)
        held = {row.component for row in rows if row.field in kept and self.can(row, words)}
        for row in rows:
            # what a component's mere presence says is said by anything that stands in it
            if row.how == "word" and not row.setting and row.component in held and self.can(row, words):
                kept.setdefault(row.field, row.value)
        return kept

    def _says(self, row: Row, found: Any) -> bool:
        if row.how == "word":
            return bool(found == row.value and found is not None)
        if row.how == "choice":
            return found in dict(row.value)
        return found is True if row.how == "flag" else found not in (None, (), "")

    def translate(self, value: Any, words: Words) -> None:
        """Puts every field where its row says; what has no row in the target is said aloud."""
        path = (self.name,)
        listed = {each.field for each in self.items}
        for field in defaults_of(self.table):
            usable = self._usable(value, field, self.rows, words)
            if usable is not None:
                origin = words.origin(*path, field)
                self._put(usable, getattr(value, field), words.out.block(usable.pass_, usable.component, origin), words)
            elif field not in listed:
                self._tell(getattr(value, field), field, self.rows, path, words)
        for each in self.items:
            for at, one in enumerate(getattr(value, each.field)):
                self._put_item(one, each, (self.name, each.field, at), words)

    def _usable(self, value: Any, field: str, rows: tuple[Row, ...], words: Words) -> Row | None:
        found = getattr(value, field)
        fitting = (row for row in rows if row.field == field and self._says(row, found))
        return next((row for row in fitting if self.can(row, words)), None)

    def _tell(self, found: Any, field: str, rows: tuple[Row, ...], path: FieldPath, words: Words) -> None:
        """Says of a field that stands nowhere that the target has no place for it."""
        mine = [row for row in rows if row.field == field]
        if any(found == row.moot for row in mine if row.moot is not None):
            words.told.append((*path, field))
        said = [row for row in mine if self._says(row, found) and found != row.moot]
        if found not in (None, (), False) and (said or not mine):
            why = "its installer has nothing of the kind"
            named = ".".join(str(step) for step in (*path, field) if isinstance(step, str))
            words.cannot((*path, field), named, why, "leave it out for this target", Severity.WARNING)

    def _put_item(self, one: Any, each: Items, path: FieldPath, words: Words) -> None:
        if not each.can(words):
            told = f"{each.field} {getattr(one, each.rows[0].field)}"
            why = "its installer has nothing of the kind"
            words.cannot(path, told, why, "leave it out", Severity.WARNING)
            return
        block = words.out.block(each.pass_, each.component, words.origin(*path), again=True)
        for field in defaults_of(each.table):
            usable = self._usable(one, field, each.rows, words)
            if usable is not None:
                self._put(usable, getattr(one, field), block, words, path)
            else:
                self._tell(getattr(one, field), field, each.rows, path, words)

    def _put(self, row: Row, value: Any, block: Branch, words: Words, path: FieldPath = ()) -> None:
        way = (*(path or (self.name,)), row.field)
        if not row.setting:
            return
        if row.how == "many":
            for at, one in enumerate(value):
                block.add(row.setting, words.origin(*way, at), one)
            return
        text = value
        if row.how in ("flag", "word"):
            text = "true"
        elif row.how == "choice":
            text = dict(row.value)[value]
        elif row.how == "csv":
            text = join(value, ",")
        elif isinstance(value, int):
            text = str(value)
        block.put(row.setting, text, words.origin(*way))

    def recognise(self, reader: Reader) -> Any:
        """The fields that the sheet says."""
        found: dict[str, Any] = {}
        for row in self.rows:
            if row.field not in found:
                seats = reader.find(row.pass_, row.component, row.setting)
                self._take(row, seats, (self.name,), found, reader)
        for each in self.items:
            found[each.field] = tuple(self._items(each, reader))
        whole = {field: tuple(value) if isinstance(value, list) else value for field, value in found.items()}
        made = self.table(**whole)
        return made if made != self.defaults else None

    def _items(self, each: Items, reader: Reader) -> Iterator[Part]:
        at = 0
        for root in reader.find(each.pass_, each.component, ""):
            first = each.rows[0]
            fields: dict[str, Any] = {}
            path = (self.name, each.field, at)
            if not any(self._value(first, seat) for seat in root.all(first.setting)):
                continue
            reader.places[path] = root
            for row in each.rows:
                if row.field not in fields:
                    self._take(row, list(root.all(row.setting)), path, fields, reader)
            at += 1
            yield each.table(**fields)

    def _take(self, row: Row, seats: list[Seat], path: FieldPath, found: dict[str, Any], reader: Reader) -> None:
        """Takes what a row reads off the seats of its setting."""
        many: list[Any] = []
        for seat in seats:
            value = self._value(row, seat)
            if value is None:
                continue
            if row.how == "many":
                reader.take(seat, *path, row.field, len(many))
                many.append(value)
                found[row.field] = many
                continue
            found[row.field] = value
            if row.setting:
                reader.take(seat, *path, row.field)
            else:
                reader.take_block(seat, *path, row.field)
            return

    def _value(self, row: Row, seat: Seat) -> Any:
        value = seat.value
        if row.how == "word":
            return row.value if not row.setting or value == "true" else None
        if row.how == "choice":
            said = value.strip() if isinstance(value, str) else value
            return next((word for word, text in row.value if text == said), None)
        if row.how == "flag":
            return True if not row.setting or value == "true" else None
        if row.how == "secret":
            if isinstance(value, str) and value:
                return SecretRef((SecretSource("value", value),))
            return value if isinstance(value, SecretRef) else None
        if value is None or value == "" or isinstance(value, SecretRef):
            return None
        if row.how == "csv":
            return split(value, ",") or None
        if row.how == "number" and not isinstance(value, Template):
            return int(value) if value.isascii() and value.isdecimal() and len(value) < 10 else None
        return value
