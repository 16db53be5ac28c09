"""The portable section ``licence``: terms and key."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import SecretRef, Text


class Licence(Part, frozen=True, kw_only=True):
    """Licence terms and product key."""

    accept: bool | None = None
    """Whether the terms are accepted, so that setup does not stop at them."""
    key: SecretRef | Literal["published"] | None = None
    """Product key with which setup goes on. published: the vendor's own for the edition, which activates nothing."""
    activation_key: SecretRef | None = None
    """Product key with which the installed system is activated, if it is another one: a volume key."""
    activation: Literal["skip", "auto"] | None = None
    """skip: the system does not activate itself."""
    activation_server: Text | None = None
    """Server of the organisation that activates machines, with its port if that is not the usual one."""


LICENCE: Section[Licence] = Section("licence", Licence)
