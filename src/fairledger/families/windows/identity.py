"""Name and owner in the words of Windows setup."""

from __future__ import annotations

from msgspec.structs import replace

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import (
    AS_SYSTEM,
    POWERSHELL,
    add_command,
    commands_at,
    powershell,
    quoted_in,
)
from fairledger.families.windows.names import SHELL
from fairledger.intent.identity import Identity

_BEFORE = "Rename-Computer -Force ("
_AFTER = ".Replace('{serial}', (Get-CimInstance Win32_BIOS).SerialNumber.Trim()) -replace '^(.{15}).*', '$1')"
"""Names of more than 15 characters are cut."""
_FIELDS = (("name", "ComputerName"), ("owner", "RegisteredOwner"), ("organisation", "RegisteredOrganization"))


def canonical(value: Identity, words: Words) -> Identity | None:  # noqa: ARG001
    """A random name needs no other; a fixed one needs no saying."""
    if value.naming in ("random", "ask"):
        made = replace(value, name=None, naming="random" if value.naming == "random" else None)
    else:
        made = replace(
            value,
            naming="random" if value.name == "*" else None,
            name=None if value.name == "*" else value.name,
        )
    return made if made != Identity() else None


def translate(value: Identity, words: Words) -> None:
    """All three stand with the shell, before the first start."""
    if value.pattern is not None:
        line = powershell(_BEFORE, value.pattern, _AFTER)
        add_command(words, AS_SYSTEM, line, "Name by serial number", words.origin("identity", "pattern"))
    for field, setting in _FIELDS:
        text = getattr(value, field)
        named = field
        if field == "name" and value.naming == "ask":
            continue
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
    for item, line in commands_at(reader, AS_SYSTEM, POWERSHELL):
        pattern = quoted_in(line, _BEFORE, _AFTER)
        if pattern is not None and "pattern" not in fields:
            fields["pattern"] = pattern
            reader.take(item, "identity", "pattern", whole=True)
    return Identity(**fields) if fields else None  # type: ignore[arg-type]
