"""Values that are filled into commands: quoted for the place at which they stand, or refused.

What stands before a placeholder is read as far as needed to know whether it is in quotes, and in which. Where that is
not clear, only values that mean themselves anywhere are let in.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from fairledger.families.casting import UNREADABLE
from fairledger.model.pattern import pattern
from fairledger.model.values import Blank, Formed, Template, form

SH, POWERSHELL, CMD, LINE, OTHER = "sh", "powershell", "cmd", "line", "other"
"""What reads a command; a line without a shell is split into words by the system."""
PLAIN, SINGLE, DOUBLE, TEXT, LITERAL, COMMENT, UNCLEAR = (
    *("plain", "single", "double", "text", "literal", "comment", "unclear"),
)
"""Where a placeholder stands: in no quotes, in single or double ones, in a text of several lines that the shell works
out or does not, in a comment, or where nobody can tell."""
_SAFE = pattern(r"[A-Za-z0-9_./:@+,=-]*")
_INSIDE_SAFE = pattern(r"[^\"%!\r\n\x00]*")
_SINGLE_MARKS = "'\u2018\u2019\u201a\u201b"
_DOUBLE_MARKS = '"\u201c\u201d\u201e'


def quoted_for(body: Template, shell: str) -> Template:
    """A command whose placeholders are quoted for their places once they are filled.

    One that is nothing but a placeholder is a command of whoever fills it in, and is taken as it is.
    """
    if len(body.parts) == 1:
        return body
    parts: list[str | Blank | Formed] = []
    before = ""
    for at, piece in enumerate(body.parts):
        if isinstance(piece, str):
            before += piece
            parts.append(piece)
            continue
        after = body.parts[at + 1] if at + 1 < len(body.parts) else ""
        alone = _alone(before, after if isinstance(after, str) else "x")
        where = _WHERE[shell](before)
        parts.append(Formed((piece,), (f"{_FORM} {shell} {where}{' alone' if alone else ''}",)))
        before += "x"
    return Template(tuple(parts))


def _alone(before: str, after: str) -> bool:
    """Whether a placeholder is a word by itself."""
    return (not before or before[-1] in " \t\n=(,;") and (not after or after[0] in " \t\n),;")


_FORM = "in-command"


@form(_FORM)
def _put(value: str, told: str) -> str:
    """A value at its place. Raises `ValueError` where the place cannot carry it."""
    shell, where, *alone = told.split()
    if _SAFE.fullmatch(value) and not value.startswith("-"):
        return value
    if UNREADABLE.search(value):
        raise ValueError("it holds a character that no file can hold")
    if "\r" in value or ("\n" in value and where in (COMMENT, LITERAL, TEXT)):
        raise ValueError("it holds a control character, which the command cannot carry there")
    if where == COMMENT:
        return value
    made = _CARRIED[shell](value, where, bool(alone))
    if made is None:
        shown = "in quotes" if where in (SINGLE, DOUBLE) else "there"
        raise ValueError(f"the command cannot carry it {shown}, since it holds signs of the shell")
    return made


def _in_sh(value: str, where: str, alone: bool) -> str | None:  # noqa: FBT001, ARG001
    if where == PLAIN:
        return "'" + value.replace("'", "'\\''") + "'"
    if where == SINGLE:
        return value.replace("'", "'\\''")
    if where == DOUBLE:
        return re.sub(r'([\\"$`])', r"\\\1", value)
    if where == TEXT:
        return re.sub(r"([\\$`])", r"\\\1", value)
    return value if where == LITERAL else None


def _in_powershell(value: str, where: str, alone: bool) -> str | None:  # noqa: FBT001
    single = re.sub(f"([{_SINGLE_MARKS}])", r"\1\1", value)
    if where == PLAIN:
        return f"'{single}'" if alone else None
    if where == SINGLE:
        return single
    if where == DOUBLE:
        return re.sub(f"([`${_DOUBLE_MARKS}])", r"`\1", value)
    if where == TEXT:
        return re.sub(r"([`$])", r"`\1", value)
    return value if where == LITERAL else None


def _in_line(value: str, where: str, alone: bool) -> str | None:  # noqa: FBT001
    if where == DOUBLE:
        return value if _INSIDE_SAFE.fullmatch(value) and not value.endswith("\\") else None
    plain = where == PLAIN and alone and _INSIDE_SAFE.fullmatch(value) and not value.endswith("\\")
    return f'"{value}"' if plain and not value.startswith("-") else None


_CARRIED: dict[str, Callable[[str, str, bool], str | None]] = {
    SH: _in_sh,
    POWERSHELL: _in_powershell,
    CMD: _in_line,
    LINE: _in_line,
    OTHER: lambda value, where, alone: None,  # noqa: ARG005
}


def _where_in_sh(before: str) -> str:
    from fairledger.model.heredocs import here_documents

    rows = before.count("\n")
    for one in here_documents(before):
        if one.ends is None and one.begins < rows:
            return LITERAL if one.literal else TEXT
    state, at, open_ = PLAIN, 0, 0
    # what stands in texts that have ended is not looked at
    lines = before.split("\n")
    for one in here_documents(before):
        if one.ends is not None:
            for row in range(one.first, one.ends + 1):
                lines[row] = ""
    text = "\n".join(lines)
    while at < len(text):
        char, pair = text[at], text[at : at + 2]
        if state == COMMENT:
            state = PLAIN if char == "\n" else COMMENT
        elif state == SINGLE:
            state = PLAIN if char == "'" else SINGLE
        elif char == "\\":
            at += 1
        elif char == '"':
            state = PLAIN if state == DOUBLE else DOUBLE
        elif char == "`" or pair in ("$(", "${", "$'", "<(", ">(", "(("):
            open_ += 1
        elif state == PLAIN and char == "'":
            state = SINGLE
        elif state == PLAIN and char == "#" and (at == 0 or text[at - 1] in " \t\n;("):
            state = COMMENT
        at += 1
    return UNCLEAR if open_ and state in (PLAIN, DOUBLE) else state


def _where_in_powershell(before: str) -> str:
    state, at = PLAIN, 0
    while at < len(before):
        char, pair = before[at], before[at : at + 2]
        if state == COMMENT:
            state = PLAIN if char == "\n" else COMMENT
        elif state == "block":
            state = PLAIN if pair == "#>" else "block"
        elif state in (LITERAL, TEXT):
            ends = "'@" if state == LITERAL else '"@'
            if pair == ends and before[at - 1] == "\n":
                state = PLAIN
                at += 1
        elif state == SINGLE:
            state = PLAIN if char in _SINGLE_MARKS else SINGLE
        elif char == "`":
            at += 1
        elif state == DOUBLE:
            if pair == "$(":
                return UNCLEAR
            state = PLAIN if char in _DOUBLE_MARKS else DOUBLE
        elif pair in ("@'", '@"'):
            state = LITERAL if pair == "@'" else TEXT
            at += 1
        elif pair == "<#":
            state = "block"
        elif char == "#" and (at == 0 or before[at - 1] in " \t\n;("):
            state = COMMENT
        elif char in _SINGLE_MARKS or char in _DOUBLE_MARKS:
            state = SINGLE if char in _SINGLE_MARKS else DOUBLE
        at += 1
    return COMMENT if state == "block" else state


def _where_in_line(before: str) -> str:
    line = before.rpartition("\n")[2]
    return DOUBLE if line.count('"') % 2 else PLAIN


_WHERE: dict[str, Callable[[str], str]] = {
    SH: _where_in_sh,
    POWERSHELL: _where_in_powershell,
    CMD: _where_in_line,
    LINE: _where_in_line,
    OTHER: lambda before: UNCLEAR,  # noqa: ARG005
}
