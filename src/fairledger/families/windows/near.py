"""Commands that are nearly one of the well-known ones, and do something else or nothing."""

from __future__ import annotations

from functools import cache, lru_cache

from fairledger.catalog.tidy import choices_of, of_change
from fairledger.families.windows import bypass
from fairledger.families.windows.command_lines import registry_form
from fairledger.families.windows.effect_lines import line
from fairledger.model.suggest import nearest


@lru_cache(maxsize=2_000)
def meant(line: str) -> str:
    """The well-known registry command that a line was probably to be; empty if it is one, or nothing of the kind."""
    parts = _parts(registry_form(line))
    if "value" not in parts:
        return ""
    for known, exact in _known():
        same = [name for name in ("key", "value") if parts[name] == known[name]]
        begun = len(parts["value"]) > 5 and known["value"].startswith(parts["value"])
        alike = same == ["key"] and (begun or nearest(parts["value"], (known["value"],), 1, alike=0.85))
        typed = parts.get("type") == known["type"] and (not exact or parts.get("data") == known["data"])
        if len(same) == 2 and not typed:
            return known["line"]
        if (alike or (exact and same == ["value"])) and not _is_known(parts):
            return known["line"]
    return ""


def _is_known(parts: dict[str, str]) -> bool:
    return any(parts["key"] == known["key"] and parts["value"] == known["value"] for known, _ in _known())


def _parts(form: str) -> dict[str, str]:
    """Key, value, type and data of a command in one spelling; empty if it is no such command."""
    if not form.startswith("reg add "):
        return {}
    key, *pairs = form.removeprefix("reg add ").split(" /")
    names = {"v": "value", "t": "type", "d": "data"}
    return {"key": key, **{names[pair[0]]: pair[2:] for pair in pairs if pair[:1] in names}}


@cache
def _known() -> tuple[tuple[dict[str, str], bool], ...]:
    """The commands of the tables in parts, and whether just one value of theirs has an effect."""
    lines = [(way.command, True) for way in bypass.ways().values() if way.command]
    for one in choices_of("privacy").values():
        made = [effect for change in one.does for value in one.values for effect in of_change(change, value)]
        lines += [(str(line(effect)), False) for effect in made[:1] if effect.hive == "machine"]
    return tuple(({**_parts(registry_form(line)), "line": line}, exact) for line, exact in lines)
