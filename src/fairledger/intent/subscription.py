"""The portable section ``subscription``: registering with the vendor, and what the system is for."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import SecretRef, Text


class Subscription(Part, frozen=True, kw_only=True):
    """Registration and purpose."""

    organisation: Text | None = None
    key: SecretRef | None = None
    """Activation key, as a reference."""
    insights: bool | None = None
    """Connects to the vendor's analysis service."""
    server: Text | None = None
    proxy: Text | None = None
    role: Text | None = None
    service_level: Text | None = None
    usage: Text | None = None


SUBSCRIPTION: Section[Subscription] = Section("subscription", Subscription)
