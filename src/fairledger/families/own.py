"""Choices of one's own, by the files beside the draft: what each comes to, and what is wrong with it."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from fairledger.catalog.tidy import Choice, Effect, possible
from fairledger.families.interface import Words
from fairledger.intent.intent import Intent
from fairledger.intent.own import Own
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target
from fairledger.model.values import Text


class Made(Struct, frozen=True):
    """A choice of one's own that a release heeds."""

    at: int
    """Its place in the section."""
    name: str
    choice: Choice
    value: Text | int
    effects: tuple[Effect, ...]


def made(intent: Intent, target: Target) -> Iterator[Made]:
    """Those that an intent makes."""
    rows: tuple[Own, ...] = intent.sections.get("own") or ()
    for at, one in enumerate(rows):
        choice = intent.own.get(one.choice)
        value = _value(one, choice) if choice is not None else None
        found = possible(choice, value, target) if choice is not None and value is not None else ()
        if choice is not None and value is not None and found:
            yield Made(at, one.choice, choice, value, found)


def _value(one: Own, choice: Choice) -> Text | int | None:
    """The value in its kind; None where it is none of the choice's."""
    if choice.kind == "number":
        said = one.value
        return int(said) if isinstance(said, str) and said.isascii() and said.isdecimal() and len(said) < 10 else None
    if choice.kind == "choice":
        return one.value if one.value in choice.values else None
    return one.value


def tell(value: tuple[Own, ...], words: Words) -> None:
    """Says which choices and values there are not, and which the release ignores."""
    own = words.intent.own
    for at, one in enumerate(value):
        path = ("own", at)
        words.told.append(path)
        choice = own.get(one.choice)
        if choice is None:
            hint = did_you_mean(one.choice, own) or "describe it in the folder tidy/ beside the draft"
            words.field_error((*path, "choice"), f"own: there is no choice {one.choice!r}", hint)
            continue
        said = _value(one, choice)
        if one.value is None:
            told = f"own.{one.choice} is not told its value"
            words.field_error((*path, "choice"), told, f"write value = one of {', '.join(choice.values) or 'yours'}")
        elif said is None:
            hint = (
                did_you_mean(str(one.value), choice.values) or f"its values are {', '.join(choice.values) or 'numbers'}"
            )
            words.field_error((*path, "value"), f"own.{one.choice} cannot be {str(one.value)!r}", hint)
        elif not possible(choice, said, words.target) and said != choice.usual:
            why = "this release does not heed it, or no line can carry it"
            words.cannot(path, f"own.{one.choice}", why, "leave it out for this target")
