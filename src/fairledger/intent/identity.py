"""The portable section ``identity``: what a machine is called and whose it is."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Identity(Part, frozen=True, kw_only=True):
    """Name and owner."""

    name: Text | None = None
    """Machine name; usually with a placeholder: ``LMR-${station}-01``."""
    naming: Literal["fixed", "random", "ask"] | None = None
    """random: setup makes a name up; ask: the person at the machine gives it one, where setup asks for it."""
    pattern: Text | None = None
    """A name made at the machine: ``LMR-{serial}``, where the machine's serial number takes its place."""
    owner: Text | None = None
    organisation: Text | None = None


IDENTITY: Section[Identity] = Section("identity", Identity)
