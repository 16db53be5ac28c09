"""Which answers are never shown."""

from __future__ import annotations

from fairledger.catalog.seats import Seat
from fairledger.model.showing import looks_secret


def is_secret(seat: Seat) -> bool:
    """Whether the catalog says that it holds a secret, or where it knows nothing, whether its name sounds like it."""
    return seat.setting.secret if seat.setting is not None else looks_secret(seat.path)
