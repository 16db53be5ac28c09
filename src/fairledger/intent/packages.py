"""The portable section ``packages``: the software that the installation brings."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Packages(Part, frozen=True, kw_only=True):
    """Packages, in the words of the target's own collection."""

    environment: Text | None = None
    """The base on which all else stands."""
    groups: tuple[Text, ...] = ()
    packages: tuple[Text, ...] = ()
    modules: tuple[Text, ...] = ()
    """Modules with their streams: ``nodejs:20``."""
    exclude: tuple[Text, ...] = ()
    exclude_groups: tuple[Text, ...] = ()
    languages: Text | None = None
    """Languages whose files are installed, joined by colons."""
    without_weak: bool | None = None
    """Packages that are only recommended are left out."""
    without_docs: bool | None = None
    without_core: bool | None = None
    ignore_missing: bool | None = None


PACKAGES: Section[Packages] = Section("packages", Packages)
