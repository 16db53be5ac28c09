"""What is looked for in values and scripts: each text is looked through once, however many files hold it."""

from __future__ import annotations

import re

from fairledger.model.pattern import pattern

_MOST_KEPT = 2_000


class Sign:
    """A pattern that is searched in texts; upper and lower case are alike, and lines begin and end.

    ``near`` holds words, in lower case and parted by blanks, of which at least one stands in every text that shows
    it: most texts hold none, and then the pattern need not even be compiled.
    """

    def __init__(self, source: str, *, near: str = "") -> None:
        self.source = source
        self.near = tuple(near.split())
        self._pattern = pattern(source, re.IGNORECASE | re.MULTILINE)
        self._seen: dict[str, re.Match[str] | None] = {}

    def found(self, text: str) -> re.Match[str] | None:
        """The first place in a text that shows it."""
        seen = self._seen
        try:
            return seen[text]
        except KeyError:
            if len(seen) > _MOST_KEPT:
                seen.clear()
            seen[text] = self._pattern.search(text) if self._can_show(text) else None
            return seen[text]

    def _can_show(self, text: str) -> bool:
        folded = text.lower()
        return not self.near or any(word in folded for word in self.near)
