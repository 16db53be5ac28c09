"""Choices by plain words, and the lists of a release."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct

from fairledger.catalog.search import roots_of
from fairledger.catalog.tidy import TOPICS, App, Choice, Effect, all_choices, effects, known
from fairledger.model.errors import WrongUseError
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target

APPS = "apps.remove"
"""The field that takes apps away; its values are their names."""
_NAME, _WORDS, _ABOUT = 3.0, 2.0, 1.0


class Offered(Struct, frozen=True):
    """A choice that a release heeds."""

    name: str
    """As it is typed: ``section.choice``."""
    choice: Choice
    values: tuple[tuple[str | None, tuple[Effect, ...]], ...]
    """Its values with what each changes; None stands for one of a person's own."""


def offered(target: Target, own: Mapping[str, Choice] = {}) -> list[Offered]:
    """What a release offers, by topic and then as the catalog has it; choices of one's own with them."""
    out = []
    for section, name, choice in (*all_choices(), *(("own", name, one) for name, one in own.items())):
        values: list[tuple[str | None, tuple[Effect, ...]]] = []
        for word in choice.values or ("$",):
            found = effects(choice, word, target)
            if found or (choice.changes(target) and word == choice.usual):
                values.append((word if choice.values else None, found))
        if any(found for _, found in values):
            out.append(Offered(f"{section}.{name}", choice, tuple(values)))
    order = list(TOPICS)
    return sorted(out, key=lambda one: order.index(one.choice.topic))


def named(name: str, target: Target, own: Mapping[str, Choice] = {}) -> Offered:
    """The choice of that name. Raises `WrongUseError` with the nearest ones."""
    there = {one.name: one for one in offered(target, own)}
    if name in there:
        return there[name]
    everywhere = {f"{section}.{field}" for section, field, _ in all_choices()}
    if name in everywhere:
        remedy = f"fairledger tidy list {target.id} shows what it has"
        raise WrongUseError(f"{target.name} has no use for the choice {name}", remedy=remedy)
    remedy = did_you_mean(name, there) or f"fairledger tidy list {target.id}"
    raise WrongUseError(f"there is no choice {name!r}", remedy=remedy)


def fitting(words: str, rows: list[Offered]) -> list[Offered]:
    """Those that fit plain words, best first; a topic's name stands for all of it."""
    if words in TOPICS:
        return [one for one in rows if one.choice.topic == words]
    asked = roots_of(words)
    scored = [(_score(asked, one), one) for one in rows]
    best = max((score for score, _ in scored), default=0.0)
    found = [(score, one) for score, one in scored if score and score >= best / 2]
    return [one for _, one in sorted(found, key=lambda row: -row[0])]


def _score(asked: tuple[str, ...], one: Offered) -> float:
    places = ((_NAME, one.name.replace("_", " ")), (_WORDS, one.choice.words), (_ABOUT, one.choice.about))
    rows = [(worth, set(roots_of(text))) for worth, text in places]
    return sum(max((worth for worth, there in rows if word in there), default=0.0) for word in asked)


def fitting_apps(words: str, target: Target) -> dict[str, App]:
    """The apps of a release that fit plain words; all of them for none, and for their topic."""
    there = known(target)
    if words in ("", "lean", "apps"):
        return there
    asked = set(roots_of(words))
    return {
        name: one for name, one in there.items() if asked & {*roots_of(name.replace("-", " ")), *roots_of(one.words)}
    }
