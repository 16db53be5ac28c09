"""What stands in commands and scripts, and why it will not work at that moment."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache
from itertools import pairwise

from fairledger.catalog.seats import Seat
from fairledger.checks import script_signs as signs
from fairledger.checks.calls import calls_to, commands_of, restarting_programs, restarts
from fairledger.checks.claims import KICKSTART, PRACTICE, WINDOWS, WINDOWS_TOOLS
from fairledger.checks.programs import Call
from fairledger.checks.rule import Hit, rule
from fairledger.checks.signs import Sign
from fairledger.checks.view import View
from fairledger.families.casting import UNREADABLE
from fairledger.intent.command import Command
from fairledger.intent.disk import DISK
from fairledger.model.finding import Severity
from fairledger.model.heredocs import here_documents, without_taken_in
from fairledger.model.pattern import pattern
from fairledger.model.places import Placed, line_below
from fairledger.model.showing import passwords_in, visible

_LINUX = "#version=RHEL9\n"
_EARLY = ("setup-starts", "disks-made", "installed")
_COMMENTS = ("#", "rem ", "::")
_WINDOWS = '[[command]]\nname = "wind"\n'


@lru_cache(maxsize=2_000)
def _code(body: str) -> str:
    """A script without its comments."""
    if "\n" not in body and not body.lstrip().startswith(_COMMENTS):
        return body
    return "\n".join(line for line in body.split("\n") if not line.lstrip().startswith(_COMMENTS))


def found_in(
    view: View, sign: Sign, *, scripts: str = "", own: bool = False
) -> Iterator[tuple[Placed, Command, re.Match[str]]]:
    """Commands that show a sign; ``scripts``: where they are written in that; ``own``: in what runs."""
    if scripts and view.limits.scripts != scripts:
        return
    codes = view.kept.once("codes", lambda: [(here, one, _code(one.body)) for here, one in commands_of(view)])
    for here, one, code in codes:
        match = sign.found(without_taken_in(code) if own and "<<" in code else code)
        if match is not None:
            yield here, one, match


@rule(
    "script-restarts",
    Severity.WARNING,
    "A script restarts or switches off the machine by itself while setup still works: the installation breaks.",
    source=PRACTICE,
    fires=_WINDOWS + 'body = "shutdown /r /t 0"\n',
    silent=_WINDOWS + 'body = "cmd /c echo wind"\nrestart = true\n',
)
def script_restarts(view: View) -> Iterator[Hit]:
    """Early scripts that restart the machine."""
    for here, one, call in calls_to(view, restarting_programs()):
        if not restarts(call):
            continue
        beside = here.parent.children if isinstance(here, Seat) and here.parent is not None else ()
        later = bool(beside) and beside[-1] is not here
        if one.when in _EARLY or (one.when == "sign-in" and later):
            told = f"the script restarts or stops the machine itself ({visible(call.text[:40])})"
            hint = (
                "write restart = true"
                if view.limits.commands_restart
                else f"leave that to {view.called('finish.action')}"
            )
            hint = "put it last: what comes after it does not run" if one.when == "sign-in" else hint
            yield Hit(line_below(here.place, call.row), told, hint)


@rule(
    "script-medium-letter",
    Severity.ADVICE,
    "A script names the medium by a drive letter, which is another one on the next machine.",
    source=PRACTICE,
    fires=_WINDOWS + "body = 'cmd /c copy D:\\wind.txt C:\\'\n",
    silent=_WINDOWS + "body = 'cmd /c copy C:\\wind.txt C:\\larkmoor'\n",
)
def script_medium_letter(view: View) -> Iterator[Hit]:
    """Early scripts that read from D:, E: or F:."""
    for here, one, match in found_in(view, signs.MEDIUM, scripts="cmd"):
        own = {part.letter for _, disk in view.each(DISK) for part in disk.partition}
        if "for %" not in one.body.lower() and match[0][0].upper() not in own:
            told = f"the script reads {match[0]}; the medium may have another letter on another machine"
            hint = "write it as a script of several lines, which is looked for on every drive"
            yield Hit(here, told, hint)


@rule(
    "script-before-disk",
    Severity.WARNING,
    "While setup starts, the disk is not laid out yet: what is on C: then is not the new system, and is erased.",
    source=f"{WINDOWS}, windowsPE: its commands run before the disk configuration",
    fires='[disk]\nfate = "wipe"\n' + _WINDOWS + "when = 'setup-starts'\nbody = 'cmd /c copy X:\\w.txt C:\\w.txt'\n",
    silent='[disk]\nfate = "wipe"\n' + _WINDOWS + "when = 'setup-starts'\nbody = 'cmd /c copy D:\\w.txt X:\\w.txt'\n",
)
def script_before_disk(view: View) -> Iterator[Hit]:
    """The earliest commands that name C:, where the file has a disk wiped and no command makes partitions itself."""
    for here, one, match in found_in(view, signs.LATER_DRIVE, scripts="cmd"):
        wiped = any(disk.fate == "wipe" for _, disk in view.each(DISK))
        if one.when == "setup-starts" and wiped and "diskpart" not in one.body.lower():
            told = f"{match[0]} is not the new system yet: the disk is wiped only afterwards"
            yield Hit(here, told, 'choose when = "installed", or use X:, where setup itself runs')


@rule(
    "script-registry",
    Severity.WARNING,
    "The registry's tool does not know the word: the command does nothing, and nobody is there to see its message.",
    source=f"{WINDOWS_TOOLS}, reg",
    fires=_WINDOWS + "body = 'reg ad HKLM\\SOFTWARE\\Larkmoor /v Wind /t REG_DWORD /d 1 /f'\n",
    silent=_WINDOWS + "body = 'reg add HKLM\\SOFTWARE\\Larkmoor /v Wind /t REG_DWORD /d 1 /f'\n",
)
def script_registry(view: View) -> Iterator[Hit]:
    """Misspelt verbs and types of values."""
    for here, _, call in calls_to(view, ("reg",)):
        told, hint = _registry(call) if call.words else ("", "")
        if told:
            yield Hit(line_below(here.place, call.row), told, hint)


def _registry(call: Call) -> tuple[str, str]:
    """What the registry's tool does not understand of a call, and what to write; empty if it understands all."""
    words = call.words
    verb, key = words[0], words[1] if len(words) > 1 else ""
    given = {one.lower(): other for one, other in pairwise(words) if one.startswith(("/", "-"))}
    kind, number = given.get("/t", ""), given.get("/d", "")
    if verb.lower() not in _VERBS and not verb.startswith(("/", "%", "$")):
        return f"reg does not know {visible(verb)}", "write add, delete, query, import, load or unload"
    if verb.lower() != "add":
        return "", ""
    if kind and kind.upper() not in _TYPES and not kind.startswith(("%", "$")):
        return f"reg does not know {visible(kind)}", "write REG_SZ, REG_DWORD, ..."
    if (
        key
        and key.partition("\\")[0].upper() not in _HIVES
        and not key.startswith(("\\\\", "%", "$", "HKEY_", "hkey_"))
    ):
        return (
            f"the registry has no part {visible(key.partition(chr(92))[0])}",
            "begin the key with HKLM, HKCU, HKU, ...",
        )
    if kind.upper() in ("REG_DWORD", "REG_QWORD") and number and not _NUMBER.match(number):
        return f"{visible(number)} is no number", "a value of this type is one"
    return "", ""


