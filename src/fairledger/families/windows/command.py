"""Commands at named moments in the words of Windows setup.

A single line is a command line as it stands; what has several lines, an interpreter, or is too long for its place
becomes a companion script on the medium, which is looked for on every drive: no value has to survive any quoting.
"""

from __future__ import annotations

import re
from typing import Any

from fairledger.catalog.seats import Seat
from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import (
    AS_SYSTEM,
    FIRST_SIGN_IN,
    FOLDER,
    IN_SETUP,
    Moment,
    add_command,
    commands_at,
    keeping,
    kept_launcher,
    launched,
    launcher,
    powershell,
    unquoted,
)
from fairledger.intent.command import POSSIBLE, Command
from fairledger.model.places import Origin
from fairledger.model.sheet import Branch, Companion
from fairledger.model.values import SecretRef, Template, Text, concat, escape_text, parse_text

SETUP_STARTS = ("setup-starts", "setup")
INSTALLED = ("installed", "system")
FIRST_START = ("first-start", "system")
FIRST_ACCOUNT = ("sign-in", "first-account")
EACH_ACCOUNT = ("sign-in", "each-account")
MOMENTS = {
    SETUP_STARTS: IN_SETUP,
    INSTALLED: AS_SYSTEM,
    FIRST_START: AS_SYSTEM,
    EACH_ACCOUNT: AS_SYSTEM,
    FIRST_ACCOUNT: FIRST_SIGN_IN,
}
"""Where the command that brings it about stands. What runs later is noted down by the system before the first start."""

_COMPLETE = r"$env:windir\Setup\Scripts"
_EACH_NEW = r"HKLM:\SOFTWARE\Microsoft\Active Setup\Installed Components\fair-ledger"
_NOTED = {
    FIRST_START: (
        rf"mkdir -Force {_COMPLETE}; Add-Content {_COMPLETE}\SetupComplete.cmd -Encoding Oem ",
        "",
    ),
    EACH_ACCOUNT: (f"New-Item -Force '{_EACH_NEW}-{{0}}' | Set-ItemProperty -Name StubPath -Value ", ""),
}
"""What notes a command line down for later: a script that setup runs at its end, a command for each new account."""

_LONGEST = {SETUP_STARTS: 259, INSTALLED: 259, FIRST_START: 110, EACH_ACCOUNT: 80, FIRST_ACCOUNT: 1024}
_CALLS = {"cmd": ("cmd", "call "), "powershell": ("ps1", "powershell.exe -NoProfile -ExecutionPolicy Bypass -File ")}
_HEADS = {"cmd": "@chcp 65001 >nul\n", "powershell": ""}
_KNOWN = {"Order", "Description", "WillReboot", "Path", "CommandLine"}


def _body(one: Command) -> Text:
    return parse_text(one.body) if one.fill else one.body


def _interpreter(one: Command) -> str:
    """What runs it as a companion; empty where the line stands by itself."""
    if isinstance(one.interpreter, str) and one.interpreter in _CALLS:
        return one.interpreter
    return "cmd" if "\n" in one.body.strip("\n") or len(one.body) > _LONGEST.get(one.moment, 259) else ""


def _possible(one: Command) -> bool:
    late = one.moment in _NOTED and bool(_interpreter(one))
    foreign = one.interpreter is not None and one.interpreter not in _CALLS
    return one.moment in MOMENTS and bool(one.body.strip()) and not late and not foreign


def canonical(value: tuple[Command, ...], words: Words) -> tuple[Command, ...] | None:  # noqa: ARG001
    """Without names; in the order of the moments."""
    kept = [_canonical_one(one) for one in _sorted(value) if _possible(one)]
    return tuple(kept) or None


def _sorted(value: tuple[Command, ...]) -> list[Command]:
    order = list(MOMENTS)
    return sorted(value, key=lambda one: order.index(one.moment) if one.moment in order else len(order))


def _canonical_one(one: Command) -> Command:
    body = _body(one)
    return Command(
        when=one.when,
        run_as=one.unusual,  # type: ignore[arg-type]
        body=str(body) if isinstance(body, Template) else body,
        interpreter=_interpreter(one) or None,
        about=one.about or None,
        restart=one.restart and one.moment == INSTALLED,
        fill=isinstance(body, Template),
    )


def translate(value: tuple[Command, ...], words: Words) -> None:
    """A command for each, and a companion where the command line is not enough."""
    places = {id(one): at for at, one in enumerate(value)}
    late = next((one for one in value if one.moment == FIRST_ACCOUNT and _possible(one) and _interpreter(one)), None)
    if late is not None:  # the medium may be gone when somebody signs in
        origin = words.origin("command", places[id(late)])
        add_command(words, AS_SYSTEM, keeping(), "Keeps the scripts for the first sign-in", origin)
    for one in _sorted(value):
        path = ("command", places[id(one)])
        words.leave_out(path, one, ("log", "stop_on_error"), "setup has nothing of the kind")
        if not _possible(one):
            _tell(one, path, words)
            continue
        if one.restart and one.moment != INSTALLED:
            words.leave_out(path, one, ("restart",), "only commands before the first start can restart the machine")
        origin = words.origin(*path)
        line: Text = _body(one)
        interpreter = _interpreter(one)
        if interpreter:
            name = f"{FOLDER}/{len(words.out.companions) + 1}-{one.when}.{_CALLS[interpreter][0]}"
            words.out.companions.append(Companion(name, concat(_HEADS[interpreter], line), words.origin(*path, "body")))
            # once copied, a script would be found on two drives
            launch = kept_launcher if one.moment == FIRST_ACCOUNT else launcher
            line = launch(name, _CALLS[interpreter][1])
        if one.moment in _NOTED:
            before, after = _NOTED[one.moment]
            line = powershell(before.format(_count(words, one.moment)), line, after)
        _put(one, line, origin, words)


