"""Licence terms and key in the words of Windows setup."""

from __future__ import annotations

from fairledger.families.interface import Reader, Words
from fairledger.families.windows.fields import secret_of
from fairledger.families.windows.names import SETUP
from fairledger.profiles.licence import Licence

_ACCEPT = "UserData/AcceptEula"
_KEY = "UserData/ProductKey"


def canonical(value: Licence, words: Words) -> Licence | None:  # noqa: ARG001
    """As it is."""
    return value if value != Licence() else None


def translate(value: Licence, words: Words) -> None:
    """Terms and key stand with the user data."""
    if value.accept is not None:
        origin = words.origin("licence", "accept")
        words.out.block("windowsPE", SETUP, origin).put(_ACCEPT, str(value.accept).lower(), origin)
    if value.key is not None:
        origin = words.origin("licence", "key")
        block = words.out.block("windowsPE", SETUP, origin)
        block.put(f"{_KEY}/Key", value.key, origin)
        block.put(f"{_KEY}/WillShowUI", "OnError", origin)


def recognise(reader: Reader) -> Licence | None:
    """Terms and key."""
    accept = reader.first("windowsPE", SETUP, _ACCEPT)
    accepted = {"true": True, "false": False}.get((accept.text or "").strip()) if accept else None
    if accepted is not None:
        reader.take(accept, "licence", "accept")
    seat = reader.first("windowsPE", SETUP, f"{_KEY}/Key")
    key = secret_of(seat)
    if key is not None:
        reader.take(seat, "licence", "key")
        shown = reader.first("windowsPE", SETUP, f"{_KEY}/WillShowUI")
        if shown is not None and shown.text == "OnError":
            reader.take(shown)
    made = Licence(accept=accepted, key=key)
    return made if made != Licence() else None
