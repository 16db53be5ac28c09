"""From a resolved draft to a finished sheet: translated, direct answers laid over it, the rest numbered."""

from __future__ import annotations

from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.passes import pass_names
from fairledger.families.build import translate
from fairledger.families.registry import family_named
from fairledger.model.errors import WrongUseError
from fairledger.model.facts import Facts
from fairledger.model.finding import Finding, Severity
from fairledger.model.places import Origin
from fairledger.model.sheet import Block, Sheet
from fairledger.profiles.answers import Laying, lay, number
from fairledger.profiles.drops import Dropped, is_section, origins_in, without_answers
from fairledger.profiles.raw import Leaf
from fairledger.profiles.resolve import Resolved, asked_again, nothing_dropped


def laid(resolved: Resolved, catalog: Catalog, facts: Facts) -> tuple[Sheet, tuple[Finding, ...]]:
    """The finished sheet of a draft, and what was found on the way to it."""
    order = pass_names(resolved.target.family)
    sheet, findings = translate(resolved.intent, resolved.target, facts)
    decoder = Laying()
    family = family_named(resolved.target.family)
    decoder.typed = family.typed
    told: list[Finding] = list(resolved.findings)
    for at, layer in enumerate(resolved.layers):
        above = resolved.layers[at + 1 :] if layer.drop else ()
        later = {origin for one in above for origin in origins_in(one.sections)}
        for address in layer.drop:
            if not is_section(str(address.value)):
                sheet = _dropped(sheet, address, catalog, told, later)
        # a layer drops what those below it said, and never its own answers
        if layer.answers.entries:
            sheet = lay(sheet, layer.answers, catalog, order, decoder)
        if layer.extra:
            sheet = replace(sheet, extras=(*sheet.extras, *layer.extra))
    sheet = _named_as_wished(family.settle(sheet, facts), resolved, catalog, told)
    return number(sheet, catalog), (*told, *findings, *decoder.problems)


def _named_as_wished(sheet: Sheet, resolved: Resolved, catalog: Catalog, told: list[Finding]) -> Sheet:
    """A sheet whose components bear the names that the draft wants, where they are other names of the same."""
    wished = resolved.head.written
    for name, other in wished.items():
        component, _, path = name.partition("/")
        known = catalog.anywhere(component if path else other)
        setting = known.setting(other) if known is not None and path else None
        whole = known.alias if known is not None and not path else setting.alias if setting is not None else ""
        if whole != (path or name):
            message = f"draft.written: {other} is no other name of {name}"
            told.append(Finding("field-value", Severity.ERROR, message, "take it out", file=resolved.file))
            return sheet
    return replace(sheet, blocks=tuple(_named(one, wished) for one in sheet.blocks)) if wished else sheet


def _named(block: Block, wished: dict[str, str]) -> Block:
    children = [
        replace(one, name=wished.get(f"{block.component}/{one.name}", one.name)) if wished else one
        for one in block.children
    ]
    return replace(block, written=wished.get(block.component, block.written), children=tuple(children))


def _dropped(sheet: Sheet, address: Leaf, catalog: Catalog, told: list[Finding], later: set[Origin]) -> Sheet:
    """A sheet without what a layer takes out of those below it, and of its own sections."""
    try:
        left = without_answers(sheet, str(address.value), catalog, later)
    except WrongUseError:
        left = Dropped(sheet, 0, ())
    told += [asked_again(address, seat) for seat in left.asked_again[:1]]
    if not left.taken and not left.asked_again:
        told.append(nothing_dropped(address))
    return left.sheet
