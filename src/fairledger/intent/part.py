"""What every table of a portable section is, and what is known of its fields."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar

from msgspec import Struct

from fairledger.model.items import labels


class Part(Struct, frozen=True, kw_only=True):
    """A table of a draft or profile: a section, a table inside one (a partition, an account), or a head."""

    KEY: ClassVar[str] = ""
    """The field that tells apart the items of a list of such tables; without one, items are always appended."""
    UNNAMED: ClassVar[object] = None
    """What an item is taken for that does not say its key."""
    EXTENDS: ClassVar[str] = ""
    """Set if a later layer replaces an item whole: the field by which it says that it changes the item instead."""
    ALONE: ClassVar[bool] = False
    """Whether it means something with nothing said in it."""
    UNWRITTEN: ClassVar[tuple[str, ...]] = ()
    """Fields that count when drafts are resolved, or by what is not written."""

    @classmethod
    def adjust(cls, fields: dict[str, Any]) -> dict[str, Any]:
        """The fields as they were said, with what is short for something else written out."""
        return fields


def labels_of(items: Sequence[Part]) -> list[str]:
    """What the items of a list of tables are called in addresses."""
    keys = [type(one).KEY for one in items]
    told = [getattr(one, key) if key else None for one, key in zip(items, keys, strict=True)]
    named = [one if one is not None else type(item).UNNAMED for one, item in zip(told, items, strict=True)]
    return labels([str(one) if one is not None else None for one in named])
