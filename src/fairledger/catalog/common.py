"""What the answer files of one call have in common: machines of one kind get files that differ in a few lines."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Any, Protocol, TypeVar

_MOST_KEPT = 400


class Kept(Protocol):
    """What was worked out of a part, and can be let go of."""

    def let_go(self) -> None:
        """Undoes its circles."""


K = TypeVar("K", bound=Kept)


class Common:
    """Parts of files that have been read and seated, for those that say the same at the same place.

    Their origins bear no file name: whoever reads with it names the file at the end.
    """

    def __init__(self) -> None:
        self.read: dict[Hashable, Any] = {}
        """What a family's reader made of a part, by its text and all else that its meaning depends on."""
        self._seated: dict[tuple[int, int], tuple[object, object, Any]] = {}

    def seated(self, block: object, catalog: object, make: Callable[[], K]) -> K:
        """The seats of a block under a catalog, made once."""
        found = self._seated.get((id(block), id(catalog)))
        if found is None:
            # block and catalog are kept too, since their identities stand for them
            found = self._seated[id(block), id(catalog)] = (block, catalog, make())
        kept: K = found[2]
        return kept

    def make_room(self) -> None:
        """Forgets all once it is much. Between two files, never while one is looked at."""
        if max(len(self.read), len(self._seated)) > _MOST_KEPT:
            for _, _, kept in self._seated.values():
                kept.let_go()
            self._seated.clear()
            self.read.clear()
