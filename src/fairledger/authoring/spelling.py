"""The right spelling of values that are wrong, where only one can be meant."""

from __future__ import annotations

from fairledger.catalog.seats import Seat
from fairledger.model.kinds import choices_of, complaint


def right_spelling(seat: Seat) -> str | None:
    """The right spelling of a value that is wrong, where only one can be meant."""
    setting, text = seat.setting, seat.text or ""
    if setting is None or not complaint(setting.kind, text, setting):
        return None
    bare = text.strip()
    known = {one.casefold(): one for one in choices_of(setting.kind, setting)}
    truths = {"yes": "true", "1": "true", "on": "true", "no": "false", "0": "false", "off": "false"}
    tried = [bare, known.get(bare.casefold(), "")]
    if setting.kind == "boolean":
        tried += [bare.lower(), truths.get(bare.lower(), "")]
    if setting.kind == "locale":
        first, _, last = bare.replace("_", "-").partition("-")
        tried.append(f"{first.lower()}-{last.upper()}" if last else first.lower())
    return next((one for one in tried if one and one != text and not complaint(setting.kind, one, setting)), None)
