"""What rules look for in scripts and command lines."""

from __future__ import annotations

from fairledger.checks.signs import Sign

MEDIUM = Sign(
    r"(?<![A-Za-z%])[D-G]:\\",
    near=":\\",
)
LATER_DRIVE = Sign(
    r"(?<![A-Za-z%])C:\\",
    near="c:\\",
)
OUTSIDE = Sign(
    r"/mnt/sys(image|root)\b",
    near="/mnt/sys",
)
SHARE = Sign(
    r"(?<![\w:\\?.])\\\\[A-Za-z0-9][\w.-]*\\[\w$.-]+",
    near="\\\\",
)
SECTION = Sign(
    r"^%([a-z-]+)",
    near="%",
)
