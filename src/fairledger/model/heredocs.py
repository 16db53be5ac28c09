"""The texts that a shell script takes in with ``<<``, found line by line."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from fairledger.model.pattern import pattern

_BEGINS = pattern(r"(?<!<)<<(?!<)-?[ \t]{0,9}(['\"\\]?)([A-Za-z_]\w{0,99})")


class HereDocument(Struct, frozen=True):
    """One text; rows count from 0."""

    begins: int
    """The row of the ``<<``; the text begins below it, or below another one that begins in the same row."""
    first: int
    ends: int | None
    """The row with the word that ends it; None if none does."""
    word: str
    literal: bool
    """Whether the shell works nothing out in it."""


def here_documents(script: str) -> Iterator[HereDocument]:
    """The texts in the order in which they begin.

    >>> [(one.word, one.begins, one.ends) for one in here_documents("cat <<A <<'B'\\na\\nA\\nb\\nB\\ncat <<C\\nc")]
    [('A', 0, 2), ('B', 0, 4), ('C', 5, None)]
    """
    if "<<" not in script:
        return
    lines = script.split("\n")
    row = 0
    while row < len(lines):
        at = row
        for match in _BEGINS.finditer(lines[row]) if "<<" in lines[row] else ():
            first, ends = at + 1, None
            for below in range(first, len(lines)):
                if lines[below].strip("\t\r") == match[2]:
                    ends = at = below
                    break
            yield HereDocument(row, first, ends, match[2], bool(match[1]))
            if ends is None:
                return
        row = at + 1


def without_taken_in(script: str) -> str:
    """A script with empty lines where its texts stand."""
    lines = script.split("\n")
    for one in here_documents(script):
        for row in range(one.first, len(lines) if one.ends is None else one.ends + 1):
            lines[row] = ""
    return "\n".join(lines)
