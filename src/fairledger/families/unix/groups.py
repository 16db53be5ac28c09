"""Well-known groups by their portable names, and what they are called here."""

from __future__ import annotations

from fairledger.model.values import Text

EVERYBODY = "Users"
"""Every account is one of them anyway."""


def here(name: Text, administrators: str) -> Text:
    """A group as the system calls it; empty for one that every account is in. ``administrators`` may do all there."""
    if name == EVERYBODY:
        return ""
    return administrators if name == "Administrators" else name


def portable(name: Text, administrators: str) -> Text:
    """A group of the system by its portable name."""
    return "Administrators" if name == administrators else name