_VERBS = (
    *("add", "delete", "query", "load", "unload", "import", "export"),
    *("copy", "save", "restore", "compare", "flags"),
)
_TYPES = (
    *("REG_SZ", "REG_MULTI_SZ", "REG_EXPAND_SZ", "REG_DWORD", "REG_QWORD", "REG_BINARY", "REG_NONE"),
    *("REG_DWORD_BIG_ENDIAN", "REG_DWORD_LITTLE_ENDIAN"),
)
_HIVES = ("HKLM", "HKCU", "HKCR", "HKU", "HKCC")
_NUMBER = pattern(r"(?:0[xX][0-9A-Fa-f]+|[0-9]+)\Z|[%$/]")


@rule(
    "script-share",
    Severity.ADVICE,
    "A script reads from another machine's share; it runs before anybody signs in, and is let in only without a name.",
    source=PRACTICE,
    fires=_WINDOWS + "body = '\\\\lmr-files-01\\desks\\wind.exe /quiet'\n",
    silent=_WINDOWS + "body = 'C:\\larkmoor\\wind.exe /quiet'\n",
)
def script_share(view: View) -> Iterator[Hit]:
    """Early scripts that name a share and do not connect to it."""
    for here, one, match in found_in(view, signs.SHARE, scripts="cmd"):
        if one.when in ("setup-starts", "installed") and "net use" not in one.body.lower():
            told = f"the script reads {visible(match[0])}, and runs without anybody's name"
            yield Hit(here, told, "connect with net use first, or put it on the medium")


