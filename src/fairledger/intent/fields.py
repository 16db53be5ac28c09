"""What the fields of a table accept, read off their annotations."""

from __future__ import annotations

import types
from functools import cache
from typing import Any, Literal, Union, get_args, get_origin

import msgspec
from msgspec import Struct

from fairledger.intent.part import Part
from fairledger.model.size import Size
from fairledger.model.values import SecretRef, Template


class FieldType:
    """What a field accepts."""

    def __init__(self, hint: Any) -> None:
        members = get_args(hint) if get_origin(hint) in (Union, types.UnionType) else (hint,)
        self.plain: set[type] = set()
        self.choices: tuple[str, ...] = ()
        self.table: type[Part] | None = None
        self.item: FieldType | None = None
        """Of a list: what its items accept."""
        self.words = False
        """Whether it is a table of words, each with a text."""
        for member in members:
            if get_origin(member) is Literal:
                self.choices += tuple(choice for choice in get_args(member) if isinstance(choice, str))
            elif get_origin(member) is dict:
                self.words = True
            elif get_origin(member) is tuple:
                self.item = FieldType(get_args(member)[0])
            elif member in (str, int, bool, Template, SecretRef, Size):
                self.plain.add(member)
            elif isinstance(member, type) and issubclass(member, Part):
                self.table = member

    @property
    def branches(self) -> bool:
        """Whether translating chooses by it what to write, so that it takes no placeholder: a variant says it."""
        return self.table is None and self.item is None and not self.plain & {str, Template, SecretRef}

    @property
    def inner(self) -> type[Part] | None:
        """The table that the field holds, or that its items are."""
        return self.item.table if self.item is not None else self.table

    def says(self) -> str:
        """What is accepted, in words."""
        if self.item is not None:
            return "a list of " + (f"{self.item.says()}s" if self.item.table is None else "tables")
        if self.table is not None or self.words:
            return "a table"
        words = {
            int: "a whole number",
            bool: "true or false",
            Size: "a size such as 40 GiB",
            SecretRef: "a secret",
        }
        said = [word for kind, word in words.items() if kind in self.plain]
        if self.choices:
            said.append(" or ".join(f'"{choice}"' for choice in self.choices))
        elif str in self.plain:
            said.append("text")
        return " or ".join(said)


@cache
def fields_of(table: type[Struct]) -> dict[str, FieldType]:
    """The fields of a table, in their order."""
    return {field.name: FieldType(field.type) for field in msgspec.structs.fields(table)}


@cache
def defaults_of(table: type[Struct]) -> dict[str, Any]:
    """What each field has where nothing is said, in their order; the language's own mark where it must be said."""
    return {field.name: field.default for field in msgspec.structs.fields(table)}
