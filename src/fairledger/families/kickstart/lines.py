"""Lines of releases that several section modules ask for, as capabilities of a target's catalog."""

from __future__ import annotations

from fairledger.families.interface import Words
from fairledger.model.places import Origin
from fairledger.model.sheet import Branch

SETUP = "setup"


def has(words: Words, component: str, setting: str = "") -> bool:
    """Whether the target has a command, or an option of it."""
    known = words.catalog.component(component)
    return known is not None and (not setting or known.setting(setting) is not None)


def command(words: Words, component: str, origin: Origin) -> Branch:
    """A new line for a command that may repeat, else the one line it has."""
    known = words.catalog.component(component)
    return words.out.block(SETUP, component, origin, again=bool(known and known.repeats))
