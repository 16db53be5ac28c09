"""From a resolved draft to a finished sheet: translated, direct answers laid over it, the rest numbered."""

from __future__ import annotations

from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.passes import pass_names
from fairledger.families.build import translate
from fairledger.families.registry import family_named
from fairledger.model.errors import WrongUseError
from fairledger.model.facts import Facts
from fairledger.model.finding import Finding
from fairledger.model.sheet import Sheet
from fairledger.profiles.answers import Laying, lay, number
from fairledger.profiles.drops import is_section, without_answers
from fairledger.profiles.raw import Leaf
from fairledger.profiles.resolve import Resolved, nothing_dropped


def laid(resolved: Resolved, catalog: Catalog, facts: Facts) -> tuple[Sheet, tuple[Finding, ...]]:
    """The finished sheet of a draft, and what was found on the way to it."""
    order = pass_names(resolved.target.family)
    sheet, findings = translate(resolved.intent, resolved.target, facts)
    decoder = Laying()
    family = family_named(resolved.target.family)
    decoder.typed = family.typed
    told: list[Finding] = list(resolved.findings)
    for layer in resolved.layers:
        for address in layer.drop:
            if not is_section(str(address.value)):
                sheet = _dropped(sheet, address, catalog, told)
        # a layer drops what those below it said, and never its own answers
        sheet = lay(sheet, layer.answers, catalog, order, decoder)
        sheet = replace(sheet, extras=(*sheet.extras, *layer.extra))
    sheet = family.settle(sheet, facts)
    return number(sheet, catalog), (*told, *findings, *decoder.problems)


def _dropped(sheet: Sheet, address: Leaf, catalog: Catalog, told: list[Finding]) -> Sheet:
    """A sheet without what a layer takes out."""
    try:
        left = without_answers(sheet, str(address.value), catalog)
    except WrongUseError:
        left = None
    if left is None:
        told.append(nothing_dropped(address))
    return sheet if left is None else left
