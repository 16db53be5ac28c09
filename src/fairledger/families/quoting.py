"""Values that are filled into commands: quoted for the place at which they stand, or refused.

What stands before a placeholder is read as far as needed to know whether it is in quotes, and in which. Where that is
not clear, only values that mean themselves anywhere are let in.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from fairledger.families.casting import UNREADABLE
from fairledger.model.pattern import pattern
from fairledger.model.values import Blank, Formed, Template, Text, form

SH, POWERSHELL, CMD, LINE, OTHER = "sh", "powershell", "cmd", "line", "other"
"""What reads a command; a line without a shell is split into words by the system."""
PLAIN, SINGLE, DOUBLE, TEXT, LITERAL, COMMENT, UNCLEAR = (
    *("plain", "single", "double", "text", "literal", "comment", "unclear"),
)
"""Where a placeholder stands: in no quotes, in single or double ones, in a text of several lines that the shell works
out or does not, in a comment, or where nobody can tell."""
_SAFE = pattern(r"[A-Za-z0-9_./:@+,=-]*")
_SAFE_IN_LINE = pattern(r"[A-Za-z0-9_./:@+,=~-]*")
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
        before += _MARK
    return Template(tuple(parts))


def in_line(line: Text) -> Text:
    """A command line of our own making: what is filled in is one word of it, or stays within the quotes around it."""
    if isinstance(line, str):
        return line
    parts: list[str | Blank | Formed] = []
    before = ""
    for piece in line.parts:
        if isinstance(piece, str):
            before += piece
            parts.append(piece)
        elif isinstance(piece, Formed):
            parts.append(Formed(piece.parts, (_ONE_LINE, *piece.forms)))
        else:
            where = DOUBLE if before.count('"') % 2 else PLAIN
            where = UNCLEAR if _read_again(before) else where  # quotes of cmd.exe /c "..." are none for what is in them
            parts.append(Formed((piece,), (f"{_FORM} {LINE} {where}",)))
    return Template(tuple(parts))


_ONE_LINE = "one-line"


@form(_ONE_LINE)
def _one_line(value: str) -> str:
    """A value as it is. Raises `ValueError` where it would be more than a line."""
    if any(sign < " " or sign == "\x7f" for sign in value):
        raise ValueError("it holds a control character, which a command cannot carry")
    return value


def _alone(before: str, after: str) -> bool:
    """Whether a placeholder is a word by itself."""
    return (not before or before[-1] in " \t\n=(,;") and (not after or after[0] in " \t\n),;")


_MARK = "\ue000"
"""What stands for another placeholder."""
_FORM = "in-command"


@form(_FORM)
def _put(value: str, told: str) -> str:
    """A value at its place. Raises `ValueError` where the place cannot carry it."""
    shell, where, *alone = told.split()
    where, _, ends = where.partition(":")
    if ends and value.strip("\t") == ends:
        raise ValueError("it is the word that ends the text in which it stands")
    safe = _SAFE_IN_LINE if shell in (LINE, CMD) else _SAFE
    if safe.fullmatch(value) and not value.startswith("-"):
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


IN_SCRIPT = "in-powershell-script"


@form(IN_SCRIPT)
def _single(value: str) -> str:
    """A value within the single quotes of a script of PowerShell."""
    return re.sub(f"([{_SINGLE_MARKS}])", r"\1\1", value)


def _in_powershell(value: str, where: str, alone: bool) -> str | None:  # noqa: FBT001
    single = re.sub(f"([{_SINGLE_MARKS}])", r"\1\1", value)
    if where == PLAIN:
        return f"'{single}'" if alone else None
    if where == SINGLE:
        return single
    if where == DOUBLE:
        return re.sub(f"([`${_DOUBLE_MARKS}])", r"`\1", value)
    if "'@" in value or '"@' in value:  # which ends the text
        return None
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


_AGAIN = pattern(
    r"(?<![\w.-])(?:eval|exec|ssh|su|runuser|xargs|awk|gawk|mawk|sed|perl|python[\d.]*|ruby|node|trap|find|watch|parallel|env|cmd"
    r"|powershell|pwsh|iex|invoke-\w+|icm|start-process|scriptblock|bash|sh|dash|ksh|zsh|wsl|wmic|schtasks|mshta|wscript|cscript"
    r"|reg|at|call|for|forfiles|start)(?:\.exe)?(?![\w-])",
    re.IGNORECASE,
)
"""Programs that read a word once more, in another language: quotes of the outer one do not hold there."""


def _read_again(before: str) -> bool:
    """Whether the command in whose line a placeholder stands may read its words once more."""
    lines = before.split("\n")
    at = len(lines) - 1
    while at and lines[at - 1].endswith(("\\", "`", "^", "|", "&")):
        at -= 1
    return _AGAIN.search("\n".join(lines[at:])) is not None


_HERE = pattern(r"<<(?!<)-?[ \t]{0,9}(['\"\\]?)([A-Za-z_]\w{0,99})")


def _where_in_sh(before: str) -> str:  # noqa: C901 - a letter at a time, each state in a line
    state, at = PLAIN, 0
    waiting: list[re.Match[str]] = []
    while at < len(before):
        char, pair = before[at], before[at : at + 2]
        if state == COMMENT:
            state = PLAIN if char == "\n" else COMMENT
            at -= state == PLAIN  # the line end is looked at again: a text may begin behind it
            if state == PLAIN and not waiting:
                at += 1
        elif state == SINGLE:
            state = PLAIN if char == "'" else SINGLE
        elif char == "\\":
            if at + 1 >= len(before):
                return UNCLEAR  # it would take the first letter of the value, or a quote of ours
            at += 1
        elif char == "`" or pair in ("$(", "${", "$'", '$"', "<(", ">(", "(("):
            return UNCLEAR
        elif char == '"':
            state = PLAIN if state == DOUBLE else DOUBLE
        elif state == PLAIN and char == "'":
            state = SINGLE
        elif state == PLAIN and char == "#" and (at == 0 or before[at - 1] in " \t\n;("):
            state = COMMENT
        elif state == PLAIN and pair == "<<" and before[at + 2 : at + 3] != "<":
            begun = _HERE.match(before, at)
            if begun is None:
                return UNCLEAR
            waiting.append(begun)
            at = begun.end() - 1 + (begun[1] in "'\"" and begun[1] != "")
        elif char == "\n" and waiting and state == PLAIN:
            for begun in waiting:
                ends = re.compile(rf"^\t*{begun[2]}$", re.MULTILINE).search(before, at + 1)
                if ends is None or ends.end() == len(before):
                    return _in_text(before[at + 1 :], begun)
                at = ends.end() - 1
            waiting = []
        at += 1
    if state in (PLAIN, DOUBLE) and before.endswith("$"):
        return UNCLEAR
    return UNCLEAR if waiting or (state != COMMENT and _read_again(before)) else state


def _in_text(text: str, begun: re.Match[str]) -> str:
    """Within a text that a script takes in: a value that stands there alone must not be the word that ends it."""
    word = f":{begun[2]}" if not text.rpartition("\n")[2].strip(f"\t{_MARK}") else ""
    if begun[1]:
        return LITERAL + word
    open_ = "`" in text or "$(" in text or "${" in text or text.endswith(("$", "\\"))
    return UNCLEAR if open_ else TEXT + word


def _where_in_powershell(before: str) -> str:  # noqa: C901 - as above
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
            if at + 1 >= len(before):
                return UNCLEAR
            at += 1
        elif state == DOUBLE:
            if pair == "$(" or pair == "${":
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
    if state == TEXT and ("$(" in before or before.endswith(("$", "`"))):
        return UNCLEAR
    if state == "block":
        return UNCLEAR
    if state in (PLAIN, DOUBLE) and before.endswith("$"):
        return UNCLEAR
    return UNCLEAR if state in (PLAIN, SINGLE, DOUBLE) and _read_again(before) else state


def _where_in_line(before: str) -> str:
    line = before.rpartition("\n")[2]
    if _read_again(before) or "^" in line or "'" in line:
        return UNCLEAR
    return DOUBLE if line.count('"') % 2 else PLAIN


_WHERE: dict[str, Callable[[str], str]] = {
    SH: _where_in_sh,
    POWERSHELL: _where_in_powershell,
    CMD: _where_in_line,
    LINE: _where_in_line,
    OTHER: lambda before: UNCLEAR,  # noqa: ARG005
}
