"""Choices found again in settings, commands and the script that `tidy` writes."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.seats import Seat
from fairledger.catalog.targets import all_targets
from fairledger.catalog.tidy import Effect, all_choices, of_change
from fairledger.families.interface import Reader
from fairledger.families.windows.command_lines import ANY, AS_SYSTEM, FIRST_SIGN_IN, commands_at, launched
from fairledger.families.windows.effect_lines import AT_PROMPT, IN_BATCH, LOG, logged
from fairledger.families.windows.effect_reading import closed, loaded, read
from fairledger.families.windows.tidy_job import Took, recordings, rows_of
from fairledger.families.windows.tidy_match import Effects
from fairledger.families.windows.tidy_script import NAME, body
from fairledger.families.windows.tidy_sections import jobs_of, names_of_choices, of
from fairledger.intent.intent import Intent
from fairledger.model.target import Target
from fairledger.model.values import Formed, Template, Text

FIREWALL = ("specialize", "Networking-MPSSVC-Svc", "FirewallGroups/FirewallGroup")
"""Where groups of the firewall's rules stand."""
_OPEN = "\ue000"
"""What stands for a value that is still open."""


class Held(Struct, frozen=True):
    """What a file holds of choices."""

    values: dict[str, Any] = {}
    took: dict[str, list[Took]] = {}
    seats: dict[int, Seat] = {}
    """What brings a change about, by the identity of that."""
    lines: dict[str, Seat] = {}
    """Commands of the system that nobody else knows, by their text."""
    opening: tuple[Seat, ...] = ()
    """Commands that lay the hive of later users open, or close it; none where others need them."""


def held(reader: Reader) -> Held:
    """What a file holds, worked out once."""
    return reader.kept.once("tidy", lambda: _held(reader))


def taken(reader: Reader, section: str) -> Any:
    """What a section finds in a file; what says it is taken."""
    there = held(reader)
    for one in there.took.get(section, ()):
        for effect in one.effects:
            reader.take(there.seats[id(effect)], *one.path, whole=True)
            if effect.hive == "new_users":
                for seat in there.opening:
                    reader.take(seat, *one.path, whole=True)
        for line in recordings(one.effects, one.record):
            reader.take(there.lines.get(str(logged(line))), *one.path, whole=True)
    return there.values.get(section)


class _Gathered:
    """The changes of a file, with what brings them about."""

    def __init__(self) -> None:
        self.found: Effects = {}
        self.seats: dict[int, Seat] = {}

    def add(self, made: Iterable[Effect], seat: Seat) -> None:
        for one in made:
            own = replace(one)  # identities are asked for: no two are one
            self.found.setdefault(own.seat, []).append(own)
            self.seats[id(own)] = seat


def _held(reader: Reader) -> Held:
    rows = commands_at(reader, AS_SYSTEM, ANY)
    script = next((item for item, line in rows if launched(line) == NAME), None)
    made = _look(reader, rows, script)
    if script is not None and not _is_ours(reader, made, script):
        made = _look(reader, rows, None)
    return made


def _look(reader: Reader, rows: list[tuple[Seat, str]], script: Seat | None) -> Held:
    all_of_it = _Gathered()
    opened: frozenset[str] = frozenset()
    opening: list[Seat] = []
    inside: list[Seat] = []
    for item, line in rows:
        now = turned(line, opened)
        if item is script:
            all_of_it.add(_in_script(reader), item)
        elif now != opened:
            opened = now
            opening.append(item)
        else:
            made = _read(item, AS_SYSTEM.line, opened)
            all_of_it.add((one for one in made if one.when == "installed"), item)
            inside += [item] if any(place in line.lower() for place in opened) else []
    for item, _ in commands_at(reader, FIRST_SIGN_IN, ANY):
        made = _read(item, FIRST_SIGN_IN.line, opened)
        all_of_it.add((one for one in made if one.when == "sign-in"), item)
    _add_settings(reader, all_of_it)
    values, took = found_in(all_of_it.found, reader.target or newest())
    used = {id(all_of_it.seats[id(one)].node) for rows_ in took.values() for row in rows_ for one in row.effects}
    alone = all(id(item.node) in used for item in inside)
    lines: dict[str, Seat] = {}
    for item, line in rows:
        lines.setdefault(line, item)
    return Held(values, took, all_of_it.seats, lines, tuple(opening) if alone else ())


def found_in(found: Effects, target: Target) -> tuple[dict[str, Any], dict[str, list[Took]]]:
    """The sections that changes come to, and which of them say what."""
    values, took = {}, {}
    for name in names_of_choices() if found else ():
        value, rows = of(name).found(found, target)
        if value is not None:
            values[name], took[name] = value, rows
    return values, took


def turned(line: str, opened: frozenset[str]) -> frozenset[str]:
    """The hives of later users that are open behind a line."""
    lower = line.lower()
    if "ntuser.dat" in lower and (place := loaded(line)):
        return opened | {place}
    return opened - {closed(line)} if opened and "unload" in lower else opened


