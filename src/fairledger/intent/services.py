"""The portable section ``services``: what starts with the system."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Services(Part, frozen=True, kw_only=True):
    """Services by the names that the system gives them."""

    enabled: tuple[Text, ...] = ()
    disabled: tuple[Text, ...] = ()


SERVICES: Section[Services] = Section("services", Services)
