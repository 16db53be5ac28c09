"""The portable section ``services``: what starts with the system."""

from __future__ import annotations

from msgspec import Struct

from fairledger.model.values import Text
from fairledger.profiles.intent import Section


class Services(Struct, frozen=True, kw_only=True):
    """Services by the names that the system gives them."""

    enabled: tuple[Text, ...] = ()
    disabled: tuple[Text, ...] = ()


SERVICES: Section[Services] = Section("services", Services)
