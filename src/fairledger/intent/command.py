"""The portable section ``command``: scripts at named moments of the installation."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import ClassVar, Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text

POSSIBLE: dict[str, tuple[str, ...]] = {
    "setup-starts": ("setup",),
    "disks-made": ("setup",),
    "installed": ("system", "setup"),
    "first-start": ("system",),
    "sign-in": ("first-account", "each-account"),
    "setup-fails": ("setup",),
}
"""As whom commands can run at each moment, the usual one first; the moments in their order."""


class Command(Part, frozen=True, kw_only=True):
    """A script. Its text is taken as it is; placeholders in it are filled only with ``fill = true``."""

    name: str | None = None
    """Tells commands apart in layers; it does not reach the answer file."""
    when: Literal["setup-starts", "disks-made", "installed", "first-start", "sign-in", "setup-fails"] = "installed"
    """setup-starts: before the disks are touched; disks-made: before anything is copied to them; installed: the system
    is on the disk and has not started; first-start: after its pages; sign-in: somebody signs in for the first time."""
    run_as: Literal["setup", "system", "first-account", "each-account"] | None = None
    """Whom it runs as. Setup is by itself until the system is installed, then the system; at a sign-in it is the very
    first account, or each-account at the first sign-in of its own."""
    body: str = ""
    """A command line, or a script of several lines."""
    interpreter: Text | None = None
    """What runs the script: a path on Linux, ``cmd`` or ``powershell`` on Windows."""
    about: Text | None = None
    """What it is for."""
    restart: bool = False
    """The machine restarts after it, before anything else happens."""
    log: Text | None = None
    """File that receives what the script prints."""
    hidden: bool = False
    """No window shows while it runs; somebody at the machine could close one."""
    stop_on_error: bool = False
    fill: bool = False
    """Placeholders in the script are filled, each quoted for the shell that runs it and the place at which it stands; a
    script that is nothing but a placeholder is whatever is filled in."""

    KEY: ClassVar[str] = "name"
    UNWRITTEN: ClassVar[tuple[str, ...]] = ("name",)

    def __post_init__(self) -> None:
        """Refuses what cannot be, with a `ValueError`."""
        if self.run_as is not None and self.run_as not in POSSIBLE.get(self.when, ()):
            raise ValueError(f"at {self.when} a command runs as {' or '.join(POSSIBLE[self.when])}, not {self.run_as}")

    @property
    def moment(self) -> tuple[str, str]:
        """The point of the installation, and as whom."""
        return self.when, self.run_as or POSSIBLE[self.when][0]

    @property
    def unusual(self) -> str | None:
        """Whom it runs as, if that has to be said."""
        return self.moment[1] if self.moment[1] != POSSIBLE[self.when][0] else None


COMMAND: Section[tuple[Command, ...]] = Section("command", Command, many=True)
