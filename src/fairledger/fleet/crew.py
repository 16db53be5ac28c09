"""Work on the rows of a roster: in this process, or in several that each have the roster for themselves."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from itertools import chain, islice
from pathlib import Path
from typing import Any, Self, TypeVar

from msgspec import Struct

from fairledger.fleet.helpers import cores, doubles, helpers
from fairledger.fleet.keys import Keys
from fairledger.fleet.roster import Roster, Wishes
from fairledger.fleet.table import Row, Table
from fairledger.model.errors import ChangedError, RefusedError
from fairledger.model.finding import Finding

T = TypeVar("T")
AT_ONCE = 100
"""Rows that are handed over together."""
WORTH_IT = 1_000
"""With fewer rows than this nobody is asked to help."""
_AHEAD = 3
"""Packets that each helper may have before it."""


class Hands:
    """What work on rows is done with."""

    def __init__(self, roster: Roster, keys: Keys | None = None, kept: Any = None) -> None:
        self.roster = roster
        self.keys = keys
        self.kept = kept
        """What a kind of work needs besides; it goes to every helper, once."""
        self.own: dict[str, Any] = {}
        """What a kind of work keeps for itself from one packet to the next."""

    def spec(self) -> Spec:
        """How another process gets the same."""
        roster = self.roster
        seeded = (self.keys.seed, self.keys.own_salt) if self.keys is not None else None
        return Spec(roster.draft, roster.table.file, roster.table.head, roster.wishes, seeded, self.kept)


class Spec(Struct, frozen=True):
    """What hands are made from."""

    draft: Path
    file: str
    head: tuple[str, ...]
    wishes: Wishes
    seeded: tuple[str | None, bool] | None
    kept: Any

    def hands(self) -> Hands:
        """Such hands; their table has no rows."""
        roster = Roster(self.draft, Table(self.file, self.head, lambda: iter(())), self.wishes)
        keys = Keys(None, self.seeded[0], own_salt=self.seeded[1]) if self.seeded is not None else None
        return Hands(roster, keys, self.kept)


class News(Struct, frozen=True):
    """What a helper came to know that belongs to no row."""

    always: dict[tuple[str, str], frozenset[Finding]]
    """What every row had so far, by drafts and their variants."""
    sources: dict[tuple[str, str], tuple[tuple[str, str], ...]]
    """What its drafts were made of, each with its SHA-256."""
    outside: tuple[str, ...]
    """Files outside of the draft's folder from which secrets came."""


Work = Callable[[Hands, list[Row]], list[T]]
"""Something that is done with rows; a function of a module, so that other processes find it."""


class Crew:
    """Does work with some rows after the other, and gives what it comes to in their order."""

    def __init__(self, hands: Hands, workers: int | None = 1) -> None:
        """``workers`` is how many processes; None for as many as there are cores, if there are enough rows."""
        self.hands = hands
        self._wished = workers
        self._pool: ProcessPoolExecutor | None = None

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.stop()

    def stop(self) -> None:
        """Lets everybody finish what they are at, and nothing more."""
        if self._pool is not None:
            self._pool.shutdown(cancel_futures=True)
            self._pool = None

    def alone(self) -> None:
        """From now on nobody else helps: somebody may have to be asked."""
        self._wished = 1

    def each(self, work: Work[T], rows: Iterable[Row]) -> Iterator[tuple[Row, T]]:
        """Every row with what it comes to. Raises what the work does, `RefusedError` where a helper is lost."""
        rows = iter(rows)
        first = list(islice(rows, WORTH_IT))
        every = chain(first, rows)
        workers = self._wished or cores()
        if workers == 1 or (self._wished is None and len(first) < WORTH_IT and self._pool is None):
            while packet := list(islice(every, AT_ONCE)):
                yield from zip(packet, work(self.hands, packet), strict=True)
            return
        waiting: deque[tuple[list[Row], Future[tuple[list[T], News]]]] = deque()
        pool = self._ready(workers)
        try:
            while packet := list(islice(every, AT_ONCE)):
                waiting.append((packet, pool.submit(_packet, work, packet)))
                if len(waiting) > _AHEAD * workers:
                    yield from self._taken(*waiting.popleft())
            while waiting:
                yield from self._taken(*waiting.popleft())
        except BrokenProcessPool as error:
            remedy = "is the memory full? --workers 1 needs the least"
            raise RefusedError("a process that helped has ended", remedy=remedy) from error

    def _taken(self, packet: list[Row], future: Future[tuple[list[T], News]]) -> Iterator[tuple[Row, T]]:
        made, news = future.result()
        for key, findings in news.always.items():
            self.hands.roster.meet(key, findings)
        ours = dict(self.hands.roster.sources()) if news.sources else {}
        for key, sources in news.sources.items():
            if ours.get(key, sources) != sources:
                told = "a draft, or a profile of it, changed while it was worked on"
                raise ChangedError(told, file=sources[0][0], remedy="run it again")
        if self.hands.keys is not None:
            self.hands.keys.heard(news.outside)
        yield from zip(packet, made, strict=True)

    def _ready(self, workers: int) -> ProcessPoolExecutor:
        if self._pool is None:
            # where a process can be doubled, what it has prepared is doubled with it
            _OURS[:] = [self.hands] if doubles() else []
            self._pool = helpers(workers, _take, lambda: (self.hands.spec(),))
        return self._pool


_OURS: list[Hands] = []
"""The hands of this process, where it is a helper."""


def _take(spec: Spec) -> None:
    _OURS[:] = [spec.hands()]


def _packet(work: Work[T], rows: list[Row]) -> tuple[list[T], News]:
    hands = _OURS[0]
    made = work(hands, rows)
    told = hands.own.setdefault("told", {})
    always = {key: found for key, found in hands.roster.met() if told.get(key) != found}
    told |= always
    known: dict[tuple[str, str], tuple[tuple[str, str], ...]] = hands.own.setdefault("sources", {})
    sources = {key: found for key, found in hands.roster.sources() if key not in known}
    known |= sources
    return made, News(always, sources, hands.keys.outside if hands.keys is not None else ())
