"""What a delivery will do, before anything is done: values that are shown, and nothing else."""

from __future__ import annotations

from msgspec import Struct


class Step(Struct, frozen=True, kw_only=True):
    """One thing that is done."""

    action: str
    """``write``, ``replace``, ``change``, ``make`` or ``take back``."""
    path: str
    bytes: int | None = None
    source: str = ""
    """What it comes from."""


class Plan(Struct, frozen=True, kw_only=True):
    """All that is done, what it needs, and what follows at the machine."""

    steps: tuple[Step, ...]
    needs: tuple[str, ...] = ()
    """What must be there."""
    wipes: tuple[str, ...] = ()
    """What is lost at the machine, in the words with which ``--wipes`` allows it."""
    by_itself: bool | None = False
    """Whether the installer takes the file without being told, so that the machine only has to be started; None where
    that depends on what nobody knows."""
    then: tuple[str, ...] = ()
    """What is done at the machine."""
    cares: tuple[str, ...] = ()
    """What to know of what stands there already."""
    host: tuple[str, ...] = ()
    """The host's own commands that make an empty stick ready: for people, and never run here."""
