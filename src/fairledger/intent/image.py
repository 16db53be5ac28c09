"""The portable section ``image``: which of a medium's images is installed."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Template, Text


class Image(Part, frozen=True, kw_only=True):
    """One of the images on the medium."""

    edition: Text | None = None
    """An edition of the target (``Pro``), or an image's whole name."""
    index: int | Template | None = None
    """The image's number on the medium, from 1."""
    file: Text | None = None
    """The image's file, if it is not the medium's own."""
    compact: bool | None = None
    """The system's files are kept compressed, for small disks."""


IMAGE: Section[Image] = Section("image", Image)
