"""The portable section ``services``: what starts with the system."""

from __future__ import annotations

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Services(Part, frozen=True, kw_only=True):
    """Services by the names that the system gives them."""

    enabled: tuple[Text, ...] = ()
    disabled: tuple[Text, ...] = ()


SERVICES: Section[Services] = Section("services", Services)
