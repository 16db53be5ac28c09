"""Commands at named moments: what cannot work as it is written, or not yet."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fairledger.checks.rule import Hit, View, rule
from fairledger.profiles.command import COMMAND

_SHELLS = r"""\s*"?(?:\S*[\\/])?(?:cmd|powershell|pwsh)(?:\.exe)?"?\s"""
_SHELL_WORDS = r"[&|<>]"
_OF_ACCOUNTS = (
    r"%(?:USERPROFILE|APPDATA|LOCALAPPDATA|HOMEPATH)%|\bHKCU\b|HKEY_CURRENT_USER"
    r"|\$env:(?:USERPROFILE|APPDATA|LOCALAPPDATA)"
)
_EARLY = ("before", "end")


@rule(
    "command-needs-shell",
    "warning",
    "The command line uses pipes or redirections, but no shell runs it: the signs reach the program as they are.",
    reads=("command",),
    fires='[[command]]\nname = "wind"\nbody = "echo wind > C:\\\\wind.txt"\n',
    silent='[[command]]\nname = "wind"\nbody = "cmd /c echo wind > C:\\\\wind.txt"\n',
)
def command_needs_shell(view: View) -> Iterator[Hit]:
    """Single lines with signs of a shell that begin with another program."""
    for at, one in view.each(COMMAND):
        bare = re.sub(r'"[^"]*"', "", one.body)
        alone = (
            view.limits.lines_without_shell and not one.interpreter and not re.match(_SHELLS, one.body, re.IGNORECASE)
        )
        if alone and re.search(_SHELL_WORDS, bare):
            told = "the command line holds & | < or >, and no shell runs it"
            hint = 'write cmd /c in front of it, or interpreter = "cmd"'
            yield Hit(view.intent.place("command", at), told, hint)


@rule(
    "command-too-early",
    "warning",
    "The command speaks of an account's own files or registry, and no account has any yet.",
    reads=("command",),
    fires='[[command]]\nname = "wind"\nbody = "reg add HKCU\\\\Software\\\\Larkmoor /v Wind /d 1"\n',
    silent='[[command]]\nname = "wind"\nwhen = "first-sign-in"\nbody = "reg add HKCU\\\\Wind /v Wind /d 1"\n',
)
def command_too_early(view: View) -> Iterator[Hit]:
    """Early commands that name what belongs to an account."""
    for at, one in view.each(COMMAND):
        match = re.search(_OF_ACCOUNTS, one.body, re.IGNORECASE)
        if match and view.limits.accounts_come_last and one.when in _EARLY:
            told = f"{match[0]} means nothing at the moment {one.when}: no account has a profile yet"
            hint = 'choose when = "first-sign-in", or "new-user" for every account'
            yield Hit(view.intent.place("command", at), told, hint)
