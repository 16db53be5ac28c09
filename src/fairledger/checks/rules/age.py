"""What a release does not have yet, does not honour any more, or wants of its machine."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cache

from fairledger.catalog.seats import Seat
from fairledger.catalog.setting import Setting
from fairledger.catalog.tools import Tool, tools
from fairledger.checks.claims import PRACTICE, WINDOWS_TOOLS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.model.finding import Severity
from fairledger.model.paths import path_ends
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin, Place
from fairledger.model.size import Size
from fairledger.model.target import Target

_SEVEN = '[draft]\ntarget = "windows-7"\nfirmware = "bios"\n'
_WORD = pattern(r"(?<![\w-])[A-Za-z]+(?:-[A-Za-z]+)?(?:\.exe)?(?![\w-])")
_REMARK = pattern(r"^\s*(?:#|rem\b|::).*$", re.MULTILINE | re.IGNORECASE)


@rule(
    "command-not-there",
    Severity.WARNING,
    "A command is called that the release, as it is delivered, does not have: the line fails, often without a word.",
    source=f"{WINDOWS_TOOLS}, and the release notes of the systems",
    fires=_SEVEN + '[[command]]\nbody = "powershell.exe -Command Get-CimInstance Win32_BIOS"\n',
    silent=_SEVEN + '[identity]\npattern = "LMR-{serial}"\n',
)
def command_not_there(view: View) -> Iterator[Hit]:
    """The first such command of each line or script."""
    if view.target is None:
        return
    for seat in view.where(_runs):
        found = _lacking_in(view, seat)
        if found is not None:
            name, why = found
            # the line is told of, not its item: a reader looks for the word
            yield at(seat, f"{view.target.name} has no {name} here: {why}", _hint(seat, view))
    callers: dict[str, Seat] = {}
    beside = [one.name.rpartition("/")[2] for one in view.seats.companions]
    for seat in view.where(_runs) if beside else ():
        if not any(name in (seat.text or "") for name in beside):
            continue
        for end in path_ends(seat.text or ""):
            callers.setdefault(end, seat)
    for one in view.seats.companions:
        called = callers.get(one.name)
        found = _lacking(view.target, str(one.body), called.block.pass_ if called is not None else "")
        if found is not None and called is not None:
            name, why = found
            yield at(called, f"{view.target.name} has no {name}, which {one.name} calls: {why}", _hint(called, view))


def _runs(setting: Setting) -> object:
    return setting.kind == "command" or setting.form == "body"


def _hint(seat: Seat, view: View) -> str:
    by = view.understood.get(id(seat.node), "") or seat.node.origin.by
    return f"leave out of [{by}] what needs it" if by and by != "command" else "call what the release has"


def _lacking_in(view: View, seat: Seat) -> tuple[str, str] | None:
    """The same for a seat; a text that many files have is looked through once."""
    assert view.target is not None
    known: dict[tuple[str, str], tuple[str, str] | None] = view.catalog.kept.setdefault("commands lacking", {})
    key = (seat.text or "", seat.block.pass_)
    if key not in known:
        if len(known) > _MOST_KEPT:
            known.clear()
        known[key] = _lacking(view.target, *key)
    return known[key]


_MOST_KEPT = 2_000


def _lacking(target: Target, text: str, pass_: str) -> tuple[str, str] | None:
    """The first command of a text that is lacking, and why."""
    known = tools()
    if not text or not any(name in text.casefold() for name in _short(target.line)):
        return None
    plain = _REMARK.sub("", text)
    for match in _WORD.finditer(plain):
        one: Tool | None = known.get(match[0].casefold())
        part_of_a_path = plain[: match.start()].endswith(("\\", "/")) and not match[0].casefold().endswith(".exe")
        if one is not None and part_of_a_path:
            continue
        if one is not None and one.lacking(target, pass_):
            return match[0], one.why
    return None


@cache
def _short(line: str) -> tuple[str, ...]:
    """A word of which one stands in every text that calls any of the commands."""
    names = [name for name, one in tools().items() if line in one.lines]
    return tuple(dict.fromkeys(name.partition("-")[0] for name in names))


@rule(
    "bypass-aged",
    Severity.WARNING,
    "A requirement is switched off in a way that this release does not honour any more, or of which nobody knows.",
    source=PRACTICE,
    fires='[draft]\ntarget = "windows-11-25h2"\n[bypass]\nnetwork = true\n',
    silent='[draft]\ntarget = "windows-11-22h2"\n[bypass]\nnetwork = true\n',
)
def bypass_aged(view: View) -> Iterator[Hit]:
    """Ways past a requirement outside the releases for which they are known to work."""
    if view.target is None:
        return
    for section, field, told, gone in view.family.aged(view.intent, view.target):
        severity = None if gone else Severity.ADVICE
        yield Hit(view.intent.placed(section, field), told, "try it before you rely on it", severity)


@rule(
    "machine-below-least",
    Severity.WARNING,
    "The machine has less than the release wants at least: setup refuses it, or the system is of no use on it.",
    source="the vendors' published requirements of each release",
    fires='[draft]\ntarget = "windows-11-24h2"\ndisk_size = "32 GB"\n',
    silent='[draft]\ntarget = "windows-11-24h2"\ndisk_size = "128 GB"\n',
)
def machine_below_least(view: View) -> Iterator[Hit]:
    """Stated disks, memory and firmware against what the vendor publishes, unless that is switched off."""
    target, facts = view.target, view.facts
    if target is None:
        return
    off = view.intent.sections.get("bypass")
    place = Place(origin=Origin(view.subject.file, 1, 1))
    rows = (
        ("storage", facts.disk_mib, target.least_disk_mib, "a disk of"),
        ("memory", facts.memory_mib, target.least_memory_mib, "memory of"),
    )
    for name, has, least, what in rows:
        if has is not None and has < least and not getattr(off, name, False):
            told = f"{target.name} wants {what} {Size(mib=least)} or more, and this machine has {Size(mib=has)}"
            yield Hit(place, told, "take another machine or release")
    kept = target.firmware and facts.firmware is not None and facts.firmware not in target.firmware
    if kept and not getattr(off, "secure_boot", False):
        told = f"{target.name} wants {' or '.join(target.firmware)} firmware, and this machine has {facts.firmware}"
        yield Hit(place, told, "take another machine or release")
