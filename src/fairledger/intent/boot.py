"""The portable section ``boot``: the boot loader, and what the kernel is told."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import SecretRef, Template, Text


class Boot(Part, frozen=True, kw_only=True):
    """How the installed system starts."""

    parameters: Text | None = None
    """Further kernel parameters, as they are written behind each other."""
    drive: Text | None = None
    """The disk that holds the loader."""
    location: Literal["disk", "partition", "nowhere"] | None = None
    """Where the loader is written: the disk's beginning, the beginning of the boot partition, or nowhere."""
    seconds: int | Template | None = None
    """How long the loader waits before it starts the system."""
    password: SecretRef | None = None
    """Without it nobody changes what the loader starts."""
    keep_order: bool | None = None
    """The order in which the firmware tries its entries stays as it is."""


BOOT: Section[Boot] = Section("boot", Boot)
