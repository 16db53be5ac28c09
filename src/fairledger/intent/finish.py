"""The portable section ``finish``: what happens at the end of the installation."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part


class Finish(Part, frozen=True, kw_only=True):
    """The end."""

    action: Literal["restart", "power-off", "shut-down", "halt"] | None = None
    eject: bool | None = None
    """The disc is put out."""


FINISH: Section[Finish] = Section("finish", Finish)
