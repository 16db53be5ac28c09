"""Reading typed fields off seats."""

from __future__ import annotations

from fairledger.catalog.seats import Seat
from fairledger.families.fields import text_of
from fairledger.families.windows.passwords import decode
from fairledger.model.values import SecretRef, SecretSource


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
