"""Commands at named moments in the words of Windows setup.

A single line is a command line as it stands; what has several lines, an interpreter, or is too long for its place
becomes a companion script on the medium, which is looked for on every drive: no value has to survive any quoting. What
runs when the medium may be gone is copied to the system's own drive before.
"""

from __future__ import annotations

from typing import Any

from fairledger.catalog.seats import Seat
from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.quoting import quoted_for
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
    kept_path,
    launched,
    launcher,
)
from fairledger.families.windows.later import (
    EACH_ACCOUNT,
    FIRST_START,
    dressed,
    from_batch,
    hidden,
    in_batch,
    is_log,
    log_of,
    note,
    noted,
    number_in,
    shown,
    values_doubled,
    with_log,
)
from fairledger.intent.command import POSSIBLE, Command
from fairledger.model.places import Origin
from fairledger.model.sheet import Branch, Companion
from fairledger.model.values import SecretRef, Template, Text, concat, parse_text

_SETUP_STARTS = ("setup-starts", "setup")
_INSTALLED = ("installed", "system")
_FIRST_START = ("first-start", "system")
_FIRST_ACCOUNT = ("sign-in", "first-account")
_EACH_ACCOUNT = ("sign-in", "each-account")
MOMENTS = {
    _SETUP_STARTS: IN_SETUP,
    _INSTALLED: AS_SYSTEM,
    _FIRST_START: AS_SYSTEM,
    _EACH_ACCOUNT: AS_SYSTEM,
    _FIRST_ACCOUNT: FIRST_SIGN_IN,
}
"""Where the command that brings it about stands. What runs later is noted down by the system before the first start."""
_NOTED = {_FIRST_START: FIRST_START, _EACH_ACCOUNT: EACH_ACCOUNT}
_KEPT = (_FIRST_START, _EACH_ACCOUNT, _FIRST_ACCOUNT)
"""Moments at which the medium may be gone."""
_LONGEST = {IN_SETUP: 259, AS_SYSTEM: 259, FIRST_SIGN_IN: 1024}
_NUMBER = 99
"""Of a companion or a note, as long as it may become: what fits must not depend on what else is there."""
_CALLS = {"cmd": ("cmd", "call "), "powershell": ("ps1", "powershell.exe -NoProfile -ExecutionPolicy Bypass -File ")}
_QUIET = "powershell.exe -w Hidden -ep Bypass -File "
_SHORT = {"cmd": "cmd.exe /c call ", "powershell": "powershell.exe -NoProfile -ep Bypass -File "}
_HEADS = {"cmd": "@chcp 65001 >nul\n", "powershell": ""}
_KNOWN = {"Order", "Description", "WillReboot", "Path", "CommandLine"}


def _body(one: Command) -> Text:
    body = parse_text(one.body) if one.fill else one.body
    if not isinstance(body, Template):
        return body
    several = "cmd" if "\n" in one.body.strip("\n") else "line"
    return quoted_for(body, one.interpreter if one.interpreter in _CALLS else several)


def _interpreter(one: Command) -> str:
    """What runs it as a companion; empty where the line stands by itself."""
    if isinstance(one.interpreter, str) and one.interpreter in _CALLS:
        return one.interpreter
    return "cmd" if "\n" in one.body.strip("\n") or not _fits(one, "") else ""


def _fits(one: Command, interpreter: str) -> bool:
    """Whether its place holds the line that brings it about."""
    if one.moment not in MOMENTS:
        return True
    if one.moment not in _NOTED and not (interpreter or one.log or one.hidden):
        return len(one.body) <= _LONGEST[MOMENTS[one.moment]]
    body = _body(one)
    plain = isinstance(body, str) and body.isascii()  # a batch file that others add to is in no known encoding
    if not interpreter and one.moment == _FIRST_START and not plain:
        return False
    name = f"{FOLDER}/{_NUMBER}-{one.when}.{_CALLS[interpreter][0]}" if interpreter else ""
    lines = [_line(one, interpreter, name, _NUMBER, kept=kept) for kept in (False, True)]
    return max(len(str(line)) for line in lines) <= _LONGEST[MOMENTS[one.moment]]


def _why_not(one: Command) -> tuple[str, str, str]:
    """The field that makes it impossible, what cannot be, and what to do instead; nothing where it is possible."""
    if one.moment not in MOMENTS:
        return "when", f"a command {_named(one)}", "setup runs no commands then as that; choose another moment"
    if one.interpreter is not None and one.interpreter not in _CALLS:
        told = f"the interpreter {one.interpreter}"
        return "interpreter", told, 'it runs cmd and powershell; write interpreter = "powershell"'
    if one.log is not None and not is_log(one.log):
        return "log", "this name of a log", "it must stand in a command line; write a plain path"
    if one.hidden and one.moment == _SETUP_STARTS:
        return "hidden", f"a hidden command {_named(one)}", "what hides windows is not there yet; leave it out"
    if one.hidden and one.moment == _EACH_ACCOUNT and (_interpreter(one) != "powershell" or one.log is not None):
        told = f"a hidden command {_named(one)}"
        return "hidden", told, 'only a script without a log can hide; write interpreter = "powershell"'
    if one.body.strip() and not _fits(one, _interpreter(one)):
        return "body", f"so long a line {_named(one)}", "its place holds less; shorten the log's name, or leave it out"
    return "", "", ""


