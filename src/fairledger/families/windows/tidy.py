"""Choices in the words of Windows setup: a setting where there is one, else commands, else one script beside the file.

All sections of choices are put down together, behind the last of them: the hive of those who come later is laid open
once, and what no command holds stands in one script.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from fairledger.catalog.tidy import Effect
from fairledger.families import own
from fairledger.families.interface import Reader, Words
from fairledger.families.windows import tidy_sections
from fairledger.families.windows.command_lines import AS_SYSTEM, FIRST_SIGN_IN, Moment, launcher
from fairledger.families.windows.effect_lines import LOAD, UNLOAD, logged
from fairledger.families.windows.tidy_found import FIREWALL, taken
from fairledger.families.windows.tidy_job import Job, rows_of
from fairledger.families.windows.tidy_script import NAME, Step, body
from fairledger.families.windows.tidy_sections import jobs_of, names_of_choices
from fairledger.intent.intent import Intent
from fairledger.model.pattern import pattern
from fairledger.model.sheet import VALUE_KEY, Companion
from fairledger.model.target import Target
from fairledger.model.values import Text

_AT: dict[str, Moment] = {"installed": AS_SYSTEM, "sign-in": FIRST_SIGN_IN}
_GROUP = pattern(r"@FirewallAPI\.dll,-(\d+)")


class _Section:
    """What the family offers of a section of choices."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.canonical = tidy_sections.of(name).canonical

    def translate(self, value: Any, words: Words) -> None:
        """Says what has no effect, and puts everything down once this is the last of its kind."""
        tidy_sections.of(self.name).tell(value, words)
        if self.name == last_of_choices(words.intent):
            put_down(jobs_of(words.intent, words.target), words)

    def recognise(self, reader: Reader) -> Any:
        """The choices that settings and commands come to, in whatever spelling."""
        return taken(reader, self.name)


class _OwnSection:
    """What the family offers of choices of one's own."""

    def canonical(self, value: Any, words: Words) -> None:  # noqa: ARG002
        """They come back as the commands that they are."""
        return

    def translate(self, value: Any, words: Words) -> None:
        """As above."""
        own.tell(value, words)
        if last_of_choices(words.intent) == "own":
            put_down(jobs_of(words.intent, words.target), words)

    def recognise(self, reader: Reader) -> None:  # noqa: ARG002
        """As above."""
        return


SECTIONS = (*names_of_choices(), "own")


def of(name: str) -> _Section | _OwnSection:
    """The section of that name."""
    return _OwnSection() if name == "own" else _Section(name)


def last_of_choices(intent: Intent) -> str:
    """The last section of choices that says something."""
    return next((name for name in reversed(SECTIONS) if intent.sections.get(name)), "")


def folded(intent: Intent, target: Target) -> Intent:  # noqa: ARG001
    """Choices have sections of their own."""
    return intent


def put_down(jobs: list[Job], words: Words) -> None:
    """Puts down what all sections of choices want."""
    for job in jobs:
        for effect in job.effects:
            _put_setting(effect, job, words)
    single = bool(words.facts.single_file)
    _put_commands([job for job in jobs if job.fits("installed", single=single)], words)
    _put_script([job for job in jobs if not job.fits("installed", single=single)], words)
    for one in jobs:
        if not one.fits("sign-in"):
            words.cannot(one.path, one.about, "the line is too long for a command at the first sign-in", "shorten it")
    late = [one for one in jobs if one.fits("sign-in")]
    for job, step in _once((each, one) for each in late for one in each.steps if one.when == "sign-in"):
        _command(logged(step.prompt), job, "sign-in", words)


def _put_setting(effect: Effect, job: Job, words: Words) -> None:
    origin = words.origin(*job.path)
    if effect.kind == "setting":
        pass_, _, rest = effect.key.partition(":")
        component, _, path = rest.partition("/")
        words.out.block(pass_, component, origin).put(path, str(effect.data), origin)
    elif effect.kind == "firewall":
        pass_, component, path = FIREWALL
        item = words.out.block(pass_, component, origin).add(path, origin)
        number = _GROUP.fullmatch(effect.key)
        item.put(VALUE_KEY, f"group-{number[1] if number else effect.key}", origin)
        for name, text in (("Active", str(effect.data)), ("Group", effect.key), ("Profile", "all")):
            item.put(name, text, origin)


def _put_commands(jobs: list[Job], words: Words) -> None:
    """A command for each line; those for later users between two that lay their hive open and close it."""
    for later in (False, True):
        rows = _once((job, one) for job in jobs for one in job.steps if one.when == "installed" and one.later is later)
        if later and rows:
            _command(logged(LOAD), rows[0][0], "installed", words, "Lays the hive of later users open")
        for job, one in rows:
            _command(logged(one.prompt), job, "installed", words)
        if later and rows:
            _command(logged(UNLOAD), rows[-1][0], "installed", words, "Closes the hive of later users")


def _once(rows: Iterable[tuple[Job, Step]]) -> list[tuple[Job, Step]]:
    """Without lines that another choice wants already."""
    seen: list[Text] = []
    return [row for row in rows if row[1].prompt not in seen and not seen.append(row[1].prompt)]  # type: ignore[func-returns-value]


def _put_script(jobs: list[Job], words: Words) -> None:
    if rows_of(jobs):
        words.out.companions.append(Companion(NAME, body(rows_of(jobs)), words.origin(*jobs[0].path)))
        _command(launcher(NAME, "call "), jobs[0], "installed", words, "Choices that are too long for a command")


def _command(line: Text, job: Job, when: str, words: Words, about: str = "") -> None:
    moment, origin = _AT[when], words.origin(*job.path)
    item = words.out.block(moment.pass_, moment.component, origin).add(moment.list_path, origin)
    item.put(moment.line, line, origin)
    item.put("Description", about or job.about, origin)
