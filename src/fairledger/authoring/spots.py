"""From a seat in a sheet back to its address in the draft that asked for it."""

from __future__ import annotations

from collections.abc import Sequence

from fairledger.catalog.address import WHOLE, Spot
from fairledger.catalog.seats import Seat, identity_of
from fairledger.catalog.setting import Component, Setting
from fairledger.model.items import labels


def spot_of(seat: Seat, known: Component | None, beside: Sequence[Seat]) -> Spot:
    """The address of a seat; ``known`` is its component as the catalog that read it knows it, ``beside`` all blocks."""
    steps: list[tuple[str, str, str | None]] = []
    here: Seat | None = seat
    while here is not None and here.parent is not None:
        setting = known.setting(here.path) if known else None
        steps.append(_step(here, setting))
        here = here.parent
    root = here
    found = (known.setting(seat.path) if known else None) or (Setting(path=seat.path, kind="text") if steps else WHOLE)
    item = None
    if root is not None and known is not None and known.repeats:
        uses = [one for one in beside if one.block.component == known.name and one.block.pass_ == root.block.pass_]
        item = labels([one.says(known.key) if known.key else None for one in uses])[uses.index(root)]
    return Spot(
        seat.block.pass_,
        seat.block.component,
        found,
        tuple(reversed(steps)),
        known.key if known else "",
        item,
        present=seat,
    )


def _step(seat: Seat, setting: Setting | None) -> tuple[str, str, str | None]:
    assert seat.parent is not None
    same = [one for one in seat.parent.children if one.name == seat.name]
    if setting is None or setting.kind != "list":
        return (seat.name, "", f"#{same.index(seat) + 1}" if len(same) > 1 else None)
    return (seat.name, setting.key, labels([identity_of(one) for one in same])[same.index(seat)])
