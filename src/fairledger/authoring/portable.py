"""Addresses of portable fields: ``section.field``, ``section[item].field``, and the draft's head like a section."""

from __future__ import annotations

import re

from fairledger.catalog.address import Step, steps_of
from fairledger.intent.sections import SECTION_NAMES


def is_portable(address: str) -> bool:
    """Whether an address names a field of a section (or of the draft's head)."""
    match = re.match(r"([a-z]+)(?:\.|\[[^\]]*\](?:\.|$))", address)
    return bool(match and match[1] in (*SECTION_NAMES, "draft"))


def portable_steps(address: str) -> tuple[Step, ...]:
    """The steps of a portable address. Raises `WrongUseError`."""
    return steps_of(re.sub(r"\.(?![^\[]*\])", "/", address), address)
