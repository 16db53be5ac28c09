"""What sections of choices want to be done: changes, and the lines that bring them about."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from msgspec import Struct

from fairledger.catalog.tidy import Effect
from fairledger.families.windows import effect_lines
from fairledger.families.windows.effect_lines import logged
from fairledger.families.windows.tidy_script import Step
from fairledger.intent.walk import FieldPath

LONGEST = {"installed": 259, "sign-in": 1024}
"""Characters of a command line at each moment. (The vendor's settings reference.)"""


class Job(Struct, frozen=True, kw_only=True, dict=True):
    """What one field wants to be done."""

    path: FieldPath
    about: str
    value: Any = None
    """The value of the choice."""
    effects: tuple[Effect, ...] = ()
    steps: tuple[Step, ...] = ()
    """The lines of those that are no settings, and what has to be run before them."""
    scripted: tuple[Step, ...] = ()
    """The lines for the script, where that needs fewer; it is then taken wherever it may be."""
    undo: str = "usual"

    @property
    def name(self) -> str:
        """The field, or one's own choice."""
        return self.about.partition(":")[0].partition(".")[2] if self.path[0] == "own" else str(self.path[1])

    def fits(self, when: str, *, single: bool = True) -> bool:
        """Whether commands hold all of its lines at a moment; ``single`` if nothing may lie beside the file."""
        if when == "installed" and self.scripted and not single:
            return False
        return when not in self._too_long

    @cached_property
    def _too_long(self) -> frozenset[str]:
        """The moments at which a command does not hold one of its lines."""
        return frozenset(one.when for one in self.steps if len(str(logged(one.prompt))) > LONGEST[one.when])


class Took(Struct, frozen=True):
    """A field that a file says, and the changes that say it."""

    path: FieldPath
    effects: tuple[Effect, ...]
    record: str = ""
    """What its records are called; empty where nothing is recorded."""


def steps_of(found: tuple[Effect, ...], record: str) -> tuple[Step, ...]:
    """The lines of changes, behind those that keep what is there before under the name ``record``."""
    out = [Step(when="installed", prompt=line, batch=line) for line in recordings(found, record)]
    for one in found:
        if one.kind not in ("setting", "firewall"):
            batch = effect_lines.line(one, batch=True)
            out.append(Step(when=one.when, prompt=effect_lines.line(one), batch=batch, hive=one.hive))
    return tuple(out)


def recordings(found: tuple[Effect, ...], record: str) -> list[str]:
    """The lines that keep what changes find; none without a name for it."""
    rows = records(found, record) if record else []
    return [line for name, key in rows for line in effect_lines.recording(name, key)]


def records(found: tuple[Effect, ...], record: str) -> list[tuple[str, str]]:
    """The keys of the machine in which what changes find is kept, each with what its record is called."""
    keys = [one.key for one in found if one.kind == "registry" and one.hive == "machine"]
    keys += [rf"{effect_lines.SERVICES}\{one.service}" for one in found if one.kind == "service"]
    return [(f"{record}.{at}" if at > 1 else record, key) for at, key in enumerate(dict.fromkeys(keys), 1)]


def rows_of(jobs: list[Job]) -> list[tuple[str, Step]]:
    """What stands in the script: the choices, and their lines."""
    rows = [(job.about.partition(":")[0], job.scripted or job.steps) for job in jobs]
    return [(about, one) for about, steps in rows for one in steps if one.when == "installed"]
