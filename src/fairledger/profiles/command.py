"""The portable section ``command``: scripts at named moments of the installation."""

from __future__ import annotations

from typing import Literal

from msgspec import Struct

from fairledger.model.values import Text
from fairledger.profiles.intent import Section


class Command(Struct, frozen=True, kw_only=True):
    """A script. Its text is taken as it is; placeholders in it are filled only with ``fill = true``."""

    name: str | None = None
    """Tells commands apart in layers; it does not reach the answer file."""
    when: Literal["before", "disks-ready", "end", "error", "first-start"] = "end"
    body: str = ""
    interpreter: Text | None = None
    outside: bool = False
    """At the end: outside the new system instead of inside it."""
    log: Text | None = None
    """File that receives what the script prints."""
    stop_on_error: bool = False
    fill: bool = False


COMMAND: Section[tuple[Command, ...]] = Section("command", Command, many_by="name")
