"""Reading typed fields off seats."""

from __future__ import annotations

from fairledger.catalog.seats import Seat
from fairledger.model.values import SecretRef, SecretSource


def on(root: Seat, name: str) -> bool:
    """Whether a flag stands on a line."""
    seat = root.child(name)
    return seat is not None and seat.text == "true"


def only(root: Seat | None, *names: str) -> bool:
    """Whether just these settings stand on a line, and nothing that would change what they mean."""
    return root is not None and {seat.name for seat in root.children} == set(names)


def secret_of(root: Seat, name: str) -> SecretRef | None:
    """A password of a line: its reference, or what stands there, with its form."""
    seat = root.child(name)
    if seat is None or seat.value in (None, ""):
        return None
    if isinstance(seat.value, SecretRef):
        return seat.value
    form = "hash" if on(root, "--iscrypted") else "plain"
    value = seat.value
    return SecretRef((SecretSource("value", value),), form) if value else None
