"""The portable section ``services``: what starts with the system, by the names that it gives its services."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Services(Part, frozen=True, kw_only=True):
    """Services by name."""

    enabled: tuple[Text, ...] = ()
    """They start with the system."""
    delayed: tuple[Text, ...] = ()
    """They start some minutes after the system."""
    manual: tuple[Text, ...] = ()
    """They start when something needs them."""
    disabled: tuple[Text, ...] = ()
    """They never start."""


SERVICES: Section[Services] = Section("services", Services)
