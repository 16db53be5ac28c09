"""Where the lines of a text begin."""

from __future__ import annotations

import re
from array import array


def starts_of_lines(text: str) -> array[int]:
    """The offset of each line's first character; an array, since files may have millions of them."""
    starts = array("q", [0])
    starts.extend(match.end() for match in re.finditer("\n", text))
    return starts
