"""Reading typed fields off seats, in every family alike."""

from __future__ import annotations

from fairledger.catalog.seats import Seat
from fairledger.model.values import SecretRef, Template, Text


def text_of(seat: Seat | None) -> Text | None:
    """Text, with placeholders if it has any."""
    value = seat.value if seat else None
    return None if value is None or isinstance(value, SecretRef) else value


def number_of(seat: Seat | None) -> int | Template | None:
    """A whole number of zero or more, or a placeholder for one."""
    value = text_of(seat)
    if isinstance(value, str):
        bare = value.strip()
        return int(bare) if bare.isascii() and bare.isdecimal() and len(bare) < 10 else None
    return value