def _count(words: Words, when: tuple[str, str]) -> int:
    """How many commands are noted down for later already: their names must differ."""
    moment = MOMENTS[when]
    block = words.out.block(moment.pass_, moment.component, Origin())
    there: Branch | None = block
    for name in moment.list_path.split("/")[:-1]:
        there = next((child for child in there.children if child.name == name), None) if there else None
    return len(there.children) + 1 if there is not None else 1


def _tell(one: Command, path: tuple[str | int, ...], words: Words) -> None:
    """Says why a command is not possible."""
    words.told.append(path)
    if one.moment not in MOMENTS:
        why = "setup runs no commands then as that"
        words.cannot((*path, "when"), f"a command {_named(one)}", why, "choose another moment")
    elif one.interpreter is not None and one.interpreter not in _CALLS:
        told = f"the interpreter {one.interpreter}"
        words.cannot((*path, "interpreter"), told, "it runs cmd and powershell", 'write interpreter = "powershell"')
    elif one.body.strip():
        why = "the medium may be gone by then"
        hint = "write one short line, or let a command at installed copy the script to the disk"
        words.cannot((*path, "body"), f"a script or a long line {_named(one)}", why, hint)


def _named(one: Command) -> str:
    return f"at {one.when} as {one.moment[1]}"


def _put(one: Command, line: Text, origin: Origin, words: Words) -> None:
    moment = MOMENTS[one.moment]
    item = words.out.block(moment.pass_, moment.component, origin).add(moment.list_path, origin)
    item.put(moment.line, line, origin)
    if one.about:
        item.put("Description", one.about, origin)
    if one.restart and one.moment == INSTALLED:
        item.put("WillReboot", "Always", origin)
    if one.moment == SETUP_STARTS:
        above = words.out.block(moment.pass_, moment.component, origin).child(moment.list_path.split("/")[0], origin)
        above.children.sort(key=_lays_out)


def _lays_out(item: Branch) -> bool:
    """Whether a command calls a script for the disk tool, which other commands come before."""
    line = next((child.value for child in item.children if child.name == IN_SETUP.line), None)
    return launched(line).endswith(".txt")


def recognise(reader: Reader) -> tuple[Command, ...] | None:
    """Every command that no other section knows as its own."""
    found: list[Command] = []
    late = reader.find(FIRST_SIGN_IN.pass_, FIRST_SIGN_IN.component, FIRST_SIGN_IN.list_path)
    if any(launched(one.says(FIRST_SIGN_IN.line)) for one in late):
        for item, _ in commands_at(reader, AS_SYSTEM, "cmd.exe"):
            if item.says(AS_SYSTEM.line) == keeping():
                reader.take(item, "command", whole=True)
    for when in (SETUP_STARTS, INSTALLED, FIRST_ACCOUNT):
        moment = MOMENTS[when]
        for item in reader.find(moment.pass_, moment.component, moment.list_path):
            made = _recognise_one(reader, item, moment, when)
            if made is not None:
                reader.take(item, "command", len(found), whole=True)
                found.append(made)
    order = list(MOMENTS)
    return tuple(sorted(found, key=lambda one: order.index(one.moment))) or None


def _recognise_one(reader: Reader, item: Seat, moment: Moment, when: tuple[str, str]) -> Command | None:
    parts = {child.name: child for child in item.children}
    line, restart = parts.get(moment.line), parts.get("WillReboot")
    if line is None or not line.value or isinstance(line.value, SecretRef) or not parts.keys() <= _KNOWN:
        return None
    if restart is not None and restart.text != "Always":
        return None
    value: Text = line.value
    for later, (before, after) in _NOTED.items() if when == INSTALLED else ():
        noted = _noted(value, before, after)
        if noted is not None:
            when, value = later, noted
            break
    fields: dict[str, Any] = {"about": text_of(parts.get("Description")), "restart": restart is not None}
    name = launched(value)
    if name:
        there = next((one for one in reader.seats.companions if one.name == name), None)
        if there is None or isinstance(there.body, SecretRef) or not name.endswith((".ps1", ".cmd")):
            return None
        fields["interpreter"] = "powershell" if name.endswith(".ps1") else "cmd"
        value = _headless(there.body, _HEADS[fields["interpreter"]])
    filled = isinstance(value, Template)
    fields["run_as"] = when[1] if when[1] != POSSIBLE[when[0]][0] else None
    return Command(when=when[0], body=str(value), fill=filled, **fields)  # type: ignore[arg-type]


def _headless(body: Text, head: str) -> Text:
    if isinstance(body, Template):
        first = body.parts[0]
        rest = first.removeprefix(head) if isinstance(first, str) else first
        return Template((*((rest,) if rest else ()), *body.parts[1:]))
    return body.removeprefix(head)


def _noted(value: Text, before: str, after: str) -> Text | None:
    """The command line that is noted down by another one; None if it is none of that kind."""
    if not (value if isinstance(value, str) else str(value)).startswith("powershell.exe"):
        return None
    text = escape_text(value) if isinstance(value, str) else str(value)
    form = re.escape(str(powershell(before.replace("{0}", "\1"), "\0", after))).replace("\1", r"\d+")
    start, _, end = form.partition("\0")
    match = re.fullmatch(f"{start}(.*){end}", text, re.DOTALL)
    return parse_text(unquoted(match[1])) if match else None
