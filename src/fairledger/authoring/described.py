"""Changes in words: what was set where, secrets hidden."""

from __future__ import annotations

from typing import Any

import tomlkit

from fairledger.authoring.edit import AnswerChange, FieldChange
from fairledger.model.showing import looks_secret


def describe(change: AnswerChange | FieldChange) -> str:
    """A change in one line, secrets hidden."""
    if isinstance(change, FieldChange):
        if change.kind is not None and change.kind.inner is not None and change.value is not None:
            # a table may hold a secret as it is: only what is set is told
            rows = change.value if isinstance(change.value, list) else [change.value]
            return f"{change.text} = " + ", ".join("{ " + ", ".join(one) + " }" for one in rows)
        secret = change.kind is not None and any(one.__name__ == "SecretRef" for one in change.kind.plain)
        told = change.kind is not None and change.value in change.kind.choices
        shown = "(hidden)" if secret and not told and isinstance(change.value, str) else _shown(change.value)
        return f"{change.text} {change.way}= {shown}"
    if change.value is None:
        return f"without {change.spot.text}"
    if change.spot.whole:
        return change.spot.text
    secret = change.spot.setting.secret or looks_secret(change.spot.setting.path)
    hidden = secret and isinstance(change.value, str)
    return f"{change.spot.text} = {'(hidden)' if hidden else _shown(change.value)}"


def _shown(value: Any) -> str:
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, dict):
        return "{ " + ", ".join(f"{key} = {_toml_text(one)}" for key, one in value.items()) + " }"
    if isinstance(value, list):
        return ", ".join(str(one) for one in value)
    return str(value)


def _toml_text(value: Any) -> str:
    return str(tomlkit.item(value).as_string())
