"""Name and owner in the words of Windows setup."""

from __future__ import annotations

from msgspec.structs import replace

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import (
    AS_SYSTEM,
    POWERSHELL,
    Form,
    add_command,
    commands_at,
)
from fairledger.families.windows.names import SHELL
from fairledger.intent.identity import Identity
from fairledger.model.values import concat, halves

_SERIAL = "{serial}"
_CUT = (
    "; $s = (gwmi Win32_BIOS).SerialNumber -replace '[^0-9a-z]'; $n = 15 - ($a + $b).Length; "
    "(gwmi Win32_ComputerSystem).Rename($a + $s.Substring([Math]::Max(0, $s.Length - $n)) + $b)"
)
_NAMED = Form(
    (
        "$a = ",
        "; $b = ",
        _CUT,
    )
)
"""Of long serial numbers the end is kept, which tells machines apart: those of virtual machines all begin alike."""
_FIELDS = (("name", "ComputerName"), ("owner", "RegisteredOwner"), ("organisation", "RegisteredOrganization"))


def canonical(value: Identity, words: Words) -> Identity | None:  # noqa: ARG001
    """A random name needs no other; a fixed one needs no saying."""
    if value.pattern is not None and halves(value.pattern, _SERIAL) is None:
        value = replace(value, pattern=None)
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
        sides = halves(value.pattern, _SERIAL)
        if sides is not None:
            origin = words.origin("identity", "pattern")
            add_command(words, AS_SYSTEM, _NAMED.line(*sides), "Name by serial number", origin)
        else:
            hint = "write it as in LMR-{serial}"
            words.field_error(("identity", "pattern"), f"the pattern {value.pattern} has no {_SERIAL}, once", hint)
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
        sides = _NAMED.values_in(line)
        if sides is not None and "pattern" not in fields:
            fields["pattern"] = concat(sides[0], _SERIAL, sides[1])
            reader.take(item, "identity", "pattern", whole=True)
    return Identity(**fields) if fields else None  # type: ignore[arg-type]
