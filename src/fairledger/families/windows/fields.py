"""Reading typed fields off seats."""

from __future__ import annotations

from fairledger.catalog.seats import Seat
from fairledger.families.windows.passwords import decode
from fairledger.model.values import SecretRef, SecretSource, Template, Text


def text_of(seat: Seat | None) -> Text | None:
    """Text, with placeholders if it has any."""
    value = seat.value if seat else None
    return None if value is None or isinstance(value, SecretRef) else value


def number_of(seat: Seat | None) -> int | Template | None:
    """A whole number of zero or more, or a placeholder for one."""
    value = text_of(seat)
    if isinstance(value, str):
        stripped = value.strip()
        return int(stripped) if stripped.isascii() and stripped.isdecimal() and len(stripped) < 10 else None
    return value


def truth_of(seat: Seat | None) -> bool | None:
    """True or false."""
    value = text_of(seat)
    return {"true": True, "false": False}.get(value.strip()) if isinstance(value, str) else None


def secret_of(seat: Seat | None) -> SecretRef | None:
    """A secret: its reference, or what the file itself holds."""
    value = seat.value if seat else None
    if isinstance(value, SecretRef):
        return value
    if value is None or value == "":
        return None
    return SecretRef((SecretSource("value", value),))


def password_of(group: Seat | None) -> SecretRef | None:
    """A password group (``Value`` with ``PlainText``), decoded where the file only hides it."""
    value = group.child("Value") if group else None
    if group is None or value is None:
        return None
    if truth_of(group.child("PlainText")) is False and value.text:
        plain = decode(value.text.strip(), group.node.name)
        if plain is not None:
            return SecretRef((SecretSource("value", plain),)) if plain else None
    return secret_of(value)
