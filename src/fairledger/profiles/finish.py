"""The portable section ``finish``: what happens at the end of the installation."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from fairledger.profiles.intent import Section


class Finish(Struct, frozen=True, kw_only=True):
    """The end."""

    action: Literal["restart", "power-off", "shut-down", "halt"] | None = None
    eject: bool | None = None
    """The disc is put out."""


FINISH: Section[Finish] = Section("finish", Finish)