@rule(
    "script-quote-open",
    Severity.WARNING,
    "A quote is opened and not closed: what follows belongs to the quoted word.",
    source="the grammars of the shells",
    fires=_WINDOWS + "body = 'cmd /c echo \"wind'\n",
    silent=_WINDOWS + "body = 'cmd /c echo \"wind\"'\n",
)
def script_quote_open(view: View) -> Iterator[Hit]:
    """Single command lines with an odd number of double quotes, shell scripts that end inside quotes."""
    for here, one in commands_of(view):
        alone = "\n" not in one.body.strip("\n") and not one.interpreter and view.limits.lines_without_shell
        shell = not view.limits.lines_without_shell and str(one.interpreter or "/bin/sh").endswith("sh")
        if alone and one.body.replace('\\"', "").count('"') % 2:
            yield Hit(here, "a double quote is not closed", "close it")
        elif shell and _unclosed(one.body):
            yield Hit(here, "a quote, or a text that begins with <<, is not closed", "close it")


@lru_cache(maxsize=1000)
def _unclosed(script: str) -> bool:
    """Whether a shell script ends inside quotes; texts that are taken in with << are not looked through."""
    if "<<" in script:
        return any(one.ends is None for one in here_documents(script))
    import shlex

    words = shlex.shlex(script, posix=True, punctuation_chars=True)
    try:
        return not all(word is not None for word in words)
    except ValueError:
        return True


@rule(
    "script-outside-path",
    Severity.WARNING,
    "A script that runs inside the new system names the folder under which only the installer sees it.",
    source=f"{KICKSTART}, %post --nochroot",
    fires=_LINUX + "%post\necho wind > /mnt/sysimage/etc/wind\n%end\n",
    silent=_LINUX + "%post --nochroot\necho wind > /mnt/sysimage/etc/wind\n%end\n",
)
def script_outside_path(view: View) -> Iterator[Hit]:
    """Scripts inside the new system that speak of it from outside."""
    for here, one, match in found_in(view, signs.OUTSIDE, scripts="sh"):
        if one.moment == ("installed", "system"):
            told = f"{match[0]} does not exist inside the new system"
            yield Hit(here, told, "leave it out of the path, or write --nochroot")


@rule(
    "script-empty",
    Severity.ADVICE,
    "A script has nothing in it.",
    source=PRACTICE,
    fires=_LINUX + "%post --log=/root/x.log\n\n%end\n",
    silent=_LINUX + "%post\necho wind\n%end\n",
)
def script_empty(view: View) -> Iterator[Hit]:
    """Scripts without a line."""
    for here, one in commands_of(view):
        if not one.body.strip():
            yield Hit(here, "the script is empty", "take it out")


@rule(
    "value-unwritable",
    Severity.ERROR,
    "A script holds a character that no file can hold, or with which nothing reads it: it is not written.",
    source="the forms of the files: XML 1.0, characters; text files",
    fires=_WINDOWS + 'body = "cmd /c echo \\u0007"\n',
    silent=_WINDOWS + 'body = "cmd /c echo wind"\n',
    always=True,
)
def value_unwritable(view: View) -> Iterator[Hit]:
    """Control characters in scripts and command lines."""
    for here, one in commands_of(view):
        odd = UNREADABLE.search(one.body)
        if odd is not None:
            told = f"the script holds the control character U+{ord(odd[0]):04X}"
            yield Hit(line_below(here.place, one.body.count("\n", 0, odd.start())), told, "take it out")


@rule(
    "script-secret",
    Severity.WARNING,
    "A password stands in a command: whoever holds the medium or reads the machine's log has it.",
    source=PRACTICE,
    fires=_WINDOWS + 'body = "net user keeper Kestrel-7 /add"\n',
    silent=_WINDOWS + 'body = "net user keeper /active:yes"\n',
    always=True,
)
def script_secret(view: View) -> Iterator[Hit]:
    """Commands with a password in them; it is not told."""
    for here, one in commands_of(view):
        if passwords_in(_code(one.body)):
            told = "a password seems to stand in the command"
            yield Hit(here, told, "use the account section with a reference to a secret")
