"""Finds settings by plain words: names in pieces, what they do, what people call it, and near misses of spelling."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from functools import cache
from math import log
from pathlib import Path
from typing import Any, Generic, TypeVar

from msgspec import Struct

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.packaged import lined, read_packaged
from fairledger.catalog.setting import Component, Setting

T = TypeVar("T")
DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "synonyms.json"

_NAME, _WORDS, _ABOUT, _ABOVE, _COMPONENT = 5.0, 3.6, 2.0, 1.6, 1.0
"""How much a word counts by where it stands."""
_ALIKE, _BEGINS, _NEAR = 0.65, 0.65, 0.55
"""How much a synonym, the beginning of a word, and a misspelling count of that."""
_DOING = 0.4
"""How much a word counts that says what is to happen."""
_PIECE = re.compile(r"[A-Z]+(?![a-z])|[A-Z]?[a-z]+|\d+")


class Found(Struct, frozen=True):
    """A setting that fits, the better the higher the score."""

    component: Component
    setting: Setting
    score: float


class Synonyms(Struct, frozen=True):
    """Words for each other, and words that say nothing."""

    meanings: tuple[tuple[str, ...], ...]
    doing: frozenset[str]
    """Words that say what is to happen, not to what."""
    idle: frozenset[str]


class Entry(Struct, Generic[T], frozen=True):
    """Something that can be found, with the weight of each word that tells of it."""

    item: T
    weights: dict[str, float]
    name: frozenset[str]
    whole: str
    standing: float = 1.0
    """What is seldom meant stands behind."""


class Ranked(Struct, Generic[T], frozen=True):
    """What fits, the better the higher the score."""

    item: T
    score: float
    hit: float
    """How much of what was asked it has, from 0 to 1."""


def build() -> bytes:
    """The packaged form of the authored table of synonyms."""
    import tomllib

    rows = tomllib.loads((DATA / "synonyms.toml").read_text(encoding="utf-8"))
    table = {
        "meanings": [sorted({root for word in row for root in roots_of(word)}) for row in rows["meanings"]],
        "doing": sorted({root for word in rows["doing"] for root in roots_of(word)}),
        "idle": sorted(rows["idle"]),
    }
    return lined(table, 2)


@cache
def _synonyms() -> Synonyms:
    found: Synonyms = read_packaged(INDEX, Synonyms, "the table of synonyms")
    return found


def find(
    question: str, catalog: Catalog, *, pass_: str = "", component: str = "", came_with: frozenset[str] = frozenset()
) -> tuple[Found, ...]:
    """Settings that fit a question, best first.

    ``pass_`` and ``component`` (any part of its name) narrow the search; ``came_with`` keeps only settings that came
    with one of these releases.
    """
    entries = [
        entry
        for entry in _entries(catalog, component.casefold())
        if (not pass_ or pass_ in entry.item[0].passes_of(entry.item[1]))
        and (not came_with or came_with & {*entry.item[1].since, *entry.item[0].since})
    ]
    entries.sort(key=lambda entry: (entry.item[0].name, entry.item[1].path))
    return tuple(Found(*one.item, one.score) for one in rank(question, entries))


def rank(question: str, entries: Sequence[Entry[T]]) -> list[Ranked[T]]:
    """The entries that fit a question, best first; those of one score in their order."""
    asked = _asked(question)
    if not entries or not asked:
        return []
    counts = Counter(word for entry in entries for word in entry.weights)
    ways = {word: _ways(word, counts) for word in asked}
    rarity = {word: log(1 + len(entries) / (1 + counts[word])) for word in counts}
    squeezed = "".join(re.findall(r"[a-z0-9]+", question.casefold()))
    out = []
    for entry in entries:
        score, hit = _score(entry, ways, rarity, squeezed)
        if score > 0:
            out.append(Ranked(entry.item, round(score, 3), hit))
    out.sort(key=lambda one: -one.score)
    best = out[0].score if out else 0.0
    return [one for one in out if one.score > best * 0.2]


def _entries(catalog: Catalog, named: str) -> Iterator[Entry[tuple[Component, Setting]]]:
    for component in catalog.components():
        name = component.name
        if named not in name.casefold():
            continue
        shared = dict.fromkeys(roots_of(f"{component.about} {component.words}"), _COMPONENT * 0.6)
        shared.update(dict.fromkeys(roots_of(name), _COMPONENT))
        closing = f" end of section {component.ends} close" if component.ends else ""
        own = Setting(path="", kind="group", about=component.about, words=component.words + closing)
        yield _entry(component, own, shared, roots_of(name))
        for setting in component.settings:
            yield _entry(component, setting, shared, roots_of(setting.name))


def _entry(
    component: Component, setting: Setting, shared: dict[str, float], name: tuple[str, ...]
) -> Entry[tuple[Component, Setting]]:
    meanings = " ".join(meaning for _, meaning in setting.choices)
    weights = weighed(meanings, setting.parent, setting.about, setting.words, shared, name)
    whole = (setting.name or component.name).casefold().replace("-", "")
    return Entry((component, setting), weights, frozenset(name), whole, _standing(component, setting))


def weighed(
    values: str, above: str, about: str, words: str, shared: Mapping[str, float], name: Sequence[str]
) -> dict[str, float]:
    """How much each word counts: of values, of what is above, of what it is about, of what people say, of the name."""
    weights = dict(shared)
    for text, weight in ((values, _COMPONENT), (above, _ABOVE), (about, _ABOUT), (words, _WORDS)):
        for word in roots_of(text):
            weights[word] = max(weight, weights.get(word, 0.0))
    for word in name:
        weights[word] = _NAME
    return weights


def _asked(question: str) -> tuple[str, ...]:
    """The words of a question that say something; all of them if none does."""
    idle = _synonyms().idle
    words = [word for word in re.findall(r"[A-Za-z0-9]+(?:[-'][A-Za-z]+)*", question) if word.casefold() not in idle]
    return tuple(dict.fromkeys(root for word in words for root in roots_of(word))) or roots_of(question)


def _ways(word: str, known: Iterable[str]) -> dict[str, float]:
    """The catalog's words that an asked word may mean, with how surely."""
    ways = {word: 1.0} if word in known else {}
    for meaning in _synonyms().meanings:
        if word in meaning:
            for other in meaning:
                ways[other] = max(_ALIKE, ways.get(other, 0.0))
    begins = [other for other in known if len(word) >= 3 and other.startswith(word)] if word not in ways else []
    for other in begins:
        ways.setdefault(other, _BEGINS)
    if not ways and len(word) >= 4:
        from difflib import get_close_matches

        for other in get_close_matches(word, list(known), n=3, cutoff=0.75):
            ways[other] = _NEAR
            for meaning in _synonyms().meanings:
                if other in meaning:
                    ways.update({one: _NEAR * _ALIKE for one in meaning if one not in ways})
    return ways


