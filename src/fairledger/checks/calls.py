"""Every command of a file: those of the portable section, and those that only direct answers can hold."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache

from fairledger.catalog.passes import passes_of
from fairledger.catalog.setting import Setting
from fairledger.catalog.uses import OfAccount, uses
from fairledger.checks.programs import CMD, LINE, POWERSHELL, SH, Call, calls_in
from fairledger.checks.view import View
from fairledger.intent.command import COMMAND, Command
from fairledger.model.pattern import pattern
from fairledger.model.places import Placed

_WORDS = pattern(r"[\w.-]+|&")
_PLAIN = pattern(r"[^*?\[]+\Z")
_BESIDE = (
    "remove-appxprovisionedpackage",
    "remove-appxpackage",
    "get-appxpackage",
    "get-appxprovisionedpackage",
    "netsh",
    "enable-netfirewallrule",
    "set-netfirewallrule",
    "new-netfirewallrule",
    "set-netfirewallprofile",
    "net",
    "net1",
    "reg",
)
"""Programs that rules ask for beside the table."""


def commands_of(view: View) -> list[tuple[Placed, Command]]:
    """The commands with where they stand. What another section brings or has recognised is not among them."""

    def listed() -> list[tuple[Placed, Command]]:
        found: list[tuple[Placed, Command]] = [
            (view.intent.placed("command", at), one) for at, one in view.each(COMMAND)
        ]
        moments = {one.name: one.commands for one in passes_of(view.family.name)}
        for seat in view.where(_is_line):
            when = moments.get(seat.block.pass_, "")
            if when and seat.text and seat.parent is not None and id(seat.node) not in view.understood:
                found.append((seat.parent, Command(when=when, body=seat.text)))  # type: ignore[arg-type]
        return found

    return view.kept.once("commands", listed)


def _is_line(setting: Setting) -> object:
    return setting.kind == "command"


_Beside = tuple[frozenset[str], tuple[str, ...]]


@cache
def _wanted() -> dict[str, frozenset[_Beside]]:
    """The programs of which some rule speaks, with words that must all be there too, and words of which one must.

    A text that shows none of this need not be read further.
    """
    always: _Beside = (frozenset(), ())
    wanted: dict[str, set[_Beside]] = {name: {always} for name in _BESIDE}
    for wrong in uses().rule:
        for use in wrong.use:
            for name in use.programs:
                words = frozenset(word for word in use.words if _PLAIN.match(word))
                wanted.setdefault(name, set()).add((words, use.takes))
            for name in use.unless:
                wanted.setdefault(name, set()).add(always)
    told = [one.programs for one in uses().restart] + [one.programs for one in uses().account]
    for name in (name for programs in told for name in programs):
        wanted.setdefault(name, set()).add(always)
    return {name: frozenset(beside) for name, beside in wanted.items()}


def _calls_some(text: str) -> bool:
    told = text.lower()
    words = {word.removesuffix(".exe") for word in _WORDS.findall(told)}
    wanted = _wanted()
    return any(
        all(one in told for one in every) and (not some or any(one in told for one in some))
        for name in words & wanted.keys()
        for every, some in wanted[name]
    )


def shell_of(view: View, one: Command) -> str:
    """What reads a command; empty where it is in another language than those of shells."""
    named = str(one.interpreter or "").rpartition("/")[2].lower()
    if view.limits.scripts == "sh":
        return SH if named in ("", "sh", "bash", "dash", "ksh", "busybox") else ""
    if named in ("powershell", "pwsh"):
        return POWERSHELL
    if named == "cmd":
        return CMD
    return LINE if "\n" not in one.body.strip() else CMD


def calls_of(view: View) -> list[tuple[Placed, Command, Call]]:
    """The calls of programs of which rules speak, in all commands, with where each command stands."""
    return _read(view)[0]


def calls_to(view: View, programs: Iterable[str]) -> list[tuple[Placed, Command, Call]]:
    """The calls of some programs, in their order."""
    by_program = view.kept.once("calls by program", lambda: _by_program(calls_of(view)))
    named = [name for name in programs if name in by_program]
    if len(named) < 2:
        return by_program[named[0]] if named else []
    wanted = set(named)
    return [one for one in calls_of(view) if one[2].program in wanted]


def _by_program(calls: list[tuple[Placed, Command, Call]]) -> dict[str, list[tuple[Placed, Command, Call]]]:
    found: dict[str, list[tuple[Placed, Command, Call]]] = {}
    for one in calls:
        found.setdefault(one[2].program, []).append(one)
    return found


@cache
def account_programs() -> frozenset[str]:
    """The programs that make or change accounts."""
    return frozenset(name for about in uses().account for name in about.programs)


def of_account(call: Call) -> tuple[OfAccount, tuple[str, ...]] | None:
    """What a call says of an account, with its words in lower case; None where it says nothing of one."""
    words = tuple(word.casefold() for word in call.words)
    return next(((about, words) for about in uses().account if about.speaks(call.program, words)), None)


@cache
def restarting_programs() -> frozenset[str]:
    """The programs of which some calls restart or stop the machine."""
    return frozenset(name for use in uses().restart for name in use.programs)


def restarts(call: Call) -> bool:
    """Whether a call restarts or stops the machine."""
    return any(call.program in use.programs and use.fits(call.words) for use in uses().restart)


def accounts_made(view: View) -> set[str]:
    """The accounts that commands make, in lower case."""
    told = (of_account(call) for _, _, call in calls_to(view, account_programs()))
    return {about.word(words, "name") for about, words in (one for one in told if one) if about.made(words)}


def unread(view: View) -> list[tuple[Placed, str]]:
    """The commands that may call such a program, and of which something could not be read, with the reason."""
    return _read(view)[1]


def _read(view: View) -> tuple[list[tuple[Placed, Command, Call]], list[tuple[Placed, str]]]:
    def listed() -> tuple[list[tuple[Placed, Command, Call]], list[tuple[Placed, str]]]:
        calls: list[tuple[Placed, Command, Call]] = []
        left: list[tuple[Placed, str]] = []
        for here, one in commands_of(view):
            shell = shell_of(view, one) if _calls_some(one.body) else ""
            if shell:
                found, why = calls_in(one.body, shell)
                calls += [(here, one, call) for call in found]
                left += [(here, why)] if why else []
        return calls, left

    return view.kept.once("calls", listed)
