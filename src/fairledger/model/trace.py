"""Noting who is handed an open placeholder: what saw none says the same whatever is filled in."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Any, TypeVar

T = TypeVar("T")


class Trace:
    """Whether anything that depends on an open placeholder was handed out since somebody last looked."""

    __slots__ = ("asked", "handed")

    def __init__(self) -> None:
        self.handed = False
        self.asked: set[Any] = set()
        """Who was asked what there is to say of single values, the open ones among them."""

    def around(self, work: Callable[[], T]) -> tuple[T, bool]:
        """What some work gives, and whether it was handed an open placeholder."""
        before, self.handed = self.handed, False
        try:
            made = work()
            return made, self.handed
        finally:
            self.handed = before or self.handed

    def noting(self, work: Callable[[], T]) -> tuple[T, bool, frozenset[Any]]:
        """As `around`, and whom it asked."""
        before, self.asked = self.asked, set()
        try:
            made, handed = self.around(work)
            return made, handed, frozenset(self.asked)
        finally:
            self.asked = before | self.asked


class Kept:
    """What is worked out once, under names; whoever asks for it again has seen the placeholders that it came from."""

    def __init__(self, trace: Trace, known: dict[Any, tuple[Any, bool]] | None = None) -> None:
        self._trace = trace
        self._known = known or {}

    def once(self, name: Any, make: Callable[[], T]) -> T:
        """What was made under that name, made now if it was not yet."""
        if name not in self._known:
            made, handed, asked = self._trace.noting(make)
            self._known[name] = made, handed or bool(asked)
        kept: T
        kept, handed = self._known[name]
        self._trace.handed = self._trace.handed or handed
        return kept

    def settled(self) -> dict[Any, tuple[Any, bool]]:
        """What no placeholder has a part in."""
        return {name: one for name, one in self._known.items() if not one[1]}


class Watched(dict[str, Any]):
    """A table of which some entries depend on open placeholders: whoever is handed one of them is noted."""

    def __init__(self, table: dict[str, Any], open_names: Collection[str], trace: Trace) -> None:
        super().__init__(table)
        self._open, self._trace = frozenset(open_names), trace

    def _note(self, name: str) -> None:
        if name in self._open:
            self._trace.handed = True

    def __getitem__(self, name: str) -> Any:
        self._note(name)
        return super().__getitem__(name)

    def get(self, name: str, default: Any = None) -> Any:
        """The entry of that name."""
        self._note(name)
        return super().get(name, default)

    def __contains__(self, name: object) -> bool:
        self._note(str(name))
        return super().__contains__(name)

    def __iter__(self) -> Any:
        self._trace.handed = self._trace.handed or bool(self._open)
        return super().__iter__()

    def items(self) -> Any:
        """All entries."""
        self._trace.handed = self._trace.handed or bool(self._open)
        return super().items()

    def values(self) -> Any:
        """All that stands in it."""
        self._trace.handed = self._trace.handed or bool(self._open)
        return super().values()
