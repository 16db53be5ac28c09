"""Sections whose fields are data: a file ``data/NAME.toml`` of a few lines a field, or the choices of the catalog."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any, Literal, cast

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.catalog.tidy import tidy
from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.errors import CatalogError
from fairledger.model.suggest import did_you_mean
from fairledger.model.values import SecretRef, Template, Text
from fairledger.storage.looking import entries

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "data.json"


class FieldRow(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """A field as its file describes it."""

    kind: str
    """One of `KINDS`."""
    choices: tuple[str, ...] = ()
    about: str = ""


class TableRow(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A section as its file describes it."""

    about: str
    """What it is for."""
    says: str
    """What its table is."""
    fields: dict[str, FieldRow]


KINDS: dict[str, tuple[Any, Any]] = {
    "boolean": (bool | None, None),
    "choice": (None, None),
    "text": (Text | None, None),
    "texts": (tuple[Text, ...], ()),
    "number": (int | Template | None, None),
    "count": (int | None, None),
    "secret": (SecretRef | None, None),
}
"""The type of each kind of field, and what it is where nothing is said; a choice has a type of its own."""


def build() -> bytes:
    """The packaged form of the authored files. Raises `CatalogError` for what is none."""
    import tomllib

    found = {}
    for path in entries(DATA, ".toml"):
        try:
            row = msgspec.convert(tomllib.loads(path.read_text(encoding="utf-8")), TableRow)
        except (ValueError, msgspec.ValidationError) as error:
            raise CatalogError(str(error), file=str(path)) from error
        for name, field in row.fields.items():
            if field.kind not in KINDS or bool(field.choices) != (field.kind == "choice"):
                remedy = did_you_mean(field.kind, KINDS) if field.kind not in KINDS else "only a choice has choices"
                raise CatalogError(f"{name}: {field.kind} with {field.choices}", file=str(path), remedy=remedy)
        found[path.stem] = row
    return lined(found)


@cache
def tables() -> dict[str, TableRow]:
    """The sections that are data, by name. Raises `CatalogError` if the package is damaged."""
    found: dict[str, TableRow] = read_packaged(INDEX, dict[str, TableRow], "the table of sections")
    for name, group in tidy().groups.items():
        rows = {
            field: FieldRow(kind=_AS[one.kind], choices=one.values, about=one.about)
            for field, one in group.choices.items()
        }
        found[name] = TableRow(about=group.about, says=group.says, fields=rows)
    return found


_AS = {"choice": "choice", "number": "count", "text": "text", "path": "text"}
"""The kinds of fields that choices are; what they write depends on a number, so that it takes no placeholder."""


def section_from(name: str, row: TableRow) -> Section[Any]:
    """A section made of its description."""
    fields = []
    for field, one in row.fields.items():
        kind, usual = KINDS[one.kind]
        fields.append((field, kind if one.kind != "choice" else Literal[one.choices] | None, usual))
    doc = {"__doc__": row.says}
    made = msgspec.defstruct(name.capitalize(), fields, bases=(Part,), namespace=doc, frozen=True, kw_only=True)
    return Section(name, cast("type[Part]", made))
