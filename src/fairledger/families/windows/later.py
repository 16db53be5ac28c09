"""Command lines in a form that survives: noted down for later, with a log, without a window.

What is noted down passes setup, which fills in ``%NAME%`` at once, and PowerShell; characters that mean something to
either stand there by their number. A line of a batch file differs from one at the prompt: a lone percent sign stands
twice in it, and what calls another batch file and comes back begins with ``call``.
"""

from __future__ import annotations

import re

from fairledger.families.windows.command_lines import FOLDER, POWERSHELL, launched, unquoted
from fairledger.model.pattern import pattern
from fairledger.model.values import Piece, Template, Text, concat, escape_text, escaped, form, parse_text

FIRST_START = "first-start"
EACH_ACCOUNT = "each-account"
_ACTIVE = r"HKLM:SOFTWARE\Microsoft\Active Setup\Installed Components"
_COMPLETE = "SetupComplete.cmd"
_NOTED = {
    FIRST_START: (
        rf"$d=$env:windir+'\Setup\Scripts';mkdir -Force $d;ac ($d+'\{_COMPLETE}') -Encoding Ascii ",
        "",
    ),
    EACH_ACCOUNT: (
        rf"$k='{_ACTIVE}\fair-ledger-<n>';ni $k;sp $k StubPath ",
        " -t 2",
    ),
}
"""What notes a line down: a script that setup runs at its end, a command for each new account.

The second is a text in which names are filled in when it runs (kind 2); its path must be said, not handed over, since
only then PowerShell knows that it is one of the registry.
"""
_BEGINS, _ENDS = f'{POWERSHELL} -NoProfile -Command "', '"'
_SPECIAL = pattern("[\"%'‘’‚‛“”„]")
_NUMBER = pattern(r"'\+\[char\](\d{2,4})\+'")
_INSIDE = r"((?:[^'\"%]|'\+\[char\]\d{2,4}\+')*)"
_NAMED_PERCENT = r"(%[A-Za-z_][\w()]+(?::[^%\n]*)?%)"
_BATCH_FILE = pattern(r'("[^"]+\.(?:cmd|bat)"|[^\s"]+\.(?:cmd|bat))(?=\s|$)', re.IGNORECASE)

_LATE = "noted"
_IN_BATCH = "batch-value"


@form(_LATE)
def _by_number(text: str) -> str:
    return _SPECIAL.sub(lambda match: f"'+[char]{ord(match[0])}+'", text)


@form(_IN_BATCH)
def _doubled(text: str) -> str:
    return text.replace("%", "%%")


def note(when: str, line: Text, number: int) -> Text:
    """The command line that notes another one down."""
    before, after = _NOTED[when]
    return concat(_BEGINS, before.replace("<n>", str(number)), "('", escaped(line, _LATE), "')", after, _ENDS)


def dressed(value: Text) -> bool:
    """Whether a line can be one that calls a companion, is for later, has a log or no window."""
    text = value if isinstance(value, str) else str(value)
    return FOLDER in text or text.startswith((_BEGINS, _HIDES[0])) or "2>&1" in text


def noted(value: Text) -> tuple[str, Text] | None:
    """When a line runs that another one notes down, and that line; None if it is no such line."""
    text = escape_text(value) if isinstance(value, str) else str(value)
    if not text.startswith(_BEGINS):
        return None
    for when, (before, after) in _NOTED.items():
        start = re.escape(_BEGINS + before).replace("<n>", r"\d{1,4}")
        match = re.fullmatch(rf"{start}\('{_INSIDE}'\){re.escape(after + _ENDS)}", text, re.DOTALL)
        if match is not None:
            inside = _NUMBER.sub(lambda one: chr(int(one[1])), match[1])
            return (when, parse_text(inside)) if _by_number(inside) == match[1] else None
    return None


def in_batch(line: Text, *, called: bool = False) -> Text:
    """A line from the prompt as a batch file has it; with ``called`` one that comes back from another batch file."""
    pieces = (line,) if isinstance(line, str) else line.parts
    rows: list[Text] = [
        re.sub(f"{_NAMED_PERCENT}|%", lambda match: match[1] or "%%", piece)
        if isinstance(piece, str)
        else _doubling(piece)
        for piece in pieces
    ]
    starts = called and isinstance(line, str) and _BATCH_FILE.match(line)
    return concat(*(["call "] if starts else []), *rows)


def values_doubled(body: Text) -> Text:
    """A batch file whose placeholders are filled without loss."""
    return body if isinstance(body, str) else concat(*(_doubling(piece) for piece in body.parts))


