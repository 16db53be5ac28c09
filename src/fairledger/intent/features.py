"""The portable section ``features``: optional features and capabilities of the system, on or off."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Features(Part, frozen=True, kw_only=True):
    """By the names that the system itself has for them."""

    on: tuple[Text, ...] = ()
    """Features that are switched on, with all that they need."""
    off: tuple[Text, ...] = ()
    add: tuple[Text, ...] = ()
    """Capabilities that are fetched and put in; they need a network."""
    remove: tuple[Text, ...] = ()
    """Capabilities that are taken out."""
    source: Text | None = None
    """Where features come from that the image does not hold: medium, or a folder; else the vendor's servers."""


FEATURES: Section[Features] = Section("features", Features)
