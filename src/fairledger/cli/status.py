"""Exit statuses."""

from __future__ import annotations

DONE = 0
FINDINGS = 1
WRONG_USE = 2
FILE_TROUBLE = 3
REFUSED = 4
OUR_BUG = 5
INTERRUPTED = 130