def _doubling(piece: Piece) -> Text:
    return piece if isinstance(piece, str) else escaped(Template((piece,)), _IN_BATCH)


def from_batch(line: Text) -> Text | None:
    """The line as it is at the prompt; None where nothing at the prompt becomes this one."""
    if isinstance(line, str):
        return _from_batch(line)
    parts = [_from_batch(piece) if isinstance(piece, str) else piece for piece in line.parts]
    known = tuple(one for one in parts if one is not None)
    return Template(known) if len(known) == len(parts) else None


def _from_batch(line: str) -> str | None:
    bare = re.sub(f"{_NAMED_PERCENT}|%%", lambda match: match[1] or "%", line)
    for plain in (bare, bare.removeprefix("call ")):
        if in_batch(plain, called=True) == line:
            return plain
    return bare if in_batch(bare) == line else None


_LOG = pattern(r'[^"<>|&^%\x00-\x1f]+(?:%[A-Za-z_]\w*%[^"<>|&^%\x00-\x1f]*)*|(?:%[A-Za-z_]\w*%[^"<>|&^%\x00-\x1f]*)+')


def is_log(path: Text | None) -> bool:
    """Whether a file's path can stand in a command line, quoted."""
    return isinstance(path, str) and _LOG.fullmatch(path) is not None


def with_log(line: Text, log: str, *, in_shell: bool, ends: bool) -> Text:
    """A line whose output is added to a file.

    With ``in_shell`` it is handed to one, else it gets one of its own, unless it ``ends`` with the quote of its shell.
    """
    told = f' >>"{log}" 2>&1'
    if in_shell:
        return concat(line, told)
    return concat(line[:-1], told, '"') if ends and isinstance(line, str) else concat(_SHELL, line, told, '"')


_SHELL = 'cmd.exe /c "'
_LOGGED = pattern(r'(.*) >>"([^"]+)" 2>&1("?)', re.DOTALL)


def log_of(line: str, *, in_shell: bool) -> tuple[str, str]:
    """A line without its log, and that; empty without one. Without ``in_shell``, the shell that it has is kept."""
    match = _LOGGED.fullmatch(line)
    if (
        match is None
        or not is_log(match[2])
        or bool(match[3]) == in_shell
        or (not in_shell and not line.startswith(_SHELL))
    ):
        return line, ""
    return match[1] + match[3], match[2]


_HIDES = (
    f"{POWERSHELL} -NoProfile -WindowStyle Hidden -Command \"exit (Start-Process cmd.exe '/s /c ",
    "' -NoNewWindow -Wait -PassThru).ExitCode\"",
)


def hidden(line: Text) -> Text:
    """A line that runs without a window, and whose exit code is handed on."""
    return concat(_HIDES[0], escaped(concat('"', line, '"'), "powershell"), _HIDES[1])


def number_in(value: Text) -> int:
    """The number under which a line notes another one down; zero if it has none."""
    match = re.search(r"\\fair-ledger-(\d{1,4})'", str(value))
    return int(match[1]) if match else 0


def called(value: object) -> str:
    """The companion that a line calls, however it is dressed; empty if there is none."""
    if not isinstance(value, str) or FOLDER not in value:
        return ""
    later = noted(value)
    line = str(later[1]) if later is not None else value
    seen = shown(line)
    bare = log_of(line, in_shell=False)[0] if seen is None else log_of(seen, in_shell=True)[0]
    return launched(bare)


_TOLD = {FIRST_START: "at the end of the first start", EACH_ACCOUNT: "at the first sign-in of every account"}


def unwrapped(line: str) -> tuple[str, tuple[str, ...]]:
    """The command that a line brings about in the end, and in a few words how."""
    told: list[str] = []
    later = noted(line)
    if later is not None:
        told.append(_TOLD[later[0]])
        line = str((from_batch(later[1]) or later[1]) if later[0] == FIRST_START else later[1])
    seen = shown(line)
    line, log = log_of(line, in_shell=False) if seen is None else log_of(seen, in_shell=True)
    told += ["no window shows"] if seen is not None or " -w Hidden " in line[:60] else []
    told += [f"what it prints goes to {log}"] if log else []
    return line, tuple(told)


def shown(line: str) -> str | None:
    """The line that runs without a window; None if it is no such line."""
    start, end = _HIDES
    if not line.startswith(start) or not line.endswith(end) or len(line) < len(start) + len(end):
        return None
    inside = unquoted(line[len(start) : -len(end)])
    held = inside[1:-1] if len(inside) > 1 and inside[0] == inside[-1] == '"' else None
    return held if held is not None and hidden(held) == line else None
