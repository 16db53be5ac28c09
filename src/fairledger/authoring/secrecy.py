"""The secrets that stand in a draft or profile itself, in whatever form TOML has for a text."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import tomlkit
from tomlkit.exceptions import TOMLKitError

from fairledger.model.showing import discreet, looks_secret

_HIDDEN = "(hidden)"
_REFERENCES = ("env", "file", "command", "keyring", "form", "ask", "note")
"""What tells where a secret comes from; that may be shown."""


def without_secrets(text: str) -> str:
    """The text with everything hidden that stands where a secret belongs; all of it where the text is no TOML."""
    try:
        document = tomlkit.parse(text)
    except (TOMLKitError, ValueError, RecursionError):
        return "\n".join(_HIDDEN if looks_secret(line) else discreet(line) for line in text.splitlines())
    for holder, key, value in _texts(document, secret=False):
        holder[key] = value
    shown = (_comment(line) for line in tomlkit.dumps(document).splitlines())
    return "\n".join(shown)


def holds_secret(text: str) -> bool:
    """Whether a secret seems to stand in a draft or profile, so that the file is for its owner alone."""
    try:
        document = tomlkit.parse(text)
    except (TOMLKitError, ValueError, RecursionError):
        return True
    return next(_texts(document, secret=False), None) is not None


def _texts(holder: Any, *, secret: bool) -> Iterator[tuple[Any, Any, str]]:
    """Where a secret stands: what holds it, under which key, and what may be shown instead."""
    rows = list(holder.items()) if hasattr(holder, "items") else list(enumerate(holder))
    for key, value in rows:
        sounds = secret or (isinstance(key, str) and looks_secret(key))
        if isinstance(value, str):
            told = _HIDDEN if sounds and key not in _REFERENCES and value else discreet(value)
            if told != value:
                yield holder, key, told
        elif isinstance(value, dict | list):
            yield from _texts(value, secret=sounds)


def _comment(line: str) -> str:
    """A line without what a comment may tell."""
    code, sign, said = line.partition("#")
    return f"{code}# {_HIDDEN}" if sign and looks_secret(said) and not code.count('"') % 2 else line
