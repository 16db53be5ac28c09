"""The portable section ``addition``: what additions to the installer set up, such as crash dumps and security rules."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Addition(Part, frozen=True, kw_only=True):
    """Crash dumps of the kernel, and rules by which the system is hardened and checked."""

    crash_dump: bool | None = None
    """Whether a crash of the kernel leaves a dump."""
    crash_memory: Text | None = None
    """Memory kept for that in MiB, or ``auto``."""
    rules_from: Literal["datastream", "archive", "rpm", "scap-security-guide"] | None = None
    """What the security rules come in; scap-security-guide is a package of the system itself."""
    rules_url: Text | None = None
    """Where they are fetched from."""
    rules_profile: Text | None = None
    """Which of their profiles is applied."""
    rules_tailoring: Text | None = None
    """A file among them that adapts the profile."""
    rules_checksum: Text | None = None


ADDITION: Section[Addition] = Section("addition", Addition)
