"""The same work on many files, in this process or in several; what comes of them stays in their order."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol, TypeVar

from fairledger.fleet.helpers import cores, doubles, helpers
from fairledger.model.errors import RefusedError

if TYPE_CHECKING:
    from concurrent.futures import Future

T_co = TypeVar("T_co", covariant=True)
WORTH_IT = 40
"""With fewer files than this nobody is asked to help."""
_AT_ONCE = 25
_AHEAD = 3


class Work(Protocol[T_co]):
    """What is done with a file. It goes to each helper once, and may keep for the next what it worked out."""

    def __call__(self, path: Path) -> T_co:
        """What comes of it, small enough to be handed on."""


def over(files: Sequence[Path], work: Work[T_co], workers: int | None = None) -> Iterator[T_co]:
    """What comes of every file. ``workers`` is how many processes; None for as many as there are cores, if worth it.

    Raises what the work does, and `RefusedError` where a helper is lost.
    """
    workers = workers or (cores() if len(files) >= WORTH_IT else 1)
    if workers == 1:
        yield from map(work, files)
        return
    from concurrent.futures.process import BrokenProcessPool

    packets = [files[at : at + _AT_ONCE] for at in range(0, len(files), _AT_ONCE)]
    _OURS[:] = [work] if doubles() else []
    with helpers(workers, _begin, lambda: (work,)) as pool:
        waiting: deque[Future[list[Any]]] = deque()
        try:
            for packet in packets:
                waiting.append(pool.submit(_packet, packet))
                if len(waiting) > _AHEAD * workers:
                    yield from waiting.popleft().result()
            while waiting:
                yield from waiting.popleft().result()
        except BrokenProcessPool as error:
            raise RefusedError("a process that helped has ended", remedy="name fewer files at once") from error
        finally:
            pool.shutdown(cancel_futures=True)


_OURS: list[Work[Any]] = []
"""The work of this process, where it is a helper."""


def _begin(work: Work[Any]) -> None:
    _OURS[:] = [work]


def _packet(paths: Sequence[Path]) -> list[Any]:
    return [_OURS[0](path) for path in paths]
