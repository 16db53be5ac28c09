"""Correcting the direct answers of a draft: only those that stand in the draft itself."""

from __future__ import annotations

from pathlib import Path

from fairledger.catalog.own import Own
from fairledger.catalog.seats import Seats
from fairledger.model.errors import LedgerError
from fairledger.profiles.address import Spot
from fairledger.profiles.edit import AnswerChange, answer_value, changed
from fairledger.profiles.library import Library


def mended_draft(text: str, path: Path, own: Own) -> tuple[str, list[str]]:
    """The draft's text with the spelling of its direct answers corrected."""
    from fairledger.exchange.mend import _spelled
    from fairledger.families.finish import finish
    from fairledger.profiles.resolve import resolve_text

    done: list[str] = []
    try:
        resolved = resolve_text(text, str(path), Library(path.parent, own))
    except LedgerError:
        return text, done
    catalog = resolved.catalog()
    for seat in Seats(finish(resolved, catalog).sheet, catalog):
        setting = seat.setting
        mine = seat.node.origin.file == str(path) and not seat.node.origin.by
        if setting is None or seat.text is None or setting.secret or not mine:
            continue
        right = _spelled(seat)
        if right is None:
            continue
        steps = tuple((node.name, _key(node.name, seat), node_item) for node, node_item in _items(seat))
        spot = Spot(seat.block.pass_, seat.block.component, setting, steps, present=seat)
        try:
            text = changed(text, [AnswerChange(spot, answer_value(spot, right))], str(path))
        except LedgerError:
            continue
        done.append(f"{seat.shown} = {right}")
    return text, done


def _items(seat):  # type: ignore[no-untyped-def]
    """The nodes on the way, each with the identity of its item where it is one."""
    ways = []
    here = seat
    while here is not None and here.parent is not None:
        setting = here.setting
        item = here.node.text(setting.key) if setting is not None and setting.kind == "list" and setting.key else None
        ways.append((here.node, item))
        here = here.parent
    return reversed(ways)


def _key(name: str, seat) -> str:  # type: ignore[no-untyped-def]
    here = seat
    while here is not None and here.parent is not None:
        if here.node.name == name and here.setting is not None and here.setting.kind == "list":
            return str(here.setting.key)
        here = here.parent
    return ""
