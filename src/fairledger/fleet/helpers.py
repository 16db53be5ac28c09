"""Processes that help; what they are made of is loaded only where there are any."""

from __future__ import annotations

import os
import signal
import sys
import threading
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from concurrent.futures import ProcessPoolExecutor


def doubles() -> bool:
    """Whether helpers are doubles of this process, which have all that it has."""
    return sys.platform == "linux" and threading.active_count() == 1


def helpers(workers: int, take: Callable[..., None], what: Callable[[], tuple[Any, ...]]) -> ProcessPoolExecutor:
    """Processes that help. Those that are no doubles are handed ``what`` they need, with which they call ``take``."""
    import multiprocessing
    from concurrent.futures import ProcessPoolExecutor

    doubled = doubles()
    context = multiprocessing.get_context("fork" if doubled else "spawn")
    asked = () if doubled else (take, *what())
    return ProcessPoolExecutor(workers, mp_context=context, initializer=_begin, initargs=asked)


def cores() -> int:
    """How many processes can work at once here."""
    if hasattr(os, "sched_getaffinity"):
        return len(os.sched_getaffinity(0))
    return os.cpu_count() or 1


def _begin(take: Callable[..., None] | None = None, *what: Any) -> None:
    """Makes a process a helper: interruptions are for the one that it helps, and it ends with that."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    if take is not None:
        take(*what)
    threading.Thread(target=_end_with_parent, daemon=True).start()


def _end_with_parent() -> None:
    from multiprocessing import parent_process

    parent = parent_process()
    if parent is not None:
        parent.join()
        os._exit(1)