def _score(
    entry: Entry[Any], ways: dict[str, dict[str, float]], rarity: dict[str, float], squeezed: str
) -> tuple[float, float]:
    """How well an entry fits, and how much of what was asked it has."""
    score, hit, total = 0.0, 0.0, 0.0
    named: dict[str, float] = {}
    doing = _synonyms().doing
    for word, meant in ways.items():
        known = [other for other in meant if other in rarity]
        worth = max((rarity[other] for other in known), default=3.0) * (_DOING if word in doing else 1.0)
        total += worth
        best = max((entry.weights.get(other, 0.0) * surely for other, surely in meant.items()), default=0.0)
        if best:
            score += best * worth
            hit += worth
            for other, surely in {**meant, word: 1.0}.items():
                if other in entry.name:
                    named[other] = max(surely, named.get(other, 0.0))
    if squeezed and squeezed in entry.whole and len(squeezed) >= 4:
        score += 8.0 * len(squeezed) / len(entry.whole) * max(rarity.values(), default=1.0)
        hit = total
    if not score or not total:
        return 0.0, 0.0
    score *= float((hit / total) ** 1.5)
    score *= 1.0 + 0.5 * sum(named.values()) / max(len(entry.name), 1)
    return score * entry.standing, hit / total


def _standing(component: Component, setting: Setting) -> float:
    """What is seldom meant, out of date or only a frame stands behind."""
    standing = {"group": 0.55, "list": 0.75}.get(setting.kind, 1.0)
    if not setting.path:
        standing = 0.8 if component.alone or component.repeats else 0.5
    if setting.rare:
        standing *= 0.6
    if setting.deprecated or component.deprecated:
        standing *= 0.75
    if not (setting.sure and component.sure):
        standing *= 0.85
    if component.alias:
        standing *= 0.6
    return standing


def roots_of(text: str) -> tuple[str, ...]:
    """The words of a text or a name in pieces, without endings, each once.

    >>> roots_of("HideEULAPage hides pages")
    ('hide', 'eula', 'page')
    """
    return tuple(dict.fromkeys(_root(piece) for piece in _PIECE.findall(text)))


def _root(piece: str) -> str:
    word = piece.casefold()
    if word.endswith("ies") and len(word) >= 5:
        return word[:-3] + "y"
    if word.endswith("s") and not word.endswith("ss") and len(word) >= 4:
        word = word[:-1]
    if word.endswith("ing") and len(word) >= 7:
        word = word[:-3]
    elif word.endswith("ed") and len(word) >= 6:
        word = word[:-2]
    return word[:-1] if word.endswith("e") and len(word) >= 5 else word
