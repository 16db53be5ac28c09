"""What scripts of whoever wrote them change: line by line, as far as a line says it alone."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.tidy import Effect, choices_of
from fairledger.catalog.tidy_words import spoken as in_words
from fairledger.families.windows.effect_reading import read, read_powershell
from fairledger.families.windows.tidy_found import found_in, turned
from fairledger.families.windows.tidy_match import Effects
from fairledger.model.pattern import pattern
from fairledger.model.target import Target

LINE, BATCH, POWERSHELL = "line", "cmd", "powershell"
_IDLE = pattern(
    r"(?i)@?(?:(?:echo|setlocal|endlocal|chcp|title|pause|cls|exit)(?:[ .][^&|<>]*)?(?: ?> ?nul)?|rem(?: .*)?|::.*|)"
)
_IDLE_POWERSHELL = pattern(
    r"(?i)(?:#.*|write-(?:host|output|verbose) [^;|$(`]*|\$(?:error|progress)[a-z]*preference *= *'?\w*'?|)"
)
_ENDS = pattern(r"(?i)(?<![\w-])(?:exit|goto|return|throw|break|continue|trap)(?![\w-])")
"""Behind it, lines may never run."""


_COMMENT = pattern(r"<#[^#]*#>")


class Row(Struct, frozen=True):
    """A line of a script that does something."""

    number: int
    """1-based."""
    effects: tuple[Effect, ...]
    """Empty where it is not understood."""


def rows_of(body: str, kind: str) -> list[Row]:
    """The lines that do something. What stands in a block, or behind a way out, may never run: it is not understood."""
    out: list[Row] = []
    opened: frozenset[str] = frozenset()
    depth, over = 0, False
    skipped = False
    idle = _IDLE_POWERSHELL if kind == POWERSHELL else _IDLE
    open_, close = ("{", "}") if kind == POWERSHELL else ("(", ")")
    for number, line in enumerate(body.replace("\r\n", "\n").split("\n"), 1):
        text = line.strip()
        ends = bool(_ENDS.search(_bare(text)))
        if kind == POWERSHELL and (skipped or "<#" in text):
            skipped = "#>" not in text
            if _COMMENT.fullmatch(text) or text.endswith("#>") or skipped:
                continue
        if idle.fullmatch(text) and kind != LINE and not text.endswith("^"):
            over = over or ends
            continue
        inside = depth > 0
        if text.endswith(("^", "`", "@'", '@"', "|", ",")) and kind != LINE:
            over = True  # what it goes on with is no line of its own
        depth = max(0, depth + _bare(text).count(open_) - _bare(text).count(close)) if kind != LINE else 0
        now = turned(text, opened) if kind != POWERSHELL and not inside and not over else opened
        if now != opened:
            opened = now
        elif not inside and not over:
            made = read_powershell(text, opened) if kind == POWERSHELL else read(text, opened, batch=kind == BATCH)
            out.append(Row(number, made))
        elif text:
            out.append(Row(number, ()))
        over = over or ends or (kind == BATCH and text.startswith(":"))
    return out


def _bare(text: str) -> str:
    """A line without what stands in quotes."""
    return "".join(text.split('"')[::2])


def told(body: str, kind: str, target: Target, *, sign_in: bool) -> tuple[tuple[str, ...], int]:
    """What a script does, in words, and how many of its lines nobody understood. ``sign_in``: a person runs it."""
    rows = rows_of(body, kind)
    found: Effects = {}
    every: list[Effect] = []
    for row in rows:
        for effect in row.effects:
            own = replace(effect)
            every.append(own)
            if sign_in or own.when != "sign-in":
                found.setdefault(own.seat, []).append(own)
    _, took = found_in(found, target)
    said: list[str] = []
    used: set[int] = set()
    for section, fields in took.items():
        for one in fields:
            used |= {id(effect) for effect in one.effects}
            said.append(_choice(section, one.path[1], one.effects, target))
    for effect in every:
        if id(effect) not in used:
            who, text = in_words(effect)
            who = "whoever runs it" if effect.hive == "first_user" else who
            said.append(f"{who}: {text}")
    return tuple(said), sum(not row.effects for row in rows)


def _choice(section: str, field: str | int, effects: tuple[Effect, ...], target: Target) -> str:
    if section == "services":
        return f"services.{field}: {effects[0].service}"
    choice = choices_of(section).get(str(field))
    if choice is None:
        return f"takes away apps: {', '.join(one.package for one in effects)}"
    values, _ = found_in({one.seat: [one] for one in effects}, target)
    value = getattr(values.get(section), str(field), "")
    about = choice.about.rstrip(".")
    return f"{section}.{field} = {value} ({about[:1].lower()}{about[1:]})"
