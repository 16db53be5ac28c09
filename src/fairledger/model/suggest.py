"""Nearest names, for "did you mean"."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache


def nearest(word: str, names: Iterable[str], most: int = 3, alike: float = 0.6) -> tuple[str, ...]:
    """The names that a mistyped ``word`` probably meant, best first; case is ignored.

    ``alike`` says how much of them must agree, from 0 to 1: more for names that all begin in the same way.
    """
    return _nearest(word.casefold()[:200], tuple(names), most, alike)


@lru_cache(maxsize=5_000)
def _nearest(word: str, names: tuple[str, ...], most: int, alike: float) -> tuple[str, ...]:
    from difflib import get_close_matches

    by_fold: dict[str, str] = {}
    for name in names:
        by_fold.setdefault(name.casefold(), name)
    return tuple(by_fold[fold] for fold in get_close_matches(word, by_fold, n=most, cutoff=alike))


def slipped(word: str, names: Iterable[str]) -> str:
    """The name from which a word differs by one letter left out, added, changed or swapped; empty if it is a name."""
    known = tuple(names)
    return "" if word in known else next((name for name in known if _one_slip(word, name)), "")


def _one_slip(one: str, other: str) -> bool:
    if abs(len(one) - len(other)) > 1 or min(len(one), len(other)) < 3:
        return False
    start = 0
    while start < min(len(one), len(other)) and one[start] == other[start]:
        start += 1
    left, right = one[start:], other[start:]
    return (
        left[1:] == right
        or left == right[1:]
        or left[1:] == right[1:]
        or (left[2:] == right[2:] and left[:2] == right[1::-1])
    )


def did_you_mean(word: str, names: Iterable[str], alike: float = 0.6) -> str:
    """A remedy sentence: the nearest names, or all of them when they are few."""
    listed = tuple(names)
    close = nearest(word, listed, alike=alike)
    if close:
        return "did you mean " + " or ".join(close) + "?"
    if 0 < len(listed) <= 14:
        return "known are " + ", ".join(listed)
    return ""
