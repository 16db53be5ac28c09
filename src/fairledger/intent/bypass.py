"""The portable section ``bypass``: installing below the vendor's minimum, and first start without a network."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part


class Bypass(Part, frozen=True, kw_only=True):
    """Each true field switches one requirement off."""

    security_chip: bool | None = None
    secure_boot: bool | None = None
    memory: bool | None = None
    processor: bool | None = None
    storage: bool | None = None
    online_account: bool | None = None
    """No online account is asked for at the first start."""
    network: bool | None = None
    """The first start goes on without a network."""


BYPASS: Section[Bypass] = Section("bypass", Bypass)
