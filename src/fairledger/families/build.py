"""From a resolved draft to a finished sheet, and back from a sheet to an intent."""

from __future__ import annotations

from importlib import import_module
from types import ModuleType

from msgspec import Struct

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.passes import pass_names
from fairledger.families.interface import Reader, Words
from fairledger.families.registry import family_named
from fairledger.model.finding import Finding
from fairledger.model.sheet import Sheet, SheetBuilder
from fairledger.model.target import Facts, Target
from fairledger.profiles.answers import lay, number
from fairledger.profiles.decode import Decoder
from fairledger.profiles.intent import Intent
from fairledger.profiles.resolve import Resolved
from fairledger.profiles.sections import SECTION_NAMES


class Finished(Struct, frozen=True):
    """A finished sheet, and what was found on the way to it."""

    sheet: Sheet
    findings: tuple[Finding, ...]


class Recognised(Struct, frozen=True):
    """What a sheet means, and what of it nobody could read."""

    intent: Intent
    remainder: Sheet


def finish(resolved: Resolved, catalog: Catalog) -> Finished:
    """Translates the intent, lays the direct answers over it, numbers what is left to number."""
    order = pass_names(resolved.target.family)
    sheet, findings = translate(resolved.intent, resolved.target, resolved.facts)
    decoder = Decoder()
    for layer in resolved.answers:
        sheet = lay(sheet, layer, catalog, order, decoder)
    sheet = family_named(resolved.target.family).settle(sheet, resolved.facts)
    return Finished(number(sheet, catalog), (*findings, *decoder.problems))


def translate(intent: Intent, target: Target, facts: Facts) -> tuple[Sheet, tuple[Finding, ...]]:
    """Puts an intent into the target's words; what it cannot express is a finding."""
    words = Words(intent, target, facts, SheetBuilder(pass_names(target.family)))
    for name in SECTION_NAMES:
        value = intent.sections.get(name)
        if value is None:
            continue
        module = _section_module(target.family, name)
        if module is None:
            why = "its installer has nothing of the kind, or no translation yet"
            words.cannot((name,), f"[{name}]", why, "nothing needs to be done if it is meant for others", "warning")
        else:
            module.translate(value, words)
    return words.out.sheet(), tuple(words.findings)


def recognise(sheet: Sheet, catalog: Catalog, target: Target | None) -> Recognised:
    """What a sheet means. Never fails: what cannot be read stays in the remainder."""
    reader = Reader(sheet, catalog, target)
    found = {}
    for name in SECTION_NAMES:
        module = _section_module(catalog.family, name)
        value = module.recognise(reader) if module is not None else None
        if value:
            found[name] = value
    return Recognised(Intent(found, reader.places), reader.remainder())


def canonical(intent: Intent, target: Target, facts: Facts) -> Intent:
    """The intent as the target's words can hold it; what it cannot express is gone."""
    found = {}
    for name in SECTION_NAMES:
        module = _section_module(target.family, name)
        if name in intent.sections and module is not None:
            value = module.canonical(intent.sections[name], Words(intent, target, facts, SheetBuilder(())))
            if value:
                found[name] = value
    return Intent(found)


def _section_module(family: str, name: str) -> ModuleType | None:
    wanted = f"fairledger.families.{family}.{name}"
    try:
        return import_module(wanted)
    except ModuleNotFoundError as error:
        if error.name != wanted:
            raise
        return None
