"""The portable section ``finish``: what happens at the end of the installation."""

from __future__ import annotations

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part


class Finish(Part, frozen=True, kw_only=True):
    """The end."""

    action: Literal["restart", "power-off", "shut-down", "halt"] | None = None
    eject: bool | None = None
    """The disc is put out."""


FINISH: Section[Finish] = Section("finish", Finish)
