"""From a resolved draft to a finished sheet."""

from __future__ import annotations

from msgspec import Struct

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.passes import pass_names
from fairledger.families.build import translate
from fairledger.families.registry import family_named
from fairledger.model.finding import Finding
from fairledger.model.sheet import Sheet
from fairledger.profiles.answers import lay, number
from fairledger.profiles.decode import Decoder
from fairledger.profiles.resolve import Resolved


class Finished(Struct, frozen=True):
    """A finished sheet, and what was found on the way to it."""

    sheet: Sheet
    findings: tuple[Finding, ...]


def finish(resolved: Resolved, catalog: Catalog) -> Finished:
    """Translates the intent, lays the direct answers over it, numbers what is left to number."""
    order = pass_names(resolved.target.family)
    sheet, findings = translate(resolved.intent, resolved.target, resolved.facts)
    decoder = Decoder()
    for layer in resolved.answers:
        sheet = lay(sheet, layer, catalog, order, decoder)
    sheet = family_named(resolved.target.family).settle(sheet, resolved.facts)
    return Finished(number(sheet, catalog), (*findings, *decoder.problems))
