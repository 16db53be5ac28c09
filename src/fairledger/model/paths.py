"""Paths in command lines."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.model.pattern import pattern

_PARTS = pattern(r"[/\\]")
_BETWEEN = pattern(r"[\s\"'();&|,<>=]+")


def path_ends(text: str) -> Iterator[str]:
    """The ends of all that may be a path in a text, with ``/``: ``C:\\a\\b.cmd x`` gives ``a/b.cmd`` and ``b.cmd``.

    >>> "a/b.cmd" in list(path_ends('call "%SystemDrive%\\\\a\\\\b.cmd" 7'))
    True
    """
    for word in _BETWEEN.split(text):
        parts = _PARTS.split(word)
        for at in range(max(0, len(parts) - _MOST), len(parts)):
            yield "/".join(parts[at:])


_MOST = 4
"""How many parts of a path count, from its end."""
