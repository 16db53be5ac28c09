"""The portable section ``own``: choices of one's own, described in the folder ``tidy/`` beside the draft."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import ClassVar

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Own(Part, frozen=True, kw_only=True):
    """One choice of one's own."""

    choice: str
    """Its name in its file."""
    value: Text | None = None
    """One of its values."""

    KEY: ClassVar[str] = "choice"


OWN: Section[tuple[Own, ...]] = Section("own", Own, many=True)
