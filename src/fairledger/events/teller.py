"""Gathers events, and keeps count of what has been told: whatever no sentence speaks of is told plainly at the end."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from fairledger.catalog.passes import passes_of
from fairledger.catalog.seats import Seat
from fairledger.events.event import Event, Weight
from fairledger.events.words import named, word
from fairledger.intent.intent import Intent
from fairledger.intent.part import Part
from fairledger.intent.walk import FieldPath, said
from fairledger.model.target import Limits, SetupPass
from fairledger.subject.subject import Subject


class Fields:
    """A table of a section whose fields count as told once they are read: a sentence speaks of what it reads.

    A field that only decides how something is said must not be read off this.
    """

    def __init__(self, value: Part, path: FieldPath, told: set[FieldPath]) -> None:
        self._value = value
        self._path = path
        self._told = told

    def __getattr__(self, name: str) -> Any:
        # reading is telling: a sentence cannot forget to say what it speaks of
        value = getattr(self._value, name)
        self._told.add((*self._path, name))
        if isinstance(value, Part):
            return Fields(value, (*self._path, name), self._told)
        return value

    @property
    def bare(self) -> Any:
        """The table itself, for what decides and is not told."""
        return self._value


class Teller:
    """What the sentences of all sections are told with."""

    def __init__(self, subject: Subject) -> None:
        self.subject = subject
        self.intent: Intent = subject.intent
        self.limits: Limits = subject.limits
        self.passes: dict[str, SetupPass] = {one.name: one for one in passes_of(subject.family.name)}
        self.told: set[FieldPath] = set()
        """The fields that some sentence speaks of."""

    def fields(self, *path: str | int) -> Fields | None:
        """A table of a section; None where there is none."""
        value = self.intent.sections.get(str(path[0]))
        value = self.intent.at(path) if value is not None else None
        return Fields(value, path, self.told) if value is not None else None

    def said(self, section: str) -> list[tuple[str, Any]]:
        """The fields of a section that say something, of one whose fields are all alike."""
        value = self.intent.sections.get(section)
        names = value.__struct_fields__ if value is not None else ()
        return [(name, found) for name in names if (found := getattr(value, name)) is not None]

    def items(self, *path: str | int) -> list[tuple[FieldPath, Fields]]:
        """The tables of a list of them, with their paths."""
        listed = self.intent.at(path) if str(path[0]) in self.intent.sections else ()
        return [((*path, at), Fields(one, (*path, at), self.told)) for at, one in enumerate(listed or ())]

    def event(self, chapter: str, what: str, *path: str | int, weight: Weight = Weight.NOTE, **more: Any) -> Event:
        """An event that comes from a field, which it speaks of."""
        self.told.add(path)
        placed = self.intent.placed(*path) if path else None
        place = placed.place if placed is not None else None
        phase = place.pass_ if place is not None else None
        when = self.passes[phase].when if phase in self.passes else None
        file = place.origin.file or self.subject.file if place is not None and place.origin.line else None
        line = place.origin.line if place is not None else None
        sure = not (isinstance(placed, Seat) and placed.setting is not None and not placed.setting.sure)
        return Event(
            chapter=chapter,
            what=what,
            severity=weight,
            phase=phase,
            moment=when,
            sure=sure,
            file=file,
            line=line,
            **more,
        )

    def plainly(self, chapter: str, section: str) -> Iterator[Event]:
        """Every field of a section that no sentence speaks of."""
        value = self.intent.sections.get(section)
        for path in said(value, (section,)) if value is not None else ():
            if path not in self.told:
                self.told.add(path)
                yield self.event(chapter, f"{named(self.intent, path)}: {word(self.intent.at(path)) or 'yes'}", *path)
