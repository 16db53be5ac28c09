"""The keyboard that goes with a language, for every family alike."""

from __future__ import annotations

from fairledger.catalog.values import find_language, values
from fairledger.intent.locale import Locale
from fairledger.model.values import Text


def keyboards_of(value: Locale) -> tuple[Text, ...]:
    """The keyboards that are asked for, else the usual one of the display language."""
    if value.keyboards or not isinstance(value.language, str):
        return value.keyboards
    language = find_language(value.language)
    usual = values().languages[language].keyboard if language else ""
    return (usual,) if usual else ()
