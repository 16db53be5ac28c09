"""The keyboard that goes with a language, for every family alike."""

from __future__ import annotations

from fairledger.catalog.values import find_language, values
from fairledger.intent.locale import Locale
from fairledger.model.values import Text, form, formed


def keyboards_of(value: Locale) -> tuple[Text, ...]:
    """The keyboards that are asked for, else the usual one of the display language."""
    if value.keyboards or value.language is None:
        return value.keyboards
    usual = formed(value.language, "usual-keyboard")
    return (usual,) if usual else ()


@form("usual-keyboard")
def _usual(tag: str) -> str:
    language = find_language(tag)
    return values().languages[language].keyboard if language else ""
