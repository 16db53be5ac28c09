"""From a seat in a sheet back to its address in the draft that asked for it."""

from __future__ import annotations

from fairledger.catalog.address import Spot
from fairledger.catalog.seats import Seat
from fairledger.catalog.setting import Component, Setting


def spot_of(seat: Seat, known: Component | None) -> Spot:
    """The address of a seat; ``known`` is its component as the catalog that read it knows it."""
    steps: list[tuple[str, str, str | None]] = []
    here: Seat | None = seat
    while here is not None and here.parent is not None:
        setting = known.setting(here.path) if known else None
        steps.append(_step(here, setting))
        here = here.parent
    root = here
    item = root.says(known.key) if root is not None and known and known.repeats and known.key else None
    found = (known.setting(seat.path) if known else None) or Setting(path=seat.path, kind="text")
    key = known.key if known else ""
    return Spot(seat.block.pass_, seat.block.component, found, tuple(reversed(steps)), key, item, present=seat)


def _step(seat: Seat, setting: Setting | None) -> tuple[str, str, str | None]:
    if setting is None or setting.kind != "list" or setting.repeats:
        return (seat.node.name, "", None)
    item = seat.says(setting.key) if setting.key else None
    if item is not None and seat.child(setting.key) is not None:
        return (seat.node.name, setting.key, item)
    assert seat.parent is not None
    same = [one for one in seat.parent.children if one.node.name == seat.node.name]
    return (seat.node.name, "", str(same.index(seat) + 1))
