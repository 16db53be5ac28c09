"""Files without secrets, for reading: nothing that is known or recognised as one stands in them, in whatever part."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from fairledger.delivery.fill import Filled, Made
from fairledger.delivery.prepare import LEFT_OUT, Prepared
from fairledger.model.errors import RefusedError
from fairledger.model.showing import discreet, hidden_in, without_addressed
from fairledger.model.values import SecretRef
from fairledger.profiles.secrets import Secrets

SHORTEST = 4
"""Shorter secrets are not searched for: they stand in any text by chance."""


def known_secrets(prepared: Prepared, secrets: Secrets) -> tuple[set[str], int]:
    """The secrets that are to be had without asking, and how many of them are too short to be searched for."""
    found: set[str] = set()
    for seat in prepared.secret_seats.values():
        value = seat.node.value
        if isinstance(value, str) and value != LEFT_OUT:
            found.add(value)
        if not isinstance(value, SecretRef):
            continue
        try:
            found.add(secrets.fetch(value, "it"))
        except RefusedError:
            continue
    short = {one for one in found if len(one) < SHORTEST}
    return found - short, len(short)


def bared(made: Filled, known: Iterable[str]) -> Filled:
    """The same files without what is known or recognised. Raises `RefusedError` where something stays in."""
    literals = sorted(known, key=len, reverse=True)
    return replace(made, files=tuple(_bared(one, literals) for one in made.files))


def _bared(one: Made, literals: list[str]) -> Made:
    text = one.data.decode("utf-8-sig")
    bare = hidden_in(discreet(without_addressed(text)), literals).replace("(hidden)", LEFT_OUT)
    if any(literal in bare for literal in literals):
        raise RefusedError("a secret cannot be taken out", file=one.name, remedy="take it out of the draft itself")
    mark = b"\xef\xbb\xbf" if one.data.startswith(b"\xef\xbb\xbf") else b""
    return replace(one, data=mark + bare.encode())
