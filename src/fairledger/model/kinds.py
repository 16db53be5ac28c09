"""The closed table of kinds of value, and what each of them accepts."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Protocol

from fairledger.model.addresses import read_interface


class Bounds(Protocol):
    """What a setting adds to its kind; every field may be None or empty."""

    @property
    def also(self) -> str:
        """The kind of value that may stand in the place of a group or list."""

    @property
    def choices(self) -> tuple[tuple[str, str], ...]:
        """Allowed values with what they mean."""

    @property
    def min(self) -> int | None:
        """Least number."""

    @property
    def max(self) -> int | None:
        """Greatest number."""

    @property
    def max_length(self) -> int | None:
        """Most characters."""

    @property
    def repeats(self) -> bool:
        """Whether the items of a list are plain values."""

    @property
    def pattern(self) -> str:
        """A regular expression that the whole value must match."""


class Kind:
    """A kind of value: its name, how to say it, an example, and what its form must be."""

    def __init__(self, name: str, says: str, example: str, form: str | Callable[[str], bool] = "") -> None:
        self.name = name
        self.says = says
        self.example = example
        self._form = form

    @property
    def form(self) -> str:
        """The regular expression that a whole value must match; empty where there is none."""
        return self._form if isinstance(self._form, str) else ""

    def accepts(self, text: str) -> bool:
        """Whether the text has the kind's form."""
        if not self._form:
            return True
        if isinstance(self._form, str):
            return re.fullmatch(self._form, text) is not None
        return self._form(text)


def _is_address(text: str) -> bool:
    return read_interface(text) is not None


def _is_date(text: str) -> bool:
    from datetime import date

    try:
        return date.fromisoformat(text).isoformat() == text
    except ValueError:
        return False


_TAG = r"[A-Za-z]{2,3}(-[A-Za-z]{4})?(-([A-Za-z]{2}|\d{3}))?(-[A-Za-z0-9]{5,8})*(_[a-z]{4,6})?"
_KEYBOARD = (
    rf"([0-9A-Fa-f]{{4}}:[0-9A-Fa-f]{{8}}|{_TAG}|[0-9A-Fa-f]{{4}}:\{{[0-9A-Fa-f-]{{36}}\}}\{{[0-9A-Fa-f-]{{36}}\}})"
)

KINDS = {
    kind.name: kind
    for kind in (
        Kind("group", "a group of settings", "", lambda text: not text.strip()),
        Kind("list", "a list of items", ""),
        Kind("boolean", "true or false", "true"),
        Kind("integer", "a whole number", "1", r"\s*[+-]?\d+\s*"),
        Kind("text", "text", "Larkmoor"),
        Kind("choice", "one of a few words", ""),
        Kind("locale", "a language tag such as en-GB", "en-GB", rf"\s*{_TAG}\s*"),
        Kind(
            "keyboard",
            "a keyboard such as 0809:00000809 or en-GB",
            "0809:00000809",
            rf"\s*{_KEYBOARD}(\s*;\s*{_KEYBOARD})*;?\s*",
        ),
        Kind("time-zone", "the installer's name of a time zone", "GMT Standard Time"),
        Kind("hostname", "a machine name", "LMR-DESK-01"),
        Kind("address", "an IP address", "192.0.2.10", _is_address),
        Kind("size", "a size", "500"),
        Kind("password", "a password, as a reference to a secret", '{ env = "DESK_PW" }'),
        Kind("key", "a product key, as a reference to a secret", '{ env = "DESK_KEY" }'),
        Kind("path", "a path", r"C:\larkmoor\station.txt"),
        Kind("command", "a command line", "cmd /c echo station"),
        Kind(
            "guid",
            "an identifier in hexadecimal groups",
            "",
            r"\{?[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}\}?",
        ),
        Kind("date", "a date such as 2027-01-31", "2027-01-31", _is_date),
    )
}
"""By name. Nothing outside this table is a kind."""

MOST_DIGITS = 18
"""Longer whole numbers mean nothing to any installer."""

SECRET_KINDS = frozenset({"password", "key"})
"""Kinds whose values are never shown."""


def choices_of(kind: str, bounds: Bounds) -> tuple[str, ...]:
    """The only values that are allowed, as the answer file spells them; empty when there is no such list."""
    if bounds.choices:
        return tuple(value for value, _ in bounds.choices)
    return ("true", "false") if kind == "boolean" else ()


def complaint(kind: str, text: str, bounds: Bounds) -> str:
    """What is wrong with ``text`` as a value of ``kind``; empty if nothing is. Never repeats a secret."""
    if kind in ("group", "list") and not bounds.repeats:
        if text.strip() and bounds.also:
            return complaint(bounds.also, text, bounds)
        return "" if not text.strip() else f"it is {KINDS[kind].says} and takes no value of its own"
    allowed = choices_of(kind, bounds)
    if allowed:
        return "" if text.strip() in allowed else f"allowed are {_listed(allowed)}"
    if kind == "integer" and KINDS[kind].accepts(text):
        if len(text.strip()) > MOST_DIGITS:
            return "it is too large a number"
        number = int(text)
        if (bounds.min is not None and number < bounds.min) or (bounds.max is not None and number > bounds.max):
            return f"it must be {_span(bounds)}"
        return ""
    if (not bounds.pattern or kind == "address") and not KINDS[kind].accepts(text):
        return f"it must be {KINDS[kind].says}"
    if bounds.max_length is not None and len(text) > bounds.max_length:
        return f"it has {len(text)} characters, at most {bounds.max_length} are allowed"
    if bounds.pattern and re.fullmatch(bounds.pattern, text) is None:
        return "it does not have the right form"
    return ""


def _span(bounds: Bounds) -> str:
    if bounds.max is None:
        return f"{bounds.min} or more"
    if bounds.min is None:
        return f"at most {bounds.max}"
    return f"from {bounds.min} to {bounds.max}"


def _listed(values: tuple[str, ...]) -> str:
    shown = ", ".join(values[:12])
    return shown + (f" and {len(values) - 12} more" if len(values) > 12 else "")
