"""Checks drafts and answer files alike: each is a subject, and one set of rules runs."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from msgspec import Struct
from msgspec.structs import replace

from fairledger.checks.rule import run
from fairledger.checks.silence import heard
from fairledger.checks.view import View
from fairledger.events.questions import questions
from fairledger.model.finding import Finding, Severity
from fairledger.model.target import Target
from fairledger.subject.subject import FileKind, Opened, Subject


class Seen(Struct, frozen=True):
    """What is told of a file at the end, where many are checked: without all that was read."""

    file: str
    kind: FileKind
    family: str | None
    target: Target | None
    basis: str


class Report(Struct, frozen=True):
    """What was found in one file."""

    of: Opened | Seen
    findings: tuple[Finding, ...]
    """Worst first."""
    unknown: int = 0
    """Of how many questions nobody knows whether they are asked."""
    silenced: tuple[Finding, ...] = ()
    """What the draft silences."""
    left_out: int = 0
    """How many findings nobody wanted to hear this time."""

    @property
    def file(self) -> str:
        """Its name."""
        return self.of.file

    @property
    def family(self) -> str | None:
        """The family's word, if it is known."""
        return self.of.family.name if isinstance(self.of, Subject) else getattr(self.of, "family", None)

    @property
    def target(self) -> Target | None:
        """The target, if it is known."""
        return self.of.target if isinstance(self.of, Subject | Seen) else None

    @property
    def basis(self) -> str:
        """How the target is known: stated, or guessed from what; empty if it is not."""
        return self.of.basis if isinstance(self.of, Subject | Seen) else ""

    def slim(self, *, let_go: bool = True) -> Report:
        """What is told of it at the end, where many files are checked: without all that was read.

        With ``let_go`` nobody looks at the subject any more.
        """
        if let_go and isinstance(self.of, Subject):
            self.of.let_go()
        return replace(self, of=Seen(self.file, self.of.kind, self.family, self.target, self.basis))


def check(one: Opened) -> Report:
    """Checks what was opened: all that was found on the way, and what the rules find."""
    if not isinstance(one, Subject) or not one.whole:
        return Report(one, in_order(one.findings))
    findings: Sequence[Finding] = (*one.findings, *findings_of(one))
    silences = one.draft.silences if one.draft is not None else ()
    findings, silenced = heard(findings, silences) if silences else (findings, ())
    if one.kind is FileKind.ANSWERS:
        findings = [replace(each, file=one.file) if each.line and not each.file else each for each in findings]
    return Report(one, in_order(findings), unknown_in(one), in_order(silenced))


def told_once(findings: Sequence[Finding]) -> tuple[Finding, ...]:
    """Each mistake once, worst first, though a field brings it to several seats, or two rules see it in a value."""
    # only an error speaks for another one: a milder word must not take it away
    errors = (one for one in findings if one.line and one.rule in _OF_VALUES and one.severity == Severity.ERROR)
    spoken = {(one.file, one.line, one.column) for one in errors}
    out: dict[tuple[object, ...], Finding] = {}
    for one in sorted(findings, key=lambda finding: finding.sort_key):
        place = (one.file, one.line, one.column)
        if one.rule == _WRONG and place in spoken:
            continue
        key = (one.rule, *place, one.message) if one.line and one.column else (one.rule, *place, one.message, one.where)
        out.setdefault(key, one)
    return tuple(out.values())


_WRONG = "value-wrong"
_OF_VALUES = ("keyboard-unknown", "language-unknown", "time-zone-unknown", "machine-name", "domain-name")
"""Rules that say of a value what is wrong with it, in better words than its setting's form."""


def unknown_in(subject: Subject) -> int:
    """Of how many questions nobody knows whether they are asked."""
    return sum(asked.answered is None for asked in questions(subject))


def findings_of(subject: Subject) -> Sequence[Finding]:
    """What the rules find in a sheet; nothing in an answer file of which nothing could be read."""
    unread = any(one.severity == Severity.ERROR for one in subject.findings)
    if subject.kind is FileKind.ANSWERS and not subject.sheet.blocks and unread:
        return ()
    return run(View(subject))


def in_order(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Findings worst first, each once."""
    return told_once(tuple(dict.fromkeys(findings)))
