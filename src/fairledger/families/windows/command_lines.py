"""Commands that translations generate, and finding them again.

Values stand in PowerShell's single quotes, in which only the quote itself means anything.
"""

from __future__ import annotations

import re
from functools import cache, lru_cache

from msgspec import Struct

from fairledger.catalog.items import in_order
from fairledger.catalog.seats import Seat
from fairledger.families.interface import Reader, Words
from fairledger.families.quoting import in_line
from fairledger.families.windows.names import DEPLOYMENT, SETUP, SHELL
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin
from fairledger.model.target import Target
from fairledger.model.values import SecretRef, Text, concat, escape_text, escaped, parse_text


class Moment(Struct, frozen=True):
    """When setup runs commands, and where they stand."""

    pass_: str
    component: str
    list_path: str
    line: str
    """Name of the setting that holds the command line."""


POWERSHELL = "powershell.exe"
ANY = "*"
"""Stands for every command."""
REGISTRY = "reg *"
"""Stands for every command that speaks of the registry's tool, in whatever spelling."""

IN_SETUP = Moment("windowsPE", SETUP, "RunSynchronous/RunSynchronousCommand", "Path")
AS_SYSTEM = Moment("specialize", DEPLOYMENT, "RunSynchronous/RunSynchronousCommand", "Path")
FIRST_SIGN_IN = Moment("oobeSystem", SHELL, "FirstLogonCommands/SynchronousCommand", "CommandLine")
MOMENTS = {"setup": IN_SETUP, "system": AS_SYSTEM, "first-sign-in": FIRST_SIGN_IN}

FOLDER = "fair-ledger"
"""Where companion scripts lie on the medium."""
_DRIVES = " ".join("CDEFGHIJKLMNOPQRSTUVWXYZ")
_CALLED = (
    r"(?:call |powershell\.exe -NoProfile -ExecutionPolicy Bypass -File |diskpart\.exe /s |diskpart /s "
    r"|netsh\.exe wlan add profile user=all filename=)"
)
# nothing else may stand in such a line: whoever reads it as ours does not look at it again
_LAUNCH = (
    r"cmd\.exe /c \"for %d in \([A-Z ]+\) do @if exist %d:\\(fair-ledger\\[\w.-]+) "
    + _CALLED
    + r"%d:\\\1[^&|<>^%\"]*\""
)
_LAUNCH_KEPT = (
    r"cmd\.exe /c \"(?:call |powershell\.exe -NoProfile -ExecutionPolicy Bypass -File )"
    r"%SystemDrive%\\(fair-ledger\\[\w.-]+)\""
)
_LAUNCH_SHORT = (
    r"(?:(?:cmd\.exe /c )?call |powershell\.exe (?:-NoProfile|-w Hidden) -ep Bypass -File )"
    r"%SystemDrive%\\(fair-ledger\\[\w.-]+)"
)
_TWICE = pattern(r"(['‘’‚‛])\1")
_QUOTED = "((?:[^'‘’‚‛]|''|‘‘|’’|‚‚|‛‛)*)"
"""A value in quotes: each quote in it stands twice, so that it ends in one place only."""
_LONE_QUOTE = pattern(r"['‘’‚‛]")
_HIVES = {"hkey_local_machine": "hklm", "hkey_users": "hku", "hkey_current_user": "hkcu"}


def add_command(words: Words, moment: Moment, line: Text, about: Text, origin: Origin) -> None:
    """Appends a command at a moment; its order is numbered later."""
    block = words.out.block(moment.pass_, moment.component, origin)
    item = block.add(moment.list_path, origin)
    item.put(moment.line, in_line(line), origin)
    item.put("Description", about, origin)


def launcher(name: str, call: str) -> str:
    """The command line that looks for a companion on every drive and hands it to ``call``."""
    path = "%d:" + "\\" + name.replace("/", "\\")
    return f'cmd.exe /c "for %d in ({_DRIVES}) do @if exist {path} {call}{path}"'


def on_drives(path: str, before: str) -> tuple[str, str]:
    """What stands before and behind the rest of a command that is run on each drive that has ``path``."""
    return f'cmd.exe /c "for %d in ({_DRIVES}) do @if exist {path} {before}', '"'


def kept_launcher(name: str, call: str) -> str:
    """The command line that hands a companion to ``call`` which `keeping` has copied."""
    return f'cmd.exe /c "{call}{kept_path(name)}"'


def kept_path(name: str) -> str:
    """Where `keeping` has copied a companion to."""
    return "%SystemDrive%\\" + name.replace("/", "\\")


def keeping() -> str:
    """The command line that copies the scripts to the system's own drive, where a launcher finds them later.

    What is no script holds secrets, and does not stay.
    """
    others = _DRIVES.removeprefix("C ")
    copied = rf"xcopy %d:\{FOLDER}\*.%x %SystemDrive%\{FOLDER} /i /y"
    found = rf"@if exist %d:\{FOLDER}\*.%x {copied}"
    return f'cmd.exe /c "for %d in ({others}) do @for %x in (cmd ps1) do {found}"'


def launched(line: object) -> str:
    """The name of the companion that a command line calls; empty if it is no such line."""
    if not isinstance(line, str) or FOLDER not in line:
        return ""
    forms = (_LAUNCH, _LAUNCH_KEPT, _LAUNCH_SHORT)
    match = next((found for one in forms if (found := re.fullmatch(one, line))), None)
    return match[1].replace("\\", "/") if match else ""


