"""What sections of choices want to be done: changes, and the lines that bring them about."""

from __future__ import annotations

from typing import Any

from msgspec import Struct

from fairledger.catalog.tidy import Choice, Effect, effects
from fairledger.families.windows import effect_lines
from fairledger.families.windows.effect_lines import logged
from fairledger.families.windows.tidy_script import Step
from fairledger.intent.walk import FieldPath
from fairledger.model.pattern import pattern
from fairledger.model.target import Target

LONGEST = {"installed": 259, "sign-in": 1024}
"""Characters of a command line at each moment. (The vendor's settings reference.)"""
BROKEN = pattern("[\x00-\x1f\x7f]")


class Job(Struct, frozen=True, kw_only=True):
    """What one field wants to be done."""

    path: FieldPath
    about: str
    effects: tuple[Effect, ...] = ()
    steps: tuple[Step, ...] = ()
    """The lines of those that are no settings, and what has to be run before them."""
    scripted: tuple[Step, ...] = ()
    """The lines for the script, where that needs fewer; it is then taken wherever it may be."""
    undo: str = "usual"

    def fits(self, when: str, *, single: bool = True) -> bool:
        """Whether commands hold all of its lines at a moment; ``single`` if nothing may lie beside the file."""
        if when == "installed" and self.scripted and not single:
            return False
        return all(len(str(logged(one.prompt))) <= LONGEST[when] for one in self.steps if one.when == when)


class Took(Struct, frozen=True):
    """A field that a file says, and the changes that say it."""

    path: FieldPath
    effects: tuple[Effect, ...]
    record: str = ""
    """What its records are called; empty where nothing is recorded."""


def possible(choice: Choice, value: Any, target: Target) -> tuple[Effect, ...]:
    """What a value changes; nothing where the release does not heed it, or nothing can carry it."""
    if isinstance(value, str) and choice.kind != "choice" and BROKEN.search(value):
        return ()
    if isinstance(value, int) and not choice.least <= value <= choice.most:
        return ()
    return effects(choice, value, target)


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
