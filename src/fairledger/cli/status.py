"""Exit statuses."""

from __future__ import annotations

from enum import IntEnum


class Status(IntEnum):
    """How a command ended; scripts rely on the numbers."""

    DONE = 0
    FINDINGS = 1
    """At or above the severity that fails, or something wrong inside a readable file."""
    WRONG_USE = 2
    FILE_TROUBLE = 3
    REFUSED = 4
    """For safety: would overwrite, would expose, or a secret is not to be had."""
    OUR_BUG = 5
    INTERRUPTED = 130
