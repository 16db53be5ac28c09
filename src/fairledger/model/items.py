"""What stands in the brackets of an address: ``[x]`` is who or what it is, ``[#2]`` the second one (from 1)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from fairledger.model.pattern import pattern

_NAMES = pattern(r"[^\[\]#+\s][^\[\]]{0,79}")
_PLACE = pattern(r"#([1-9][0-9]{0,8})")


def labels(identities: Sequence[str | None]) -> list[str]:
    """What each of several items is called: by its identity, or by its place where that does not tell it apart."""
    counts = Counter(identities)
    return [
        one if one is not None and counts[one] == 1 and can_name(one) else f"#{place}"
        for place, one in enumerate(identities, 1)
    ]


def can_name(identity: str) -> bool:
    """Whether a text can stand in brackets as it is."""
    return identity.isprintable() and identity == identity.strip() and _NAMES.fullmatch(identity) is not None


def place_in(item: str) -> int | None:
    """The place (from 1) that is meant by what stands in brackets; None where it is an identity."""
    match = _PLACE.fullmatch(item)
    return int(match[1]) if match else None


def is_new(item: str | None) -> bool:
    """Whether an item is meant that is to be made: ``+`` or ``+label``."""
    return item is not None and item.startswith("+")


def meant(item: str, identities: Sequence[str | None]) -> list[int]:
    """Which of several items (from 0) are meant by what stands in brackets."""
    place = place_in(item)
    if place is not None:
        return [place - 1] if place <= len(identities) else []
    return [at for at, one in enumerate(identities) if one == item]
