"""Which releases a sheet can be for, by what the catalog knows of them."""

from __future__ import annotations

from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.seats import Seats
from fairledger.catalog.targets import all_targets
from fairledger.model.sheet import Sheet
from fairledger.model.showing import visible
from fairledger.model.target import Target


def newest_fitting(sheet: Sheet, family: str, line: str, own: Own = NOTHING) -> tuple[Target, str]:
    """The newest certain release of a line that has what the file says, and why it is none that is newer.

    Where none has all of it, the newest of those that lack least. Without a line the family's first is taken.
    """
    all_of_them = [one for one in all_targets() if one.family == family and one.sure]
    rows = [one for one in all_of_them if one.line == (line or all_of_them[0].line)]
    best, told = rows[-1], ""
    fewest = lacks(sheet, best, own)
    for target in reversed(rows[:-1]):
        if not fewest:
            break
        lacking = lacks(sheet, target, own)
        if len(lacking) < len(fewest):
            # what the newer one lacks is why it is this one
            gone = next(one for one in fewest if one not in lacking)
            best, told, fewest = target, f"newer ones have no {visible(gone)}", lacking
    return best, told


def lacks(sheet: Sheet, target: Target, own: Own = NOTHING) -> tuple[str, ...]:
    """What a sheet says that other releases of the family know and this one does not."""
    catalog = catalog_of(target.family, target, own)
    found: dict[str, None] = {}
    for block in sheet.blocks:
        for variant in filter(None, (block.variant, *block.also)):
            if variant not in target.architectures:
                found[f"machines of the architecture {variant}"] = None
        for name in filter(None, (block.component, block.written)):
            if catalog.component(name) is None and catalog.anywhere(name) is not None:
                found[name] = None
    for seat in Seats(sheet, catalog):
        known = catalog.anywhere(seat.block.component)
        if seat.setting is None and seat.component is not None and known is not None and known.setting(seat.path):
            found[f"{seat.block.component} {seat.path}"] = None
    return tuple(found)
