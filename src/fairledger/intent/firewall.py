"""The portable section ``firewall``: what is let in."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Firewall(Part, frozen=True, kw_only=True):
    """The firewall of the installed system."""

    enabled: bool | None = None
    services: tuple[Text, ...] = ()
    """Services that are let in, such as ``ssh``."""
    ports: tuple[Text, ...] = ()
    """Ports that are let in, as ``8080:tcp``."""
    trust: tuple[Text, ...] = ()
    """Interfaces whose traffic is always let in."""


FIREWALL: Section[Firewall] = Section("firewall", Firewall)
