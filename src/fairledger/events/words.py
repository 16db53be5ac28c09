"""Values in sentences."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from typing import Any

from fairledger.intent.intent import Intent
from fairledger.intent.part import Part
from fairledger.intent.walk import FieldPath
from fairledger.model.showing import visible
from fairledger.model.values import SecretRef


def word(value: Any) -> str:
    """A value as it may be shown; secrets are not."""
    if isinstance(value, tuple):
        return ", ".join(word(one) for one in value)
    if isinstance(value, SecretRef):
        return "(hidden)"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return "" if value is None else visible(str(value))


def named(intent: Intent, path: FieldPath) -> str:
    """A field as a person would name it: ``interface eno1 mtu``, ``disk sda partition 2 options``."""
    return " ".join(_steps(intent, path)).replace("_", " ")


def _steps(intent: Intent, path: FieldPath) -> Iterator[str]:
    for end, step in enumerate(path, 1):
        if isinstance(step, str):
            yield step
            continue
        key = _key(intent.at(path[:end]))
        # a name that several items share tells nobody which is meant
        alone = key not in (None, "") and _keys_of(intent, path[: end - 1])[str(key)] == 1
        yield word(str(key)) if alone else str(step + 1)


def _keys_of(intent: Intent, path: FieldPath) -> Counter[str]:
    """How many items of a list have each key; worked out once for each."""
    known: dict[FieldPath, Counter[str]] = intent.kept
    if path not in known:
        known[path] = Counter(str(_key(one)) for one in intent.at(path))
    return known[path]


def _key(item: Any) -> object:
    """What tells an item of a list from the others."""
    said = getattr(item, item.KEY) if isinstance(item, Part) and item.KEY else None
    return item.UNNAMED if said is None and isinstance(item, Part) else said
