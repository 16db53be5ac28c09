"""The portable section ``access``: how strictly the system guards what programs may do."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part


class Access(Part, frozen=True, kw_only=True):
    """Access control."""

    mode: Literal["enforcing", "permissive", "off"] | None = None


ACCESS: Section[Access] = Section("access", Access)
