"""What the answer files of one call have in common: machines of one kind get files that differ in a few lines."""

from __future__ import annotations

from collections.abc import Hashable
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from fairledger.catalog.catalog import Catalog
    from fairledger.catalog.seats import Seat
    from fairledger.model.sheet import Block

_MOST_KEPT = 400


class Common:
    """Parts of files that have been read and seated, for those that say the same at the same place.

    Their origins bear no file name: whoever reads with it names the file at the end.
    """

    def __init__(self) -> None:
        self.read: dict[Hashable, Any] = {}
        """What a family's reader made of a part, by its text and all else that its meaning depends on."""
        self._seated: dict[tuple[int, int], tuple[Block, Catalog, list[Seat], dict[str, list[Seat]]]] = {}

    def seated(self, block: Block, catalog: Catalog) -> tuple[list[Seat], dict[str, list[Seat]]] | None:
        """The seats of a block, its own first, and those at each path; None if they are not made yet."""
        found = self._seated.get((id(block), id(catalog)))
        return found[2:] if found is not None else None

    def keep_seats(self, block: Block, catalog: Catalog, seats: list[Seat], rows: dict[str, list[Seat]]) -> None:
        """Keeps them, and the block and the catalog too, whose identities stand for them."""
        self._seated[id(block), id(catalog)] = (block, catalog, seats, rows)

    def make_room(self) -> None:
        """Forgets all once it is much. Between two files, never while one is looked at."""
        if max(len(self.read), len(self._seated)) > _MOST_KEPT:
            for _, _, seats, _ in self._seated.values():
                for seat in seats:
                    seat.children = ()  # undoes the circles of parents and children
            self._seated.clear()
            self.read.clear()
