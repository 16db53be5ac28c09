"""The portable section ``access``: how strictly the system guards what programs may do."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from fairledger.profiles.intent import Section


class Access(Struct, frozen=True, kw_only=True):
    """Access control."""

    mode: Literal["enforcing", "permissive", "off"] | None = None


ACCESS: Section[Access] = Section("access", Access)
