"""What the parser of XML says of malformed text, in words for a technician."""

from __future__ import annotations

import re

from fairledger.model.pattern import pattern
from fairledger.model.showing import visible

_MISMATCH = pattern(r"Opening and ending tag mismatch: (\S+) line (\d+) and (\S+?),")


def explained(said: str, text: str) -> tuple[str, str]:
    """The parser's message in plain words, with the likely cause."""
    mismatch = _MISMATCH.search(said)
    if mismatch:
        opened, line, closed = mismatch.groups()
        return (
            f"not well-formed: <{visible(opened)}> was opened in line {line}, but </{visible(closed)}> closes it",
            f"close <{visible(opened)}> first, or take the stray tag out",
        )
    unclosed = re.search(r"Premature end of data in tag (\S+) line (\d+)", said)
    if unclosed:
        name, line = unclosed.groups()
        told = f"not well-formed: <{visible(name)}> was opened in line {line} and is never closed"
        return told, f"close it with </{visible(name)}>, or look for a tag that is cut off"
    if "EntityRef" in said or "xmlParseEntityRef" in said or "Entity '" in said:
        return f"not well-formed: {_short(said)}", "write & as &amp; and < as &lt; in values"
    if "Premature end" in said or "Extra content" in said:
        return f"not well-formed: {_short(said)}", "a closing tag is missing or one stands too many"
    if "invalid xmlChar" in said or "Invalid Char" in said or "PCDATA invalid" in said:
        return f"not well-formed: {_short(said)}", "take the control character out"
    if not text.lstrip("\ufeff \t\r\n").startswith("<"):
        return "not well-formed: this is not XML", "is it an answer file?"
    return (
        f"not well-formed: {_short(said)}",
        "look for a stray bracket or quote in this line or the one before",
    )


def _short(said: str) -> str:
    return visible(re.sub(r", line \d+, column \d.*", "", said).strip())
