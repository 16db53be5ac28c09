"""Sections whose fields match settings one by one: a table of rows translates and recognises them."""

from __future__ import annotations

from functools import cached_property
from typing import Any

import msgspec
from msgspec import Struct

from fairledger.catalog.seats import Seat
from fairledger.families.interface import Reader, Words
from fairledger.model.finding import Severity
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


class TableSection:
    """Translates and recognises one section by its rows."""

    def __init__(self, table: type[Struct], name: str, rows: tuple[Row, ...]) -> None:
        self.table = table
        self.name = name
        self.rows = rows

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
        kept: dict[str, Any] = {}
        for row in self.rows:
            found = getattr(value, row.field)
            if self.can(row, words) and self._says(row, found):
                kept.setdefault(row.field, found)
        made = self.table(**kept)
        return made if made != self.defaults else None

    def _says(self, row: Row, found: Any) -> bool:
        if row.how == "word":
            return bool(found == row.value and found is not None)
        if row.how == "choice":
            return found in dict(row.value)
        return found is True if row.how == "flag" else found not in (None, (), "")

    def translate(self, value: Any, words: Words) -> None:
        """Puts every field where its row says; what has no row in the target is said aloud."""
        for field in msgspec.structs.fields(self.table):
            found = getattr(value, field.name)
            rows = [row for row in self.rows if row.field == field.name and self._says(row, found)]
            usable = [row for row in rows if self.can(row, words)]
            if usable:
                self._put(usable[0], found, words)
            elif found not in (None, (), False) and (rows or not any(row.field == field.name for row in self.rows)):
                why = "its installer has nothing of the kind"
                path = (self.name, field.name)
                words.cannot(path, f"{self.name}.{field.name}", why, "leave it out for this target", Severity.WARNING)

    def _put(self, row: Row, value: Any, words: Words) -> None:
        origin = words.origin(self.name, row.field)
        block = words.out.block(row.pass_, row.component, origin)
        if not row.setting:
            return
        if row.how == "many":
            for at, one in enumerate(value):
                block.add(row.setting, words.origin(self.name, row.field, at), one)
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
        block.put(row.setting, text, origin)

    def recognise(self, reader: Reader) -> Any:
        """The fields that the sheet says."""
        found: dict[str, Any] = {}
        for row in self.rows:
            if row.field in found:
                continue
            many: list[Any] = []
            for seat in reader.find(row.pass_, row.component, row.setting):
                value = self._value(row, seat)
                if value is None:
                    continue
                if row.how == "many":
                    reader.take(seat, self.name, row.field, len(many))
                    many.append(value)
                    found[row.field] = many
                    continue
                found[row.field] = value
                if row.setting:
                    reader.take(seat, self.name, row.field)
                else:
                    reader.take_block(seat, self.name, row.field)
                break
        whole = {field: tuple(value) if isinstance(value, list) else value for field, value in found.items()}
        return self.table(**whole) if whole else None

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
