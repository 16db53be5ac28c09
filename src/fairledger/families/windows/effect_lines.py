"""Changes of a machine as command lines, and such lines read again, also as strangers spell them.

A line is written for the prompt: no sign of a value ends the line, its quotes, or the word in which it stands.
"""

from __future__ import annotations

from fairledger.catalog.tidy import Effect
from fairledger.families.windows.later import in_batch, with_log
from fairledger.model.pattern import pattern
from fairledger.model.values import Text, concat, form, formed

LOG = r"%SystemRoot%\Temp\fair-ledger.log"
"""Where what the lines print is added."""
NEW_USERS = r"HKU\fair-ledger"
"""Where the hive of those who come later is laid open."""
ROOTS = {"machine": "HKLM", "new_users": NEW_USERS, "first_user": "HKCU", "sign_in_screen": r"HKU\.DEFAULT"}
LOAD = rf'reg load {NEW_USERS} "%SystemDrive%\Users\Default\NTUSER.DAT"'
UNLOAD = f"reg unload {NEW_USERS}"
RECORD = r"HKLM\SOFTWARE\fair-ledger"
"""Where what was there before is kept."""
TYPES = {"dword": "REG_DWORD", "string": "REG_SZ", "expand": "REG_EXPAND_SZ", "binary": "REG_BINARY"}
_PLAIN = pattern(r"[\w.\\{}:/@,-]+")
_QUIET = pattern(r'[^"%\x00-\x1f\x7f]*')
_CONTROL = pattern("[\x00-\x1f\x7f]")
_REMOVED = ("Get-AppxProvisionedPackage -Online|? DisplayName -in ", "|Remove-AppxProvisionedPackage -Online")
SERVICES = r"SYSTEM\CurrentControlSet\Services"


def word(text: str) -> str:
    """A key, a name or a file in a line; in quotes where it is more than one plain word. They hold no quotes."""
    return text if _PLAIN.fullmatch(text) else f'"{text}"'


AT_PROMPT = "prompt-word"
IN_BATCH = "batch-word"


@form(AT_PROMPT)
def _at_prompt(text: str) -> str:
    """A text as one word. Raises `ValueError` where no line can carry it."""
    if _CONTROL.search(text):
        raise ValueError("it holds a line end or another control character, which no command can carry")
    slashes = len(text) - len(text.rstrip("\\"))
    if _QUIET.fullmatch(text):
        return f'"{text}{slashes * chr(92)}"'
    # the program that is called reads quotes its own way, and the shell before it another: no quote reaches the shell
    inside, run = "", 0
    for sign in text:
        inside += "\\" * run + "\\" if sign == '"' else ""
        inside += sign
        run = run + 1 if sign == "\\" else 0
    whole = f'"{inside}{slashes * chr(92)}"'
    return "".join(f"^{sign}" if sign in '^"%&|<>()!' else sign for sign in whole)


@form(IN_BATCH)
def _in_batch(text: str) -> str:
    return _at_prompt(text).replace("%", "%%")


def line(effect: Effect, *, batch: bool = False) -> Text:
    """The line that brings a change about; in a batch file a text stands otherwise than at the prompt."""
    if effect.kind == "registry":
        return registry(effect, batch=batch)
    if effect.kind == "service":
        return f"sc.exe config {word(effect.service)} start= {effect.start}"
    if effect.kind == "task":
        return f'schtasks.exe /Change /TN "{effect.command}" /{str(effect.data).capitalize()}'
    if effect.kind == "feature":
        verb = str(effect.data).capitalize()
        return f"dism.exe /Online /{verb}-Feature /FeatureName:{effect.command} /NoRestart"
    if effect.kind == "firewall":
        state = "yes" if effect.data == "true" else "no"
        return f'netsh.exe advfirewall firewall set rule group="{effect.key}" new enable={state}'
    return in_batch(effect.command) if batch else effect.command


def registry(effect: Effect, *, batch: bool = False) -> Text:
    """The line that sets a value, or makes a key."""
    key = word(rf"{ROOTS[effect.hive]}\{effect.key}")
    if effect.type == "key":
        return f"reg add {key} /f"
    named = f"/v {word(effect.name)}" if effect.name else "/ve"
    data: Text = str(effect.data) if isinstance(effect.data, int) else effect.data
    if effect.type in ("string", "expand"):
        data = formed(data, IN_BATCH if batch else AT_PROMPT)
    return concat(f"reg add {key} {named} /t {TYPES[effect.type]} /d ", data, " /f")


def without(effect: Effect) -> str:
    """The line that takes a value, or a key that was made, away again."""
    key = word(rf"{ROOTS[effect.hive]}\{effect.key}")
    named = "" if effect.type == "key" else f" /v {word(effect.name)}" if effect.name else " /ve"
    return f"reg delete {key}{named} /f"


def removing(packages: tuple[str, ...]) -> str:
    """The line that takes apps away, for all who come later."""
    names = ",".join(f"'{name}'" for name in packages)
    return f'powershell.exe -NoProfile -Command "{_REMOVED[0]}{names}{_REMOVED[1]}"'


def packed(packages: list[str], most: int) -> list[tuple[str, ...]]:
    """Apps in as few lines as hold them, each within ``most`` characters."""
    rows: list[tuple[str, ...]] = []
    for one in packages:
        longer = (*rows[-1], one) if rows else (one,)
        if rows and len(str(logged(removing(longer)))) <= most:
            rows[-1] = longer
        else:
            rows.append((one,))
    return rows


def logged(bare: Text) -> Text:
    """A line with a shell of its own, whose output is kept."""
    return with_log(bare, LOG, in_shell=False, ends=False)


def recording(name: str, key: str) -> tuple[str, str]:
    """The lines that keep what a key of the machine holds, once: a second run finds the record."""
    record = word(rf"{RECORD}\{name}")
    kept = f"reg query {record} & if errorlevel 1 reg copy {word(rf'HKLM{chr(92)}{key}')} {record} /f"
    return kept, f"reg add {record} /f"


def restoring(name: str, key: str, values: tuple[str, ...]) -> list[str]:
    """The lines of a batch file that put numbers back as they were recorded; what was not there goes."""
    record, there = word(rf"{RECORD}\{name}"), word(rf"HKLM{chr(92)}{key}")
    out = []
    for value in values:
        if value != "Start":  # a service without it is none any more
            out.append(f"reg query {record} >nul 2>&1 && reg delete {there} /v {value} /f")
        found = f"('reg query {record} /v {value}')"
        put = f"reg add {there} /v {value} /t %%a /d %%b /f"
        out.append(f'for /f "tokens=2,3" %%a in {found} do if "%%a"=="REG_DWORD" {put}')
    return [*out, f"reg delete {record} /f"]
