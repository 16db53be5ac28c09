"""What is looked for in values and scripts: each text is looked through once, however many files hold it."""

from __future__ import annotations

import re

from fairledger.model.pattern import pattern

_MOST_KEPT = 2_000


class Sign:
    """A pattern that is searched in texts; upper and lower case are alike, and lines begin and end."""

    def __init__(self, source: str, flags: int = re.IGNORECASE | re.MULTILINE) -> None:
        self._pattern = pattern(source, flags)
        self._seen: dict[str, re.Match[str] | None] = {}

    def found(self, text: str) -> re.Match[str] | None:
        """The first place in a text that shows it."""
        seen = self._seen
        try:
            return seen[text]
        except KeyError:
            if len(seen) > _MOST_KEPT:
                seen.clear()
            seen[text] = self._pattern.search(text)
            return seen[text]
