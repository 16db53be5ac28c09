"""A file held against the medium that it is for: the rules that speak of media, by themselves."""

from __future__ import annotations

from msgspec import Struct

from fairledger.checks.medium import image_of, medium_of
from fairledger.checks.rule import rules_for, run
from fairledger.checks.view import View
from fairledger.model.finding import Finding
from fairledger.model.holdings import ImageFacts, MediumFacts
from fairledger.subject.subject import Subject

_TOPICS = ("media", "held")


class Against(Struct, frozen=True, kw_only=True):
    """How a file stands to its medium."""

    path: str
    facts: MediumFacts | None
    """None where nobody knows any."""
    image: ImageFacts | None
    """The image that is installed, if that is known."""
    looked_into: bool
    """Whether it is known what that image holds, or what a tree of packages offers."""
    findings: tuple[Finding, ...]


def against_medium(subject: Subject) -> Against | None:
    """How a file stands to its medium; None where none is named."""
    if subject.facts.medium is None:
        return None
    view = View(subject)
    facts = medium_of(view)
    image = image_of(view, facts) if facts is not None else None
    held = facts is not None and (facts.held_by(image) is not None or facts.tree.repositories is not None)
    rules = [one for one in rules_for(view.family.name) if one.topic in _TOPICS]
    found = tuple(sorted(run(view, rules), key=lambda one: one.sort_key))
    return Against(path=subject.facts.medium, facts=facts, image=image, looked_into=held, findings=found)
