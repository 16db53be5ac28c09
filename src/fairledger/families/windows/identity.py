"""Name and owner in the words of Windows setup."""

from __future__ import annotations

from msgspec.structs import replace

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.names import SHELL
from fairledger.profiles.identity import Identity

_FIELDS = (("name", "ComputerName"), ("owner", "RegisteredOwner"), ("organisation", "RegisteredOrganization"))


def canonical(value: Identity, words: Words) -> Identity | None:  # noqa: ARG001
    """A random name needs no other; a fixed one needs no saying."""
    if value.naming == "random":
        made = replace(value, name=None)
    else:
        made = replace(
            value,
            naming="random" if value.name == "*" else None,
            name=None if value.name == "*" else value.name,
        )
    return made if made != Identity() else None


def translate(value: Identity, words: Words) -> None:
    """All three stand with the shell, before the first start."""
    for field, setting in _FIELDS:
        text = getattr(value, field)
        named = field
        if field == "name" and value.naming == "random":
            text, named = "*", "naming"
        if text is not None:
            origin = words.origin("identity", named)
            words.out.block("specialize", SHELL, origin).put(setting, text, origin)


def recognise(reader: Reader) -> Identity | None:
    """Name and owner; an asterisk is a random name."""
    fields: dict[str, object] = {}
    for field, setting in _FIELDS:
        seat = reader.first("specialize", SHELL, setting)
        text = text_of(seat)
        if text is None:
            continue
        if field == "name" and text == "*":
            fields["naming"] = "random"
            reader.take(seat, "identity", "naming")
        else:
            fields[field] = text
            reader.take(seat, "identity", field)
    return Identity(**fields) if fields else None  # type: ignore[arg-type]
