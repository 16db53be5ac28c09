"""Correcting the direct answers of a draft: only those that stand in the draft itself."""

from __future__ import annotations

from fairledger.authoring.edit import AnswerChange, answer_value, changed
from fairledger.authoring.spelling import right_spelling
from fairledger.authoring.spots import spot_of
from fairledger.model.errors import LedgerError
from fairledger.model.values import SecretRef
from fairledger.subject.opening import Asked
from fairledger.subject.subject import Opened, Subject


def mended_draft(one: Opened, _asked: Asked) -> tuple[str, list[str], set[str], set[str]]:
    """The draft's text with the spelling of its direct answers corrected, what was done, and the secrets in it.

    Nothing is taken back.
    """
    text = one.text
    done: list[str] = []
    secrets: set[str] = set()
    if not isinstance(one, Subject) or not one.whole:
        return text, done, secrets, set()
    for seat in one.seats:
        if isinstance(seat.value, SecretRef):
            secrets |= {str(source.name) for source in seat.value.sources if source.kind == "value"}
        setting = seat.setting
        mine = seat.node.origin.file == one.file and not seat.node.origin.by
        if setting is None or seat.text is None or setting.secret or not mine:
            continue
        right = right_spelling(seat)
        if right is None:
            continue
        spot = spot_of(seat, seat.component, one.seats.roots)
        try:
            text = changed(text, [AnswerChange(spot, answer_value(spot, right))], one.file)
        except LedgerError:
            continue
        done.append(f"{seat.shown} = {right}")
    return text, done, secrets, set()
