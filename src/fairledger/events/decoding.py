"""What stands in commands in another form: text that was encoded so that nobody can read it, and accounts they make."""

from __future__ import annotations

import base64
import binascii
import shlex
from collections.abc import Iterator

from fairledger.model.pattern import pattern

_SIGN = pattern(r"base64|-e(?:nc|c|ncodedcommand)?\s", 2)
_CODE = pattern(r"(?<![A-Za-z0-9+/])[A-Za-z0-9+/]{12,}={0,2}(?![A-Za-z0-9+/=])")
_MOST = 20
_DEEPEST = 3
_MADE = (
    pattern(r"""\bnet1?(?:\.exe)?\s+user\s+("[^"\n]+"|\S+)[^\n]*/add\b""", 2),
    pattern(r"""\bNew-LocalUser\s+(?:-Name\s+)?("[^"\n]+"|'[^'\n]+'|[^\s;|"'-][^\s;|"']*)""", 2),
)
_UNIX = pattern(r"(?:^|[;&|]\s*|\bsudo\s+)(?:\S*/)?(useradd|adduser)\s+([^\s;&|][^\n;&|]*)", 8)


def decoded(command: str) -> tuple[str, ...]:
    """The texts that stand encoded in a command, and those that stand encoded in them, each once."""
    found: dict[str, None] = {}
    waiting = [(command, 0)]
    while waiting and len(found) < _MOST:
        text, depth = waiting.pop(0)
        if depth >= _DEEPEST or not _SIGN.search(text[:100_000]):
            continue
        for match in _CODE.finditer(text[:100_000]):
            plain = _plain(match[0])
            if plain and plain not in found:
                found[plain] = None
                waiting.append((plain, depth + 1))
    return tuple(found)


def _plain(code: str) -> str:
    """The text that was encoded; empty where there is none that a person could read."""
    try:
        data = base64.b64decode(code + "=" * (-len(code) % 4), validate=True)
    except (binascii.Error, ValueError):
        return ""
    wide = len(data) > 3 and not any(data[1::2]) and len(data) % 2 == 0
    try:
        text = data.decode("utf-16-le" if wide else "utf-8")
    except UnicodeDecodeError:
        return ""
    return text if text.strip() and all(char.isprintable() or char in "\r\n\t" for char in text) else ""


def accounts_made(command: str) -> tuple[str, ...]:
    """The accounts that a command makes, as far as they are called by their names in it."""
    return tuple(dict.fromkeys(one for one in _made(command[:100_000]) if one))


def _made(command: str) -> Iterator[str]:
    for form in _MADE:
        yield from (match[1].strip("\"'") for match in form.finditer(command))
    for match in _UNIX.finditer(command):
        try:
            words = shlex.split(match[2])
        except ValueError:
            words = match[2].split()
        # the name is the last word, whatever options and their values stand before it
        if words and not words[-1].startswith("-"):
            yield words[-1]
