"""The portable section ``installer``: how the installer itself behaves."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import SecretRef, Template, Text


class Installer(Part, frozen=True, kw_only=True):
    """The installer's own manners."""

    mode: Literal["text", "graphical", "silent"] | None = None
    assistant: bool | None = None
    """Whether an assistant asks further questions at the first start."""
    check_medium: bool | None = None
    desktop: bool | None = None
    """False: no graphical system is set up."""
    watch: bool | None = None
    """The graphical installer can be watched and used from another machine."""
    watch_account: Text | None = None
    """Under which name."""
    watch_password: SecretRef | None = None
    """Stands readable in the answer file."""
    watch_call: Text | None = None
    """The installer calls this machine, instead of waiting for a call."""
    watch_port: int | Template | None = None


INSTALLER: Section[Installer] = Section("installer", Installer)
