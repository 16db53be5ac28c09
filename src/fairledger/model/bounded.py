"""Whether a regular expression stays quick whatever text it meets; judged by its parse tree, not by trying."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from re import _constants as sre  # type: ignore[attr-defined]
from re import _parser  # type: ignore[attr-defined]
from typing import Any

_MOST = 1_000
"""A repeat that may go on longer counts as one without an end."""
_KNOWN = [*map(chr, range(0x180)), "\u2028", "\u4e00", "\U0001f600"]
"""Characters by which sets are compared."""
_WORTH = {
    sre.CATEGORY_DIGIT: str.isdecimal,
    sre.CATEGORY_SPACE: str.isspace,
    sre.CATEGORY_WORD: lambda char: char.isalnum() or char == "_",
}
_NOT = {
    sre.CATEGORY_NOT_DIGIT: sre.CATEGORY_DIGIT,
    sre.CATEGORY_NOT_SPACE: sre.CATEGORY_SPACE,
    sre.CATEGORY_NOT_WORD: sre.CATEGORY_WORD,
}
_REPEATS = (sre.MAX_REPEAT, sre.MIN_REPEAT)
Node = tuple[Any, Any]
_ALL = frozenset(range(len(_KNOWN)))


def trouble(source: str, flags: int = 0, *, searched: bool = False) -> str:
    """What can make a pattern slow, or what else is wrong with it; empty if nothing can.

    ``searched``: it is looked for anywhere in a text, so that it is tried at every place. What a pattern looks back at
    is not judged.

    >>> trouble("(a+)+"), trouble("[a-z]+-[a-z]+"), trouble("a+a+b")
    ('a repeat without an end in another one', '', 'two neighbours without an end that take the same characters')
    """
    try:
        tree = list(_parser.parse(source, flags))
    except (re.error, OverflowError, RecursionError) as error:
        return f"it is no regular expression ({error})"
    told = next(_nested(tree, inside=False), "") or next(_neighbours(tree), "")
    first = tree[0] if tree else None
    if not told and searched and first is not None and _endless(first) and not _is_line(first):
        return "it begins with a repeat without an end, at every place anew"
    return told


def _endless(node: Node) -> bool:
    return node[0] in _REPEATS and node[1][1] > _MOST


def _is_line(node: Node) -> bool:
    """Whether a repeat ends with its line."""
    return ord("\n") not in _first([node])[0]


def _bodies(node: Node) -> list[Sequence[Node]]:
    """The parts that a node holds."""
    kind, value = node
    if kind in _REPEATS or kind == sre.POSSESSIVE_REPEAT:
        return [value[2]]
    if kind == sre.SUBPATTERN:
        return [value[3]]
    if kind == sre.BRANCH:
        return list(value[1])
    if kind in (sre.ASSERT, sre.ASSERT_NOT):
        return [value[1]]
    if kind == sre.GROUPREF_EXISTS:
        return [part for part in value[1:] if part]
    return [value] if kind == sre.ATOMIC_GROUP else []


def _nested(tree: Sequence[Node], *, inside: bool, parted: bool = False) -> Iterator[str]:
    for node in tree:
        if _endless(node) and any(_endless(one) for one in _within(node[1][2])) and not _parted(node[1][2]):
            yield "a repeat without an end in another one"
        if inside and node[0] == sre.BRANCH and _alike(node[1][1], parted=parted):
            yield "choices that begin alike in a repeat without an end"
        for body in _bodies(node):
            turns = _parted(body) if _endless(node) else parted
            yield from _nested(body, inside=inside or _endless(node), parted=turns)


def _within(tree: Sequence[Node]) -> Iterator[Node]:
    for node in tree:
        yield node
        for body in _bodies(node):
            yield from _within(body)


def _parted(body: Sequence[Node]) -> bool:
    """Whether each turn of a repeat holds a character that must be there, and that no repeat within it takes.

    Then a text can be parted into turns in one way only.
    """
    if len(body) == 1 and body[0][0] == sre.SUBPATTERN:
        return _parted(body[0][1][3])
    if len(body) == 1 and body[0][0] == sre.BRANCH:
        parts = body[0][1][1]
        endless = [part for part in parts if any(_endless(one) for one in _within(part))]
        return not _overlap([_first(part)[0] for part in parts]) and all(_parted(part) for part in endless)
    taken = frozenset().union(*(_first(one[1][2])[0] for one in _within(body) if _endless(one)))
    marks = [_first([node])[0] for node in _flat(body) if not _first([node])[1] and not _endless(node)]
    return any(mark and not mark & taken for mark in marks)


def _alike(choices: list[Sequence[Node]], *, parted: bool) -> bool:
    """Whether two choices may take the same text; where turns are parted, only those that go on without an end."""
    open_ = [one for one in choices if not parted or any(_endless(node) for node in _within(one))]
    return _overlap([_first(one)[0] for one in open_])


def _overlap(sets: list[frozenset[int]]) -> bool:
    seen: set[int] = set()
    for one in sets:
        if seen & one:
            return True
        seen |= one
    return False


def _neighbours(tree: Sequence[Node]) -> Iterator[str]:
    """Repeats without an end with nothing between them that must be there and that neither takes."""
    open_: frozenset[int] = frozenset()
    for node in _flat(tree):
        takes, may_be_empty = _first([node])
        if _endless(node):
            if open_ & takes:
                yield "two neighbours without an end that take the same characters"
            open_ = open_ | takes if may_be_empty else takes
        elif not may_be_empty:
            open_ = open_ & takes if node[0] in _REPEATS else frozenset()
        for body in _bodies(node):
            yield from _neighbours(body)


def _flat(tree: Sequence[Node]) -> Iterator[Node]:
    """The nodes of a sequence; a group that is taken once is part of it."""
    for node in tree:
        if node[0] == sre.SUBPATTERN:
            yield from _flat(node[1][3])
        else:
            yield node


def _first(tree: Sequence[Node]) -> tuple[frozenset[int], bool]:
    """The characters with which a sequence may begin, and whether it may be empty."""
    found: frozenset[int] = frozenset()
    for node in tree:
        takes, empty = _begins(node)
        found |= takes
        if not empty:
            return found, False
    return found, True


def _begins(node: Node) -> tuple[frozenset[int], bool]:
    kind, value = node
    if kind == sre.AT or kind in (sre.ASSERT, sre.ASSERT_NOT):
        return frozenset(), True
    if kind in (*_REPEATS, sre.POSSESSIVE_REPEAT):
        takes, empty = _first(value[2])
        return takes, empty or value[0] == 0
    if kind == sre.BRANCH:
        parts = [_first(part) for part in value[1]]
        return frozenset().union(*(takes for takes, _ in parts)), any(empty for _, empty in parts)
    if kind in (sre.SUBPATTERN, sre.ATOMIC_GROUP):
        return _first(value[3] if kind == sre.SUBPATTERN else value)
    return _chars(kind, value), False


def _chars(kind: Any, value: Any) -> frozenset[int]:
    """The characters that one place takes."""
    if kind == sre.ANY:
        return _ALL - {ord("\n")}
    if kind == sre.LITERAL:
        return frozenset(at for at, char in enumerate(_KNOWN) if ord(char) == value) or frozenset({len(_KNOWN)})
    if kind == sre.NOT_LITERAL:
        return frozenset(at for at, char in enumerate(_KNOWN) if ord(char) != value)
    if kind == sre.RANGE:
        return frozenset(at for at, char in enumerate(_KNOWN) if value[0] <= ord(char) <= value[1])
    if kind == sre.CATEGORY:
        worth: Callable[[str], bool] = _WORTH[_NOT.get(value, value)]
        return frozenset(at for at, char in enumerate(_KNOWN) if worth(char) != (value in _NOT))
    if kind == sre.IN:
        inner = [one for one in value if one[0] != sre.NEGATE]
        takes = frozenset().union(*(_chars(*one) for one in inner))
        return _ALL - takes if len(inner) != len(value) else takes
    return _ALL