def _named(one: Command) -> str:
    return f"at {one.when} as {one.moment[1]}"


def _line(one: Command, interpreter: str, name: str, number: int, *, kept: bool) -> Text:
    """The command line that brings a command about; ``name`` is that of its script.

    Once scripts are ``kept`` on the system's drive they would be found on two, and run twice.
    """
    line: Text = _body(one)
    unseen = one.hidden and one.moment != _FIRST_START
    if interpreter and one.moment in _NOTED:
        line = (_QUIET if unseen else _SHORT[interpreter]) + kept_path(name)
        unseen = False
    elif interpreter and unseen:
        line = _CALLS[interpreter][1].replace("ExecutionPolicy", "ep") + kept_path(name)
    elif interpreter:
        there = kept and one.moment != _SETUP_STARTS
        line = (kept_launcher if there else launcher)(name, _CALLS[interpreter][1])
    if one.log is not None:
        line = with_log(line, str(one.log), in_shell=unseen, ends=bool(interpreter) and one.moment not in _NOTED)
    if unseen:
        line = hidden(line)
    if one.moment == _FIRST_START:
        line = in_batch(line, called=True)
    return note(_NOTED[one.moment], line, number) if one.moment in _NOTED else line


def _kept(one: Command) -> bool:
    """Whether its script has to be copied to the system's drive."""
    return bool(_interpreter(one)) and (one.moment in _KEPT or (one.hidden and one.moment == _INSTALLED))


def _possible(one: Command) -> bool:
    return bool(one.body.strip()) and not _why_not(one)[0]


def canonical(value: tuple[Command, ...], words: Words) -> tuple[Command, ...] | None:  # noqa: ARG001
    """Without names; in the order of the moments."""
    kept = [_canonical_one(one) for one in _sorted(value) if _possible(one)]
    return tuple(kept) or None


def _sorted(value: tuple[Command, ...]) -> list[Command]:
    order = list(MOMENTS)
    return sorted(value, key=lambda one: order.index(one.moment) if one.moment in order else len(order))


def _canonical_one(one: Command) -> Command:
    body = _script(one) if _interpreter(one) else _body(one)
    if one.moment == _FIRST_START and isinstance(body, str) and not _interpreter(one):
        body = from_batch(in_batch(body, called=True)) or body
    return Command(
        when=one.when,
        run_as=one.unusual,  # type: ignore[arg-type]
        body=str(body) if isinstance(body, Template) else body,
        interpreter=_interpreter(one) or None,
        about=one.about or None,
        restart=one.restart and one.moment == _INSTALLED,
        log=one.log,
        hidden=one.hidden and one.moment != _FIRST_START,
        fill=isinstance(body, Template),
    )


def _script(one: Command) -> Text:
    """The text of a companion: a line from the prompt becomes one of a batch file."""
    body = _body(one)
    return in_batch(body) if one.interpreter is None and "\n" not in one.body.strip("\n") else body


def translate(value: tuple[Command, ...], words: Words) -> None:
    """A command for each, and a companion where the command line is not enough."""
    places = {id(one): at for at, one in enumerate(value)}
    kept = next((one for one in value if _possible(one) and _kept(one)), None)
    if kept is not None:
        origin = words.origin("command", places[id(kept)])
        add_command(words, AS_SYSTEM, keeping(), "Keeps the scripts for later", origin)
    for one in _sorted(value):
        path = ("command", places[id(one)])
        words.leave_out(path, one, ("stop_on_error",), "setup has nothing of the kind")
        if not _possible(one):
            _tell(one, path, words)
            continue
        if one.restart and one.moment != _INSTALLED:
            words.leave_out(path, one, ("restart",), "only commands before the first start can restart the machine")
        if one.hidden and one.moment == _FIRST_START:
            words.told.append((*path, "hidden"))  # nobody sees them anyway
        origin = words.origin(*path)
        interpreter, name = _interpreter(one), ""
        if interpreter:
            name = f"{FOLDER}/{len(words.out.companions) + 1}-{one.when}.{_CALLS[interpreter][0]}"
            body = values_doubled(_script(one)) if interpreter == "cmd" else _script(one)
            words.out.companions.append(Companion(name, concat(_HEADS[interpreter], body), words.origin(*path, "body")))
        line = _line(one, interpreter, name, _count(words, one.moment), kept=kept is not None)
        _put(one, line, origin, words)


def _tell(one: Command, path: tuple[str | int, ...], words: Words) -> None:
    """Says why a command is not possible."""
    words.told.append(path)
    field, what, told = _why_not(one)
    if field:
        why, _, instead = told.partition("; ")
        words.cannot((*path, field), what, why, instead)


