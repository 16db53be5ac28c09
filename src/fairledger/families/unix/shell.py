"""Quoting for the shell that runs scripts on Unix systems."""

from __future__ import annotations

from shlex import quote


def quoted(text: str) -> str:
    """One word for a POSIX shell, whatever is in it.

    >>> quoted("it's")
    "'it'\"'\"'s'"
    """
    return quote(text)
