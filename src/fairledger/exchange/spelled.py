"""Values in one spelling, and files as they would be read if everything in them were spelled alike."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from fairledger.catalog.setting import Setting
from fairledger.model.sheet import Block, Node
from fairledger.model.values import Scalar
from fairledger.subject.subject import Subject, with_sheet


def in_one_spelling(value: Scalar, setting: Setting | None) -> Scalar:
    """A value in one spelling; the value itself where its spelling may count."""
    # what is not filled yet is compared as it is: the same placeholder may come to another value in another form;
    # what nobody knows may mind its spelling, so that two spellings are two values
    if not isinstance(value, str) or setting is None or setting.secret or setting.form == "body":
        return value
    text = value.strip()
    if setting.kind == "boolean":
        return {"1": "true", "0": "false"}.get(text.casefold(), text.casefold())
    # of endless digits nobody makes a number
    if setting.kind == "integer" and text.isascii() and text.isdecimal() and len(text) < 20:
        return str(int(text))
    return text.casefold() if setting.kind in ("locale", "guid", "hostname") else text


class Alike:
    """What a file means if everything in it is spelled alike, so that no spelling decides what is understood."""

    def __init__(self, subject: Subject) -> None:
        catalog = subject.catalog

        def spell(block: Block, way: tuple[Node, ...], value: Scalar) -> Scalar:
            known = catalog.anywhere(block.component)
            spelled = in_one_spelling(value, known.setting("/".join(one.name for one in way)) if known else None)
            return value if spelled == value else spelled

        sheet = subject.sheet.map_values(spell)
        changed = with_sheet(subject, sheet) if sheet.blocks != subject.sheet.blocks else subject
        self.sections: Mapping[str, Any] = changed.intent.sections
        """The portable sections."""
        pairs = zip(_places(sheet.blocks), _places(subject.sheet.blocks), strict=True)
        self.understood: Mapping[int, str] = {
            id(mine): changed.understood[id(one)] for one, mine in pairs if id(one) in changed.understood
        }
        """By the identity of a node or block of the file itself: the section as which it was understood."""


def _places(blocks: Iterable[Block]) -> Iterator[Block | Node]:
    waiting: list[Block | Node] = list(blocks)
    while waiting:
        one = waiting.pop()
        yield one
        waiting.extend(one.children)
