"""The order of items in lists."""

from __future__ import annotations

from collections.abc import Sequence

from fairledger.catalog.seats import Seat
from fairledger.model.sheet import VALUE_KEY


def is_number(seat: Seat) -> bool:
    """Whether it only keeps the order of its list."""
    return seat.name == VALUE_KEY or (seat.setting is not None and seat.setting.ordinal)


def in_order(items: Sequence[Seat]) -> list[Seat]:
    """Items of a list by their numbers, where they have some; those without come last, as they stand."""
    return sorted(items, key=number_of_item)


def number_of_item(item: Seat) -> int:
    """The number that keeps an item's place."""
    said = next((one.text for one in item.children if is_number(one) and one.text), None)
    return int(said) if said is not None and said.strip().isdecimal() and len(said) < 18 else 1 << 60
