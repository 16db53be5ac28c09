"""Which choices changes come to, whatever brought them about."""

from __future__ import annotations

from functools import cache
from typing import Any

from msgspec.structs import replace

from fairledger.catalog.tidy import ANY, Choice, Effect, choices_of, of_change, shipped
from fairledger.families.windows.effect_reading import plain, words_of
from fairledger.families.windows.tidy_job import Took
from fairledger.model.target import Target

Effects = dict[tuple[str, ...], list[Effect]]
"""Changes by what they change."""


@cache
def _index(section: str) -> dict[tuple[str, ...], list[str]]:
    """The choices of a section by what they change, whatever release heeds it."""
    out: dict[tuple[str, ...], list[str]] = {}
    for name, choice in choices_of(section).items():
        for change in choice.does:
            if ANY in change.run:
                continue
            for value in choice.values or ("0",):
                for effect in of_change(change, value):
                    names = out.setdefault(comparable(effect).seat, [])
                    if name not in names:
                        names.append(name)
    return out


def comparable(effect: Effect) -> Effect:
    """A change in the spelling in which lines are read."""
    return replace(effect, command=_plain(effect.command)) if effect.kind == "command" else effect


@cache
def _plain(line: str) -> str:
    words = words_of(line) or [""]
    return plain(words[1:]) if words[0].lower().startswith("powercfg") else line


def choices_in(section: str, there: Effects, target: Target) -> tuple[dict[str, Any], list[Took]]:
    """The choices of a section that changes come to, and which changes say them."""
    index = _index(section)
    near = {name for seat in there for name in index.get(seat, ())}
    values: dict[str, Any] = {}
    took: list[Took] = []
    for name, choice in choices_of(section).items():
        if name not in near and not any(ANY in one.run for one in choice.does):
            continue
        made = _made(section, name, there, target)
        if made is not None:
            values[name] = made[0]
            took.append(Took((section, name), made[1], f"{section}.{name}" if choice.undo == "exact" else ""))
    return values, took


def _made(section: str, name: str, there: Effects, target: Target) -> tuple[Any, tuple[Effect, ...]] | None:
    """The value of a choice, whole, and what makes it; None if there is none."""
    best: tuple[Any, tuple[Effect, ...]] | None = None
    most = 0
    for value in _candidates(choices_of(section)[name], there, target):
        wanted = shipped(section, name, value, target.id)
        rows = [there.get(comparable(effect).seat, []) for effect in wanted]
        # what is said twice, and differently, says nothing of what is there at the end
        same = all(
            found and all((one.data, one.type) == (effect.data, effect.type) for one in found)
            for effect, found in zip(wanted, rows, strict=True)
        )
        if same and len(wanted) > most:
            most, best = len(wanted), (value, tuple(one for found in rows for one in found))
    return best


def _candidates(choice: Choice, there: Effects, target: Target) -> list[Any]:
    if choice.kind == "choice":
        return list(choice.values)
    for change in choice.changes(target):
        if ANY in change.run:
            before, _, after = comparable(Effect(kind="command", command=change.run[ANY])).command.partition("$")
            told = [one.command for rows in there.values() for one in rows if one.command.startswith(before)]
            numbers = {line[len(before) : len(line) - len(after)] for line in told}
            return [int(one) for one in numbers if one.isdecimal() and len(one) < 5] if len(numbers) == 1 else []
        for effect in of_change(change, "$"):
            rows = there.get(effect.seat, [])
            if effect.data == "$" and len(rows) == 1:
                return [rows[0].data]
    return []
