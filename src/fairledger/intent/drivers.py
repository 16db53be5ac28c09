"""The portable section ``drivers``: drivers for setup itself and for the installed system."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import SecretRef, Text


class Drivers(Part, frozen=True, kw_only=True):
    """Folders in which drivers are looked for, with all folders below."""

    setup: tuple[Text, ...] = ()
    """For setup itself: disks and networks that it does not know."""
    image: tuple[Text, ...] = ()
    """Put into the system that is laid down."""
    account: Text | None = None
    """Who may read the folders, if they are on a share."""
    domain: Text | None = None
    password: SecretRef | None = None
    """Stands readable in the answer file."""
    keep: bool | None = None
    """A generalised machine keeps the drivers of its devices, for machines that are all alike."""


DRIVERS: Section[Drivers] = Section("drivers", Drivers)
