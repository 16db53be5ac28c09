"""All that an answer file does to a machine, in the order in which it happens."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.tidy import tidy
from fairledger.events import choices, commands, copies, disks, leftovers, machine, questions, scripted, setup
from fairledger.events.event import Event, Weight
from fairledger.events.teller import Teller
from fairledger.intent.sections import SECTION_NAMES
from fairledger.subject.settling import with_companions
from fairledger.subject.subject import Subject

CHAPTERS: dict[str, tuple[Callable[[Teller], Iterator[Event]] | None, tuple[str, ...]]] = {
    setup.BEGINS: (setup.begin, ("installer", "source", "licence", "drivers", "bypass")),
    disks.CHAPTER: (disks.tell, ("disk", "volume")),
    setup.INSTALLED: (setup.installed, ("image", "file", "packages", "features", "subscription")),
    machine.MACHINE: (
        machine.machine,
        ("boot", "identity", "locale", "network", "join", "access", "firewall", "addition", "branding"),
    ),
    machine.PEOPLE: (machine.people, ("account",)),
    choices.CHAPTER: (choices.tell, ("services", "apps", *tidy().groups)),
    machine.START: (machine.start, ("start", "finish")),
    copies.CHAPTER: (copies.tell, ()),
    "Also": (None, ()),
    questions.CHAPTER: (questions.tell, ()),
}
"""Heads in their order: the sentences, and the sections whose other fields are told plainly under that head.

A section that stands nowhere here is told plainly under "Also". The commands are told as what they are, not by section.
"""
_INCLUDED = ("file-included", "include-broken")


class Story(Struct, frozen=True):
    """What is told of one file."""

    file: str
    target: str | None
    """The target's id; None if nobody knows it."""
    target_name: str
    basis: str
    gist: tuple[Event, ...]
    """What one must know before anything else."""
    events: tuple[Event, ...]
    profiles: Mapping[str, str] = {}
    """The names of a draft's profiles by their files."""


def story_of(subject: Subject) -> Story:
    """What a file does to a machine, with the scripts that lie beside it."""
    told = events(subject)
    target = subject.target
    return Story(
        subject.file,
        target.id if target is not None else None,
        target.name if target is not None else "a release that the file does not name",
        subject.basis,
        tuple(_gist(subject, told)),
        told,
        {file: name for name, file in subject.draft.profiles} if subject.draft is not None else {},
    )


def events(subject: Subject) -> tuple[Event, ...]:
    """Every event, in order; whatever was understood and has no sentence of its own is told plainly."""
    teller = Teller(with_companions(subject))
    known = {name for _, names in CHAPTERS.values() for name in names}
    chapters: dict[str, list[Event]] = {}
    for title, (tell, names) in CHAPTERS.items():
        chapters[title] = [*tell(teller)] if tell is not None else []
        chapters[title] += scripted.tell(teller) if title == disks.CHAPTER else ()
        rest = [name for name in SECTION_NAMES if name not in known] if title == "Also" else names
        for name in rest:
            if name != "command":  # commands are told with their text
                chapters[title] += teller.plainly(title, name)
            chapters[title] += leftovers.along(teller, name, title)
    chapters[machine.PEOPLE] += [replace(one, chapter=machine.PEOPLE) for one in commands.accounts(teller)]
    out = [event for title in CHAPTERS for event in chapters[title]]
    return (*out, *commands.tell(teller), *leftovers.tell(teller))


def _gist(subject: Subject, told: tuple[Event, ...]) -> Iterator[Event]:
    """The dangerous sentences, a count of the commands with their warnings, and what nobody can tell."""
    yield from (one for one in told if one.severity is Weight.DANGER)
    run = [one for one in told if one.chapter.startswith("Commands ")]
    unknown = [one for one in told if not one.sure and one.chapter == leftovers.CHAPTER]
    included = any(one.rule in _INCLUDED for one in subject.findings)
    written = any(not one.whole for one in subject.scripted)
    if run:
        alone = len(run) == 1
        count = "one command runs; it is" if alone else f"{len(run)} commands run; all are"
        yield Event(chapter="", what=f"{count} quoted below")
        warned: dict[str, int] = {}
        for one in run:
            for word in one.warnings:
                warned[word] = warned.get(word, 0) + 1
        for word, times in warned.items():
            lead = f"it {word}" if alone else f"{'one' if times == 1 else times} of them: {word}"
            yield Event(chapter="", what=lead, severity=Weight.CARE)
    elif not included and not unknown and not written:
        yield Event(chapter="", what="no command and no script runs")
    if included:
        told_of = "another file is taken in while the installer reads; what stands there is not told here"
        yield Event(chapter="", what=told_of, severity=Weight.CARE, sure=False)
    if written:
        told_of = "a script writes commands that the installer takes in; only what can be read of them is told here"
        yield Event(chapter="", what=told_of, severity=Weight.CARE, sure=False)
    if unknown:
        several = "one thing is" if len(unknown) == 1 else f"{len(unknown)} things are"
        told_of = f"{several} not understood; look below"
        yield Event(chapter="", what=told_of, severity=Weight.CARE, sure=False)
