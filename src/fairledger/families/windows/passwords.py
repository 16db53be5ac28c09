"""The installer's encoding of passwords: it hides them from a glance and protects nothing."""

from __future__ import annotations

import binascii


def encode(secret: str, element: str) -> str:
    """The encoded form: the secret followed by the name of the element around it, UTF-16, base64."""
    return binascii.b2a_base64((secret + element).encode("utf-16-le", "surrogatepass"), newline=False).decode("ascii")


def decode(encoded: str, element: str) -> str | None:
    """The secret in an encoded form; None if it is not one."""
    try:
        text = binascii.a2b_base64(encoded, strict_mode=True).decode("utf-16-le")
    except (binascii.Error, UnicodeDecodeError, ValueError):
        return None
    return text.removesuffix(element) if text.endswith(element) else None