def _is_ours(reader: Reader, made: Held, script: Seat) -> bool:
    """Whether the script is just what the choices that it makes would be written as."""
    target = reader.target or newest()
    there = next((one for one in reader.seats.companions if one.name == NAME), None)
    took = [row for rows in made.took.values() for row in rows]
    by_script = {row.path for row in took if any(made.seats[id(one)] is script for one in row.effects)}
    jobs = [job for job in jobs_of(Intent(made.values), target) if job.path in by_script]
    rows = rows_of(jobs)
    alone = not any(job.fits("installed", single=False) for job in jobs)
    if there is None or not rows or not alone:
        return False
    # as it was written, it ends with a line end
    held = there.body.rstrip("\n") if isinstance(there.body, str) else there.body
    return body(rows) == held


def _add_settings(reader: Reader, out: _Gathered) -> None:
    for key in _settings():
        pass_, _, rest = key.partition(":")
        component, _, path = rest.partition("/")
        seat = reader.first(pass_, component, path)
        if seat is not None and seat.text is not None:
            out.add([Effect(kind="setting", key=key, data=seat.text.strip())], seat)
    for item in reader.find(*FIREWALL):
        texts = {child.name: child.text for child in item.children if not child.name.startswith("@")}
        if texts.keys() == {"Active", "Group", "Profile"} and texts["Profile"] == "all" and None not in texts.values():
            out.add([Effect(kind="firewall", key=str(texts["Group"]), data=str(texts["Active"]))], item)


def _read(item: Seat, setting: str, opened: frozenset[str]) -> tuple[Effect, ...]:
    line = item.child(setting)
    if line is None or not isinstance(line.value, str | Template):
        return ()
    if {one.name for one in item.children} - {setting, "Order", "Description"}:
        return ()
    made = spoken(line.value, opened)
    # the section of features writes such a line too, and without a log
    return made if LOG in str(line.value) else tuple(one for one in made if one.kind != "feature")


@cache
def _own_lines() -> dict[str, Effect]:
    """The commands of choices that no form describes, by their lines."""
    runs = [change for _, _, one in all_choices() for change in one.does if change.run]
    made = [effect for change in runs for value in change.run for effect in of_change(change, value)]
    plain = [one for one in made if not read(one.command)]
    return {line: one for one in plain for line in (one.command, str(logged(one.command)))}


def spoken(line: Text, opened: frozenset[str] = frozenset(), *, batch: bool = False) -> tuple[Effect, ...]:
    """What a line changes; a text that is still open is one of its values."""
    if isinstance(line, str):
        known = _own_lines().get(line)
        return (known,) if known is not None else read(line, opened, batch=batch)
    opens = [part for part in line.parts if not isinstance(part, str)]
    one = opens[0]
    if len(opens) != 1 or not isinstance(one, Formed) or one.forms[-1] != (IN_BATCH if batch else AT_PROMPT):
        return ()
    shown = "".join(part if isinstance(part, str) else _OPEN for part in line.parts)
    value = Template((Formed(one.parts, one.forms[:-1]),) if one.forms[:-1] else one.parts)
    made = read(shown, opened, batch=batch)
    return tuple(replace(effect, data=value) if effect.data == _OPEN else effect for effect in made)


def _in_script(reader: Reader) -> list[Effect]:
    """What our own script changes."""
    there = next((one for one in reader.seats.companions if one.name == NAME), None)
    if there is None or not isinstance(there.body, str | Template):
        return []
    ours = ' >>"%log%" 2>&1'
    out: list[Effect] = []
    opened: frozenset[str] = frozenset()
    for line in lines_of(there.body):
        if str(line).endswith(ours):
            bare = _shorn(line, ours)
            opened = turned(str(bare), opened)
            out += spoken(bare, opened, batch=True)
    return out


def _shorn(line: Text, tail: str) -> Text:
    if isinstance(line, str):
        return line.removesuffix(tail)
    last = line.parts[-1]
    return Template((*line.parts[:-1], last.removesuffix(tail))) if isinstance(last, str) else line


def lines_of(text: Text) -> list[Text]:
    """The lines of a script, placeholders kept."""
    rows: list[list[Any]] = [[]]
    for part in (text,) if isinstance(text, str) else text.parts:
        if not isinstance(part, str):
            rows[-1].append(part)
            continue
        first, *more = part.replace("\r\n", "\n").split("\n")
        rows[-1].append(first)
        rows += [[one] for one in more]
    plain_rows = [(row, all(isinstance(one, str) for one in row)) for row in rows]
    return ["".join(row) if whole else Template(tuple(one for one in row if one != "")) for row, whole in plain_rows]


@cache
def _settings() -> tuple[str, ...]:
    return tuple(dict.fromkeys(change.setting for _, _, one in all_choices() for change in one.does if change.setting))


@cache
def newest() -> Target:
    """The release for which a file of unknown release is read."""
    return [one for one in all_targets() if one.family == "windows" and one.sure and one.line == "client"][-1]
