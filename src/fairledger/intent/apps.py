"""The portable section ``apps``: which of the apps that come with the system stay."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part


class Apps(Part, frozen=True, kw_only=True):
    """Apps by plain names, which ``fairledger tidy list TARGET lean`` tells."""

    remove: tuple[str, ...] = ()
    """They are taken away, for all who come after the installation."""
    keep: tuple[str, ...] = ()
    """They stay when the others go."""
    others: Literal["remove", "keep"] | None = None
    """What happens to the apps that are named nowhere; those that the system cannot do without always stay."""


APPS: Section[Apps] = Section("apps", Apps)
