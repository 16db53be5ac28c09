"""The medium that a file is for, as rules ask for it."""

from __future__ import annotations

from pathlib import Path

from msgspec import Struct

from fairledger.checks.view import View
from fairledger.intent.image import IMAGE
from fairledger.model.errors import ContentError, LedgerError
from fairledger.model.holdings import HeldFacts, ImageFacts, MediumFacts
from fairledger.model.places import Origin, Place
from fairledger.model.showing import visible
from fairledger.storage.looking import changed_at

_MOST_KEPT = 16


class Known(Struct, frozen=True):
    """What is known of a medium, or why that is nothing."""

    facts: MediumFacts | None
    trouble: str = ""
    remedy: str = ""


_KNOWN: dict[tuple[str, float, str | None, int | None, str], Known] = {}
"""Media that were looked at, as long as they stay as they are: a roster asks once for each machine."""


def known_medium(view: View) -> Known | None:
    """What is known of the medium; None where none is named."""
    path = view.facts.medium
    if path is None:
        return None
    edition, index = choice(view)
    key = (path, changed_at(Path(path)), edition, index, view.catalog.own.folder)
    if key not in _KNOWN:
        if len(_KNOWN) >= _MOST_KEPT:
            _KNOWN.clear()
        _KNOWN[key] = _looked_at(Path(path), edition, index, view)
    return _KNOWN[key]


def _looked_at(path: Path, edition: str | None, index: int | None, view: View) -> Known:
    from fairledger.media.holding import described

    try:
        return Known(described(path, edition=edition, index=index, own=view.catalog.own))
    except ContentError as error:
        return Known(None, error.findings[0].message, error.findings[0].hint)
    except LedgerError as error:
        return Known(None, error.message, error.remedy)


def medium_of(view: View) -> MediumFacts | None:
    """The medium's facts; None where nobody knows any."""
    known = known_medium(view)
    return known.facts if known is not None else None


def choice(view: View) -> tuple[str | None, int | None]:
    """Which image a file chooses: its edition or name, and its number."""
    image = view.intent.get(IMAGE)
    if image is None or image.file is not None:
        return None, None
    return (
        image.edition if isinstance(image.edition, str) else None,
        image.index if isinstance(image.index, int) else None,
    )


def image_of(view: View, facts: MediumFacts) -> ImageFacts | None:
    """The one image that is installed; None where nobody knows which."""
    image = view.intent.get(IMAGE)
    if image is not None and image.file is not None:
        return None  # it stands elsewhere
    chosen = facts.chosen(*choice(view))
    return chosen[0] if chosen is not None and len(chosen) == 1 else None


def held_of(view: View) -> tuple[MediumFacts, ImageFacts, HeldFacts] | None:
    """What the image holds that is installed, with the medium; None where nobody knows it."""
    facts = medium_of(view)
    image = image_of(view, facts) if facts is not None else None
    held = facts.held_by(image) if facts is not None else None
    return (facts, image, held) if facts is not None and image is not None and held is not None else None


def named_at(view: View) -> Place:
    """Where a file says which medium it is for; its beginning where it does not."""
    document = view.subject.document
    if document is not None:
        head = document.raw.table("draft")
        entry = head.entries.get("medium")
        return Place(origin=entry.origin if entry is not None else head.origin)
    return Place(origin=Origin(view.subject.file, 1, 1))


def called(facts: MediumFacts) -> str:
    """A medium in a sentence."""
    return visible(facts.name) if facts.name else "the medium"
