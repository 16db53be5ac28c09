"""The portable section ``installer``: how the installer itself behaves."""

from __future__ import annotations

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part


class Installer(Part, frozen=True, kw_only=True):
    """The installer's own manners."""

    mode: Literal["text", "graphical", "silent"] | None = None
    assistant: bool | None = None
    """Whether an assistant asks further questions at the first start."""
    check_medium: bool | None = None
    desktop: bool | None = None
    """False: no graphical system is set up."""


INSTALLER: Section[Installer] = Section("installer", Installer)
