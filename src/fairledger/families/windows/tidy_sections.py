"""The sections of choices: what each wants to be done, and what of it changes say."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache, lru_cache
from importlib import import_module
from typing import Any

from fairledger.catalog.tidy import BROKEN, Choice, Effect, choices_of, shipped, tidy
from fairledger.families.interface import Words
from fairledger.families.own import Made, made
from fairledger.families.windows.tidy_job import Job, Took, steps_of
from fairledger.families.windows.tidy_match import choices_in
from fairledger.intent.intent import Intent
from fairledger.intent.sections import SECTION_NAMES, section
from fairledger.intent.walk import FieldPath
from fairledger.model.finding import Severity
from fairledger.model.target import Target


def names_of_choices() -> tuple[str, ...]:
    """The sections of choices, in the order of the work."""
    return tuple(name for name in SECTION_NAMES if name in ("apps", "services") or name in tidy().groups)


@cache
def of(name: str) -> TidySection:
    """One of them."""
    if name in tidy().groups:
        return TidySection(name)
    found: TidySection = import_module(f"fairledger.families.windows.{name}").SECTION
    return found


def jobs_of(intent: Intent, target: Target) -> list[Job]:
    """All that its sections want to be done, in their order."""
    there = [name for name in names_of_choices() if intent.sections.get(name) is not None]
    jobs = [job for name in there for job in of(name).jobs(intent.sections[name], target)]
    return [*jobs, *map(_own_job, made(intent, target))]


@lru_cache(maxsize=2048)
def _job(section: str, name: str, said: Any, release: str) -> Job | None:
    """What a choice that ships wants to be done; None where the release does not heed it."""
    found, choice = shipped(section, name, said, release), choices_of(section)[name]
    if not found:
        return None
    shown = f": {said}" if choice.kind in ("choice", "number") else ""
    steps = steps_of(found, f"{section}.{name}" if choice.undo == "exact" else "")
    about = f"{section}.{name}{shown}"
    return Job(path=(section, name), about=about, value=said, effects=found, steps=steps, undo=choice.undo)


def _own_job(one: Made) -> Job:
    choice, value = one.choice, one.value
    steps = steps_of(one.effects, f"own.{one.name}" if choice.undo == "exact" else "")
    about = f"own.{one.name}" + (f": {value}" if choice.kind in ("choice", "number") else "")
    return Job(path=("own", one.at), about=about, value=value, effects=one.effects, steps=steps, undo=choice.undo)


class TidySection:
    """A section whose fields are choices of the catalog."""

    def __init__(self, name: str) -> None:
        self.name = name

    def canonical(self, value: Any, words: Words) -> Any:
        """The choices that the release heeds."""
        kept = {}
        for name in choices_of(self.name):
            said = getattr(value, name)
            if said is not None and shipped(self.name, name, said, words.target.id):
                kept[name] = said
        return section(self.name).table(**kept) if kept else None

    def jobs(self, value: Any, target: Target) -> Iterator[Job]:
        """What is to be done."""
        for name in choices_of(self.name):
            said = getattr(value, name)
            job = _job(self.name, name, said, target.id) if said is not None else None
            if job is not None:
                yield job

    def tell(self, value: Any, words: Words) -> None:
        """Says what has no effect."""
        for name, choice in choices_of(self.name).items():
            said = getattr(value, name)
            if said is not None and not shipped(self.name, name, said, words.target.id):
                _tell(choice, said, (self.name, name), words)

    def found(self, there: dict[tuple[str, ...], list[Effect]], target: Target) -> tuple[Any, list[Took]]:
        """The choices that changes come to; None where there are none."""
        values, took = choices_in(self.name, there, target)
        return (section(self.name).table(**values) if values else None), took


def _tell(choice: Choice, said: Any, path: FieldPath, words: Words) -> None:
    named = ".".join(str(step) for step in path)
    if isinstance(said, int) and not choice.least <= said <= choice.most:
        words.field_error(path, f"{named} cannot be {said}", f"from {choice.least} to {choice.most}")
    elif isinstance(said, str) and choice.kind != "choice" and BROKEN.search(said):
        told = "it holds a line end or another control character, which no command can carry"
        words.field_error(path, f"{named}: {told}", "write it in one line")
    elif said == choice.usual and choice.changes(words.target):
        words.needless(path, f"{named} = {said}", "it is so already")
    elif said not in ("ask", choice.usual):
        why, severity = _why_not(choice, words.target)
        words.cannot(path, named, why, "leave it out for this target", severity)
    else:
        words.told.append(path)


def _why_not(choice: Choice, target: Target) -> tuple[str, Severity]:
    """Why a release does not heed a choice; milder where what it speaks of is not there at all."""
    number = int(target.build) if target.build.isdecimal() else 0
    if choice.lines and target.line not in choice.lines:
        return "it is for other releases of the family", Severity.WARNING
    if choice.since and number < choice.since:
        return f"what it changes came with build {choice.since}", Severity.ADVICE
    if choice.until and number > choice.until:
        return f"what it changes went after build {choice.until}", Severity.ADVICE
    if not any(one.family == target.family for one in choice.does):
        return "nothing is known that does it there", Severity.WARNING
    return "this release does not heed it", Severity.WARNING
