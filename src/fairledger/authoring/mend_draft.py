"""Correcting the direct answers of a draft: only those that stand in the draft itself."""

from __future__ import annotations

from pathlib import Path

from fairledger.authoring.edit import AnswerChange, answer_value, changed
from fairledger.authoring.spots import spot_of
from fairledger.catalog.own import Own
from fairledger.catalog.seats import Seats
from fairledger.model.errors import LedgerError
from fairledger.model.values import SecretRef
from fairledger.profiles.library import Library


def mended_draft(text: str, path: Path, own: Own) -> tuple[str, list[str], set[str]]:
    """The draft's text with the spelling of its direct answers corrected, what was done, and the secrets in it."""
    from fairledger.authoring.mend import right_spelling
    from fairledger.profiles.resolve import resolve_text
    from fairledger.subject.finish import finish

    done: list[str] = []
    secrets: set[str] = set()
    try:
        resolved = resolve_text(text, str(path), Library(path.parent, own))
    except LedgerError:
        return text, done, secrets
    catalog = resolved.catalog()
    for seat in Seats(finish(resolved, catalog).sheet, catalog):
        if isinstance(seat.value, SecretRef):
            secrets |= {str(one.name) for one in seat.value.sources if one.kind == "value"}
        setting = seat.setting
        mine = seat.node.origin.file == str(path) and not seat.node.origin.by
        if setting is None or seat.text is None or setting.secret or not mine:
            continue
        right = right_spelling(seat)
        if right is None:
            continue
        spot = spot_of(seat, seat.component)
        try:
            text = changed(text, [AnswerChange(spot, answer_value(spot, right))], str(path))
        except LedgerError:
            continue
        done.append(f"{seat.shown} = {right}")
    return text, done, secrets
