"""The portable section ``start``: the pages of the first start."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part

Page = Literal["hide", "show"]


class Start(Part, frozen=True, kw_only=True):
    """Each page hidden, shown or left to setup. The page for an online account is ``bypass.online_account``."""

    licence: Page | None = None
    wireless: Page | None = None
    """Joining a wireless network."""
    registration: Page | None = None
    """The maker's registration."""
    administrator: Page | None = None
    """The built-in administrator's password, on servers."""
    recommended: Literal["all", "updates", "off"] | None = None
    """The answer to the page on recommended settings: all of them, updates only, none."""


START: Section[Start] = Section("start", Start)
