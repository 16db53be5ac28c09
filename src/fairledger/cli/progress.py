"""How far something is: a line that is written over again and again, on a terminal alone."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable

from fairledger.cli.console import Console, columns

Progress = Callable[[str, int, int], None]
"""Told what is done, how much of it, and of how much; zero where nobody knows that."""
_WIDTH = 24


def progress_of(console: Console, *, per: int = 1, unit: str = "", rows: str = " rows") -> Progress:
    """Such a line; ``per`` of what is counted make one ``unit``."""
    if console.json or sys.stderr is None or not sys.stderr.isatty():
        return lambda _what, _done, _of: None
    begun, last, before = time.monotonic(), 0.0, ""

    def told(what: str, done: int, of: int) -> None:
        nonlocal begun, last, before
        now = time.monotonic()
        if what != before:
            begun, before = now, what
        if now - last < 0.1 and done != of:
            return
        last = now
        rate = done / max(now - begun, 1e-6)
        if of:
            filled = _WIDTH * done // of
            bar, left = "#" * filled + "." * (_WIDTH - filled), f", {(of - done) / max(rate, 1e-6):.0f} s left"
            line = f"{bar} {what} {done // per:,} of {of // per:,}{unit}, {rate / per:,.0f} a second{left}"
        else:
            line = f"{what} {done // per:,}{unit or rows}, {rate / per:,.0f} a second"
        line = f"\r{line:<76}"[: columns()]
        sys.stderr.write(line + ("\r" + " " * (len(line) - 1) + "\r" if done == of else ""))
        sys.stderr.flush()

    return told
