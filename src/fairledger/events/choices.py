"""What comes after the bare system: each choice in a sentence, with what is lost by it."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.events.event import Event, Weight
from fairledger.events.teller import Teller

CHAPTER = "What comes after the bare system"


def tell(teller: Teller) -> Iterator[Event]:
    """Every choice that the target heeds, in the order of its section."""
    subject = teller.subject
    target = subject.target
    if target is None:
        return
    for one in subject.family.chosen(teller.intent, target, subject.facts):
        lost = f"; what is lost: {one.lost}" if one.lost else ""
        about = one.about.rstrip(".")
        told = f"{one.name} = {one.value} ({about[:1].lower()}{about[1:]}){lost}"
        weight = Weight.CARE if one.lost else Weight.NOTE
        yield teller.event(CHAPTER, told, *one.place, weight=weight)
