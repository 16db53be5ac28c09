"""What a batch file loses, and what nobody comes back from."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fairledger.checks.calls import commands_of
from fairledger.checks.claims import WINDOWS_TOOLS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.command import Command
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.places import Placed
from fairledger.model.showing import visible

_SCRIPT = '[[command]]\ninterpreter = "cmd"\n'
_REMARK = pattern(r"^\s*@?(?:rem\b|::).*$", re.MULTILINE | re.IGNORECASE)
_KNOWN = pattern(r"%%|%\*|%~?[a-z$:]*[0-9]|%[A-Za-z_][\w().#-]*(?::[^%\n]*)?%|\$\{\w+\}", re.IGNORECASE)
_CALLS = pattern(r'^\s*@?("[^"\n]+\.(?:cmd|bat)"|[^\s"&|<>()]+\.(?:cmd|bat))(?=\s|$)', re.MULTILINE | re.IGNORECASE)


def _batches(view: View) -> Iterator[tuple[Placed, Command]]:
    rows = commands_of(view) if view.limits.scripts == "cmd" else ()
    return ((here, one) for here, one in rows if one.interpreter == "cmd")


@rule(
    "script-percent-lost",
    Severity.WARNING,
    "A lone percent sign in a batch file is lost, and with it what it stands for.",
    source=f"{WINDOWS_TOOLS}, cmd and for",
    fires=_SCRIPT + 'body = "for %i in (1 2) do echo %i"\n',
    silent=_SCRIPT + 'body = "for %%i in (1 2) do echo %%i"\n',
)
def script_percent_lost(view: View) -> Iterator[Hit]:
    """Lone percent signs in batch files, the first of each."""
    for here, one in _batches(view):
        lines = _KNOWN.sub("", _REMARK.sub("", one.body)).split("\n")
        at = next((at for at, line in enumerate(lines) if "%" in line), None)
        if at is not None:
            line = one.body.split("\n")[at].strip()
            yield Hit(here, f"a percent sign is lost in the batch file: {visible(line[:60])}", "write it twice: %%")


@rule(
    "script-not-called",
    Severity.WARNING,
    "A batch file that starts another one without call ends with it: what comes after it never runs.",
    source=f"{WINDOWS_TOOLS}, call",
    fires=_SCRIPT + 'body = "C:\\\\larkmoor\\\\wind.cmd\\necho done"\n',
    silent=_SCRIPT + 'body = "call C:\\\\larkmoor\\\\wind.cmd\\necho done"\n',
)
def script_not_called(view: View) -> Iterator[Hit]:
    """Lines of batch files that start another one, before the last."""
    for here, one in _batches(view):
        body = _REMARK.sub("", one.body)
        match = next((found for found in _CALLS.finditer(body) if body[found.end() :].partition("\n")[2].strip()), None)
        if match is not None:
            yield Hit(here, f"nothing runs after {visible(match[1])} in the batch file", f"write: call {match[1]}")
