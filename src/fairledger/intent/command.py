"""The portable section ``command``: scripts at named moments of the installation."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import ClassVar, Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Command(Part, frozen=True, kw_only=True):
    """A script. Its text is taken as it is; placeholders in it are filled only with ``fill = true``."""

    name: str | None = None
    """Tells commands apart in layers; it does not reach the answer file."""
    when: Literal["before", "disks-ready", "end", "error", "first-start", "first-sign-in", "new-user"] = "end"
    """before: while the installer runs, before the disks are touched; end: as the system, before the first start;
    first-start: after its pages; first-sign-in: of the very first account; new-user: at each account's first one."""
    body: str = ""
    """A command line, or a script of several lines."""
    interpreter: Text | None = None
    """What runs the script: a path on Linux, ``cmd`` or ``powershell`` on Windows."""
    about: Text | None = None
    """What it is for."""
    restart: bool = False
    """The machine restarts after it, before anything else happens."""
    outside: bool = False
    """At the end: outside the new system instead of inside it."""
    log: Text | None = None
    """File that receives what the script prints."""
    stop_on_error: bool = False
    fill: bool = False

    KEY: ClassVar[str] = "name"
    UNWRITTEN: ClassVar[tuple[str, ...]] = ("name",)


COMMAND: Section[tuple[Command, ...]] = Section("command", Command, many=True)
