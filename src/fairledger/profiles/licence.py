"""The portable section ``licence``: terms and key."""

from __future__ import annotations

from msgspec import Struct

from fairledger.model.values import SecretRef
from fairledger.profiles.intent import Section


class Licence(Struct, frozen=True, kw_only=True):
    """Licence terms and product key."""

    accept: bool | None = None
    """Whether the terms are accepted, so that setup does not stop at them."""
    key: SecretRef | None = None
    """Product key, as a reference."""


LICENCE: Section[Licence] = Section("licence", Licence)