def _count(words: Words, when: tuple[str, str]) -> int:
    """How many commands are noted down for later already: their names must differ."""
    moment = MOMENTS[when]
    block = words.out.block(moment.pass_, moment.component, Origin())
    there: Branch | None = block
    for name in moment.list_path.split("/")[:-1]:
        there = next((child for child in there.children if child.name == name), None) if there else None
    return len(there.children) + 1 if there is not None else 1


def _put(one: Command, line: Text, origin: Origin, words: Words) -> None:
    moment = MOMENTS[one.moment]
    item = words.out.block(moment.pass_, moment.component, origin).add(moment.list_path, origin)
    item.put(moment.line, line, origin)
    if one.about:
        item.put("Description", one.about, origin)
    if one.restart and one.moment == _INSTALLED:
        item.put("WillReboot", "Always", origin)
    if one.moment == _SETUP_STARTS:
        above = words.out.block(moment.pass_, moment.component, origin).child(moment.list_path.split("/")[0], origin)
        above.children.sort(key=_lays_out)


def _lays_out(item: Branch) -> bool:
    """Whether a command calls a script for the disk tool, which other commands come before."""
    line = next((child.value for child in item.children if child.name == IN_SETUP.line), None)
    return launched(line).endswith(".txt")


def recognise(reader: Reader) -> tuple[Command, ...] | None:
    """Every command that no other section knows as its own."""
    found: list[Command] = []
    copies = [one for one, line in commands_at(reader, AS_SYSTEM, "cmd.exe") if line == keeping()]
    for when in (_SETUP_STARTS, _INSTALLED, _FIRST_ACCOUNT):
        moment = MOMENTS[when]
        for item in reader.find(moment.pass_, moment.component, moment.list_path):
            made = _recognise_one(reader, item, moment, when, kept=bool(copies))
            if made is not None:
                reader.take(item, "command", len(found), whole=True)
                found.append(made)
    for item in copies[:1] if any(_kept(one) for one in found) else ():
        reader.take(item, "command", whole=True)
    order = list(MOMENTS)
    return tuple(sorted(found, key=lambda one: order.index(one.moment))) or None


def _recognise_one(reader: Reader, item: Seat, moment: Moment, when: tuple[str, str], *, kept: bool) -> Command | None:
    parts = {child.name: child for child in item.children}
    line, restart = parts.get(moment.line), parts.get("WillReboot")
    if line is None or not line.value or isinstance(line.value, SecretRef) or not parts.keys() <= _KNOWN:
        return None
    value: Text = line.value
    if (restart is not None and restart.text != "Always") or value == keeping():
        return None
    fields: dict[str, Any] = {"about": text_of(parts.get("Description")), "restart": restart is not None}
    return _ours(reader, value, when, fields, kept=kept) or _command(when, value, fields)


def _ours(reader: Reader, value: Text, when: tuple[str, str], fields: dict[str, Any], *, kept: bool) -> Command | None:
    """The command that a line brings about as we would write it: a script, for later, with a log, without a window."""
    if not dressed(value):
        return None
    later = noted(value) if when == _INSTALLED else None
    bare = value
    if later is not None:
        when = next(one for one, kind in _NOTED.items() if kind == later[0])
        bare = later[1]
        if when == _FIRST_START:
            told = from_batch(bare)
            if told is None:
                return None
            bare = told
    text = bare if isinstance(bare, str) else str(bare)
    seen = shown(text)
    named = launched(text if seen is None else seen)
    unlogged, log = log_of(text, in_shell=False) if seen is None else log_of(seen, in_shell=True)
    name = named or launched(unlogged)
    rest: Text = unlogged if log or seen is not None else bare
    if log and seen is None and not name:
        rest = unlogged.removeprefix('cmd.exe /c "').removesuffix('"')
    unseen = seen is not None or text.startswith(_QUIET)
    made = {**fields, "log": log or None, "hidden": unseen}
    if name:
        there = next((one for one in reader.seats.companions if one.name == name), None)
        if there is None or isinstance(there.body, SecretRef) or not name.endswith((".ps1", ".cmd")):
            return None
        made["interpreter"] = "powershell" if name.endswith(".ps1") else "cmd"
        rest = _headless(there.body, _HEADS[made["interpreter"]])
    elif isinstance(rest, str) and isinstance(bare, Template):
        rest = parse_text(rest)
    one = _command(when, rest, made)
    number = number_in(value)
    # what only looks like ours would be written otherwise
    return one if str(_line(one, made.get("interpreter", ""), name, number, kept=kept)) == str(value) else None


def _command(when: tuple[str, str], value: Text, fields: dict[str, Any]) -> Command:
    run_as = when[1] if when[1] != POSSIBLE[when[0]][0] else None
    body = str(value)
    return Command(when=when[0], run_as=run_as, body=body, fill=isinstance(value, Template), **fields)  # type: ignore[arg-type]


def _headless(body: Text, head: str) -> Text:
    if isinstance(body, Template):
        first = body.parts[0]
        rest = first.removeprefix(head) if isinstance(first, str) else first
        return Template((*((rest,) if rest else ()), *body.parts[1:]))
    return body.removeprefix(head)