def powershell(before: str, *quoted_and_after: Text) -> Text:
    """A PowerShell command line: every second part is put into single quotes and made safe for them."""
    parts: list[Text] = [f'powershell.exe -NoProfile -Command "{before}']
    for at, part in enumerate(quoted_and_after):
        parts += [part] if at % 2 else ["'", escaped(part, "powershell"), "'"]
    return concat(*parts, '"')


class Form(Struct, frozen=True):
    """What stands around the quoted values of a PowerShell command, and since which build it is understood."""

    parts: tuple[str, ...]
    """Before the first value, between the values, and behind the last."""
    since: int = 0

    def line(self, *values: Text) -> Text:
        """The command line with its values."""
        between = [part for pair in zip(values, self.parts[1:], strict=True) for part in pair]
        return powershell(self.parts[0], *between)

    def values_in(self, line: str) -> tuple[Text, ...] | None:
        """The values of a line that was made so; None if it was not."""
        found = _pattern_of(self).fullmatch(line)
        return tuple(parse_text(unquoted(one)) for one in found.groups()) if found is not None else None


@cache
def _pattern_of(form: Form) -> re.Pattern[str]:
    whole = str(form.line(*["\0"] * (len(form.parts) - 1)))
    return re.compile(_QUOTED.join(re.escape(part) for part in whole.split("\0")))


def for_build(forms: tuple[Form, ...], target: Target | None) -> Form:
    """The newest form that a release understands; the newest of all where nobody knows the release."""
    build = int(target.build) if target is not None and target.build.isdecimal() else None
    return next(one for one in reversed(forms) if build is None or build >= one.since)


def quoted_in(line: str, before: str, after: str = "") -> Text | None:
    """The one quoted value of a line that `powershell` made of these parts; None if it is not such a line."""
    start, end = _around(before, after)
    if not line.startswith(start) or not line.endswith(end) or len(line) < len(start) + len(end):
        return None
    inside = line[len(start) : len(line) - len(end)]
    # a quote that does not stand twice would end the value
    return None if _LONE_QUOTE.search(_TWICE.sub("", inside)) else parse_text(unquoted(inside))


@lru_cache(maxsize=256)
def _around(before: str, after: str) -> tuple[str, str]:
    start, _, end = str(powershell(before, "\0", after)).partition("\0")
    return start, end


def unquoted(text: str) -> str:
    """What stands between PowerShell's single quotes."""
    plain = re.sub(r'(\\*)\\"', lambda match: match[1][: len(match[1]) // 2] + '"', text)
    return re.sub(r"(['‘’‚‛])\1", r"\1", plain)


def commands_at(reader: Reader, moment: Moment, program: str) -> list[tuple[Seat, str]]:
    """The commands at a moment that nobody has taken and that begin with a program.

    Each with its line (placeholders as ``${name}``). `POWERSHELL` and `REGISTRY` stand for the usual ones.
    """
    found = reader.kept.once(moment, lambda: _by_program(reader, moment)).get(program)
    return [one for one in found if id(one[0].node) not in reader.understood] if found else []


def _by_program(reader: Reader, moment: Moment) -> dict[str, list[tuple[Seat, str]]]:
    found: dict[str, list[tuple[Seat, str]]] = {}
    for item in in_order(reader.seats.find(moment.pass_, moment.component, moment.list_path)):
        line = item.child(moment.line)
        if line is not None and line.value is not None and not isinstance(line.value, SecretRef):
            value = line.value
            text = escape_text(value) if isinstance(value, str) else str(value)
            found.setdefault(ANY, []).append((item, text))
            found.setdefault(text.partition(" ")[0], []).append((item, text))
            if "reg" in text.lower():
                found.setdefault(REGISTRY, []).append((item, text))
    return found


@lru_cache(maxsize=4096)
def registry_form(line: str) -> str:
    """A ``reg add`` command in one spelling, so that ways of writing the same thing compare equal."""
    if "reg" not in line.lower() or line.count('"') % 2:
        return line
    words = re.findall(r'"[^"]*"|\S+', line)
    folded = [word.strip('"').lower() for word in words]
    while folded[:1] in (["cmd"], ["cmd.exe"]) or folded[:1] == ["/c"]:
        folded = folded[1:]
    if folded[:1] == ["reg.exe"]:
        folded[0] = "reg"
    if folded[:2] != ["reg", "add"] or len(folded) < 3:
        return line
    hive, _, rest = folded[2].partition("\\")
    pairs, at = [], 3
    while at < len(folded):
        valued = folded[at] in ("/v", "/t", "/d") and at + 1 < len(folded)
        if not valued and folded[at] != "/f":
            return line  # something else runs as well, or nobody knows what that is
        pairs += [f"{folded[at]} {folded[at + 1]}"] if valued else []
        at += 2 if valued else 1
    pairs.sort()
    pairs = [f"/d {int(pair[3:], 16)}" if re.fullmatch(r"/d 0x[0-9a-f]{1,8}", pair) else pair for pair in pairs]
    return " ".join(["reg add", f"{_HIVES.get(hive, hive)}\\{rest}", *pairs])
