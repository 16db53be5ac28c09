"""What a written answer file says of itself in a comment: for which release it is, and the draft's title.

No date and no version, so that the same draft gives the same bytes.
"""

from __future__ import annotations

import re

from fairledger.catalog.targets import all_targets
from fairledger.model.pattern import pattern
from fairledger.model.target import Target

_LEAD = "answers for "
_STAMP = pattern(rf"(?:#|<!--)\s*{_LEAD}([^:\n]+?)(?::[^\n]*?)?\s*(?:-->|$)", re.MULTILINE)
_HEAD = 4096


def stamp_text(target: Target, title: str) -> str:
    """The words of a stamp, fit for a comment of any kind."""
    plain = "".join(char if char.isprintable() else " " for char in title).strip()
    # two dashes end comments, or begin what some readers take for their end
    plain = re.sub(r"-{2,}", "-", plain).rstrip("-")
    return f"{_LEAD}{target.name}" + (f": {plain}" if plain else "")


def is_stamp(comment: str) -> bool:
    """Whether a comment is one of those."""
    return comment.strip().startswith(_LEAD)


def stamped_for(data: bytes, family: str) -> Target | None:
    """The target that a file's stamp names; None if it has none, or one that nobody knows."""
    head = data[:_HEAD]
    if _LEAD.encode() not in head:
        return None
    match = _STAMP.search(head.decode("utf-8", "replace"))
    name = match[1].strip() if match else ""
    return next((one for one in all_targets() if one.name == name and one.family == family), None)
