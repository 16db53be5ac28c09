"""The portable section ``privacy``: what the system may collect and send."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part

Choice = Literal["on", "off", "ask"]


class Privacy(Part, frozen=True, kw_only=True):
    """Each choice on, off, or asked at the machine."""

    page: Literal["hide", "show"] | None = None
    """The first start's page with these choices."""
    diagnostics: Choice | None = None
    """More than the required diagnostic data."""
    location: Choice | None = None
    advertising: Choice | None = None
    """An identifier for advertising."""
    speech: Choice | None = None
    """Speech recognised by the vendor's service."""
    typing: Choice | None = None
    """Samples of what is typed and written."""
    find_device: Choice | None = None
    """The device can be found by its owner."""


PRIVACY: Section[Privacy] = Section("privacy", Privacy)
