"""Turns raw tables into typed values, collecting every problem on the way instead of stopping at the first."""

from __future__ import annotations

from typing import Any

import msgspec

from fairledger.intent.fields import FieldType, fields_of
from fairledger.intent.part import Part
from fairledger.intent.sections import items_at
from fairledger.intent.walk import FieldPath, names_of
from fairledger.model.finding import Finding, Severity
from fairledger.model.items import labels
from fairledger.model.places import Origin, Place
from fairledger.model.showing import quoted
from fairledger.model.size import Size, open_size, parse_size
from fairledger.model.suggest import did_you_mean
from fairledger.model.values import SecretRef, SecretSource, Template, parse_text
from fairledger.profiles.raw import Array, Leaf, Raw, Table

SECRET_SOURCES = ("env", "file", "keyring", "ask", "value")


class Decoder:
    """Decodes one draft or profile; its lists and places fill up on the way."""

    def __init__(self) -> None:
        self.problems: list[Finding] = []
        """What is wrong, so that nothing comes of it."""
        self.told: list[Finding] = []
        """What only has to be said."""
        self.places: dict[FieldPath, Place] = {}
        self.labels: dict[FieldPath, str] = {}
        """What stands in the brackets of items of lists."""

    def problem(self, origin: Origin, message: str, hint: str = "", rule: str = "field-value") -> None:
        """Notes something wrong at a place in a draft or profile."""
        self.problems.append(_found(rule, Severity.ERROR, message, hint, origin))

    def tell(self, origin: Origin, message: str, hint: str, rule: str) -> None:
        """Notes something that only has to be said."""
        self.told.append(_found(rule, Severity.WARNING, message, hint, origin))

    def table(self, raw: Raw, table: type[Part], path: FieldPath) -> Any:
        """A typed table; None where that is impossible (a problem then says why)."""
        name = self.named(path)
        if not isinstance(raw, Table):
            self.problem(raw.origin, f"{name} must be a table", f"write [{name}] and its fields below")
            return None
        self.places[path] = Place(origin=raw.origin)
        fields = fields_of(table)
        values: dict[str, Any] = {}
        for key, entry in raw.entries.items():
            old = None if key in fields and _is_choice(entry, fields[key]) else self._retired(entry, (*path, key))
            if old is not None:
                for name in [one for one in old if one == key or one not in raw.entries]:
                    values[name] = self.value(Leaf(old[name], entry.origin), fields[name], (*path, name))
                continue
            if key not in fields:
                hint = did_you_mean(key, fields)
                self.problem(entry.origin, f"{name} has no field {key!r}", hint, rule="field-unknown")
                continue
            value = self.value(entry, fields[key], (*path, key))
            if value is not None:
                values[key] = value
        values = table.adjust(values)
        try:
            return table(**values)
        except TypeError:
            needed = [field.name for field in msgspec.structs.fields(table) if field.required]
            missing = ", ".join(one for one in needed if one not in values and one not in raw.entries)
            if missing:
                self.problem(raw.origin, f"{name} needs {missing}", f"add {missing} = ...", rule="field-missing")
            return None
        except ValueError as error:
            self.problem(raw.origin, f"{name}: {error}")
            return None

    def named(self, path: FieldPath) -> str:
        """A field as it is typed."""
        out = ""
        for at, part in enumerate(path):
            if isinstance(part, int):
                label = self.labels.get(path[: at + 1])
                out += f"[{label}]" if label is not None else ""
            else:
                out += f".{part}" if out else part
        return out

    def label(self, items: tuple[Raw, ...], path: FieldPath) -> None:
        """Notes what the items of a list of tables are called; plain values are called nothing."""
        if all(isinstance(one, Leaf) for one in items):
            return
        listed = items_at(names_of(path))
        said = [one.entries.get(listed.KEY) if listed is not None and isinstance(one, Table) else None for one in items]
        usual = listed.UNNAMED if listed is not None else None
        told = [one.value if isinstance(one, Leaf) else usual for one in said]
        named = labels([str(one) if one is not None else None for one in told])
        self.labels |= {(*path, at): one for at, one in enumerate(named)}

    def _retired(self, raw: Raw, path: FieldPath) -> dict[str, Any] | None:
        """What is read in the place of a field that is gone, and told; None if there never was one of that name."""
        from fairledger.profiles.retired import retired_names

        old = ".".join(names_of(path))
        row = retired_names().get(old)
        said = row.instead(raw.value) if row is not None and isinstance(raw, Leaf) else None
        if row is None or row.format is not None or said is None or not isinstance(raw, Leaf):
            return None
        told = f"{old} = {quoted(str(raw.value))} is an old word" if row.values else f"{old} is an old name"
        told += "; it is still read"
        self.tell(raw.origin, told, row.say, "name-retired")
        return said

    def value(self, raw: Raw, kind: FieldType, path: FieldPath) -> Any:
        """A typed field; None where that is impossible."""
        self.places[path] = Place(origin=raw.origin)
        if kind.item is not None and isinstance(raw, Array | Table):
            items = raw.items if isinstance(raw, Array) else (raw,)
            self.label(items, path)
            found = [self.value(item, kind.item, (*path, at)) for at, item in enumerate(items)]
            return tuple(one for one in found if one is not None)
        if kind.words and isinstance(raw, Table):
            return {name: text for name, one in raw.entries.items() if (text := self._word(one, (*path, name)))}
        if kind.table is not None and isinstance(raw, Table):
            return self.table(raw, kind.table, path)
        if SecretRef in kind.plain and isinstance(raw, Table):
            return self.secret(raw, path)
        if isinstance(raw, Leaf):
            return self.scalar(raw, kind, path)
        self.problem(raw.origin, f"{self.named(path)} must be {kind.says()}")
        return None

    def _word(self, raw: Raw, path: FieldPath) -> str:
        if isinstance(raw, Leaf) and isinstance(raw.value, str) and raw.value:
            return raw.value
        self.problem(raw.origin, f"{self.named(path)} must be text")
        return ""

    def scalar(self, raw: Leaf, kind: FieldType, path: FieldPath) -> Any:
        """A typed scalar; None where that is impossible."""
        value = raw.value
        if isinstance(value, str):
            if value in kind.choices:
                return value
            text = parse_text(value)
            if SecretRef in kind.plain:
                return SecretRef((SecretSource("value", text),))
            if isinstance(text, Template) and Template in kind.plain:
                return open_size(text) if Size in kind.plain else text
            if isinstance(text, Template) and kind.branches:
                told = f"{self.named(path)} takes no placeholder, since it decides what else is written"
                hint = f"write it in a variant, such as [variant.NAME.{path[0]}]; the machine's variant then chooses"
                self.problem(raw.origin, told, hint, rule="placeholder-refused")
                return None
            plain = isinstance(text, str) and Template in kind.plain
            return self.text(text if plain and isinstance(text, str) else value, raw.origin, kind, path)
        if type(value) in kind.plain:
            if type(value) is int and not 0 <= value < 2**31:
                told = "must not be negative" if value < 0 else "is too large a number"
                self.problem(raw.origin, f"{self.named(path)} {told}")
                return None
            return value
        self.problem(raw.origin, f"{self.named(path)} must be {kind.says()}")
        return None

    def text(self, text: str, origin: Origin, kind: FieldType, path: FieldPath) -> Any:
        """A value that was written as text."""
        if text in kind.choices:
            return text
        if Size in kind.plain:
            try:
                return parse_size(text)
            except ValueError as error:
                self.problem(origin, f"{self.named(path)}: {error}")
                return None
        if kind.choices:
            hint = did_you_mean(text, kind.choices)
            self.problem(origin, f"{self.named(path)} cannot be {text!r}", hint)
            return None
        if str in kind.plain:
            return text
        self.problem(origin, f"{self.named(path)} must be {kind.says()}, not text")
        return None

    def secret(self, raw: Table, path: FieldPath) -> SecretRef | None:
        """A reference to a secret: ``{ env = "DESK_PW", ask = true }``."""
        sources: list[SecretSource] = []
        form = "plain"
        for key, entry in raw.entries.items():
            value = entry.value if isinstance(entry, Leaf) else None
            if key == "form" and value in ("plain", "hash"):
                form = value
            elif key == "ask" and isinstance(value, bool):
                sources += [SecretSource("ask")] if value else []
            elif key in SECRET_SOURCES and isinstance(value, str) and value:
                sources.append(SecretSource(key, parse_text(value)))
            elif key in (*SECRET_SOURCES, "form"):
                wants = {"form": '"plain" or "hash"', "ask": "true or false"}.get(key, "text")
                self.problem(entry.origin, f"{self.named(path)}: {key} must be {wants}")
                return None
            else:
                hint = did_you_mean(key, (*SECRET_SOURCES, "form"))
                self.problem(
                    entry.origin, f"{self.named(path)}: there is no source {key!r}", hint, rule="field-unknown"
                )
                return None
        if not sources:
            self.problem(raw.origin, f"{self.named(path)} names no source", 'write { env = "NAME", ask = true }')
            return None
        return SecretRef(tuple(sources), form)


def _is_choice(raw: Raw, kind: FieldType) -> bool:
    """Whether a value is none of the words of a field that knows only some."""
    return not (isinstance(raw, Leaf) and isinstance(raw.value, str) and kind.choices) or raw.value in kind.choices


def _found(rule: str, severity: Severity, message: str, hint: str, origin: Origin) -> Finding:
    file, line, column = origin.file or None, origin.line, origin.column
    return Finding(rule, severity, message, hint, file=file, line=line, column=column)
