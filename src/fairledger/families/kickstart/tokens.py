"""Splits lines into words as the installers do: quotes, backslashes, comments; with the place of each word."""

from __future__ import annotations

from msgspec import Struct

from fairledger.model.pattern import pattern

_PLAIN = pattern(r"""[^\s'"\\]+""")
_SAFE = pattern(r"[A-Za-z0-9@%_+=:,./^~$-]+")


class Token(Struct, frozen=True):
    """A word of a line."""

    text: str
    """Without quotes."""
    start: int
    """Offset in the line."""
    end: int


class QuoteError(ValueError):
    """A quote that is opened and not closed; ``at`` is its offset."""

    def __init__(self, at: int) -> None:
        super().__init__("a quote is opened and not closed")
        self.at = at


def split(line: str) -> list[Token]:
    """The words of a line up to a comment. Raises `QuoteError`."""
    tokens: list[Token] = []
    at, end = 0, len(line)
    while at < end:
        if line[at].isspace():
            at += 1
            continue
        if line[at] == "#":
            break
        start = at
        parts: list[str] = []
        while at < end and not line[at].isspace():
            at = _piece(line, at, parts)
        tokens.append(Token("".join(parts), start, at))
    return tokens


def _piece(line: str, at: int, parts: list[str]) -> int:
    """Reads one quoted or unquoted piece of a word; gives the offset behind it."""
    char = line[at]
    if char == "'":
        close = line.find("'", at + 1)
        if close == -1:
            raise QuoteError(at)
        parts.append(line[at + 1 : close])
        return close + 1
    if char == '"':
        here = at + 1
        while here < len(line) and line[here] != '"':
            if line[here] == "\\" and here + 1 < len(line) and line[here + 1] in '"\\':
                here += 1
            parts.append(line[here])
            here += 1
        if here >= len(line):
            raise QuoteError(at)
        return here + 1
    if char == "\\" and at + 1 < len(line):
        parts.append(line[at + 1])
        return at + 2
    plain = _PLAIN.match(line, at)
    parts.append(plain[0] if plain else char)
    return plain.end() if plain else at + 1


def quote(text: str) -> str:
    """The text as one word, whatever it holds (but line ends, which no word can hold)."""
    if _SAFE.fullmatch(text):
        return text
    return '"' + text.replace("\\", "\\\\").replace('"', '\\"') + '"'
