"""Commands at named moments: what cannot work as it is written, or not yet."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache

from fairledger.checks.calls import commands_of
from fairledger.checks.claims import PRACTICE, WINDOWS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.signs import Sign
from fairledger.checks.view import View
from fairledger.model.finding import Severity

_SHELLS = r"""\s*"?(?:\S*[\\/])?(?:cmd|powershell|pwsh)(?:\.exe)?"?\s"""
_BUILT_IN = {
    *("echo", "copy", "del", "erase", "md", "mkdir", "rd", "rmdir", "move", "ren", "type", "cd", "chdir", "dir"),
    *("mklink", "pushd", "popd", "assoc", "if", "for", "call", "set", "start"),
}
"""Commands that only a shell knows."""
_FILES = Sign(
    r"\A\s*(?:\"[^\"]+|[^\"\s]+)\.(?:ps1|reg|msi|vbs|js|inf|txt)\"?(?:\s|\Z)",
    near=".ps1 .reg .msi .vbs .js .inf .txt",
)
"""Files that another program opens."""
_SCRIPT = Sign(
    r"\A\s*(?:\"[^\"]+|[^\"\s]+)\.ps1\"?(?:\s|\Z)",
    near=".ps1",
)
"""Those that open in an editor at any moment."""
_QUOTED = Sign(
    r"\A\s*\"[^\"\\:]*\s[^\"\\:]*\"\s*\Z",
    near='"',
)
_SHELL_WORDS = r"[&|<>]"
_OF_ACCOUNTS = Sign(
    r"\b[A-Z]:\\Users\\(?!Public\b|Default\b|All Users\b|%)|"
    r"%(?:USERPROFILE|APPDATA|LOCALAPPDATA|HOMEPATH)%|\bHKCU\b|HKEY_CURRENT_USER"
    r"|\$env:(?:USERPROFILE|APPDATA|LOCALAPPDATA)",
    near="users % hk $env",
)
_EARLY = ("setup-starts", "installed")


@rule(
    "command-needs-shell",
    Severity.WARNING,
    "The command line needs a shell, for its pipes, its command or its file, and none runs it: nothing happens.",
    source=f"{WINDOWS}, RunSynchronousCommand/Path, which is started without a shell",
    fires='[[command]]\nname = "wind"\nbody = "echo wind > C:\\\\wind.txt"\n',
    silent='[[command]]\nname = "wind"\nbody = "cmd /c echo wind > C:\\\\wind.txt"\n',
)
def command_needs_shell(view: View) -> Iterator[Hit]:
    """Single lines that only a shell understands, and that begin with another program or none."""
    for here, one in commands_of(view) if view.limits.lines_without_shell else ():
        if one.interpreter or "\n" in one.body.strip():
            continue
        told = ""
        words = one.body.split(maxsplit=1)
        if len(words) > 1 and words[0].lower() in _BUILT_IN:
            told = "only a shell knows the command, and none runs it"
        elif _QUOTED.found(one.body):
            told = "the quotes make a single name of the whole command, and no program is called so"
        elif _FILES.found(one.body) and (one.when in _EARLY or _SCRIPT.found(one.body)):
            told = "the file is no program, and no shell looks for the one that opens it"
        elif _wants_shell(one.body):
            told = "the command line holds & | < or >, and no shell runs it"
        if told:
            hint = 'write cmd /c in front of it, or interpreter = "cmd"'
            yield Hit(here, told, hint)


@lru_cache(maxsize=2_000)
def _wants_shell(line: str) -> bool:
    bare = re.sub(r'"[^"]*"', "", line)
    return re.search(_SHELL_WORDS, bare) is not None and re.match(_SHELLS, line, re.IGNORECASE) is None


@rule(
    "command-nearly",
    Severity.WARNING,
    "The command is nearly one that is well known, and differs just where it counts: it has no effect.",
    source=f"{PRACTICE}, well-known values of the registry",
    fires='[[command]]\nwhen = "setup-starts"\n'
    "body = 'reg add HKLM\\SYSTEM\\Setup\\LabConfig /v BypassTMPCheck /t REG_DWORD /d 1 /f'\n",
    silent='[[command]]\nwhen = "setup-starts"\n'
    "body = 'reg add HKLM\\SYSTEM\\Setup\\LabConfig /v BypassTPMCheck /t REG_DWORD /d 1 /f'\n",
)
def command_nearly(view: View) -> Iterator[Hit]:
    """Registry commands with another key, name, type or number than the one that is read."""
    for here, one in commands_of(view):
        meant = view.family.meant(one.body.strip()) if "\n" not in one.body.strip() else ""
        if meant:
            told = "as it stands this has no effect; a well-known command is nearly the same"
            yield Hit(here, told, f"write {meant}")


@rule(
    "command-too-early",
    Severity.WARNING,
    "The command speaks of an account's own files or registry, and no account has any yet.",
    source=f"{WINDOWS}, RunSynchronous, which runs as the system before anybody signs in",
    fires='[[command]]\nname = "wind"\nbody = "reg add HKCU\\\\Software\\\\Larkmoor /v Wind /d 1"\n',
    silent='[[command]]\nname = "wind"\nwhen = "sign-in"\nbody = "reg add HKCU\\\\Wind /v Wind /d 1"\n',
)
def command_too_early(view: View) -> Iterator[Hit]:
    """Early commands that name what belongs to an account."""
    for here, one in commands_of(view) if view.limits.accounts_come_last else ():
        match = _OF_ACCOUNTS.found(one.body)
        if match and one.when in _EARLY:
            told = f"{match[0]} means nothing at {one.when}: no account has a profile yet"
            hint = 'choose when = "sign-in", with run_as = "each-account" for every account'
            yield Hit(here, told, hint)
