"""The portable section ``branding``: whose machine it is, and where help is to be had."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Branding(Part, frozen=True, kw_only=True):
    """What the system's page about itself shows."""

    manufacturer: Text | None = None
    model: Text | None = None
    logo: Text | None = None
    """A bitmap's path on the installed system."""
    support_phone: Text | None = None
    support_hours: Text | None = None
    support_url: Text | None = None


BRANDING: Section[Branding] = Section("branding", Branding)
