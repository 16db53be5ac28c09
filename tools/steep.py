"""What a command takes on files four times as large: finds what grows faster than its input and calls nothing.

    steep.py [PART OF A NAME...]

The tests count calls; searching a list, or adding to a text, is no call. Prints what takes
more than eight times as long.
"""

from __future__ import annotations

import contextlib
import io
import os
import random
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from fairledger.cli.main import main

sys.path.insert(0, str(Path(__file__).resolve().parents[1] / "tests"))
from growing import FILES  # type: ignore[import-not-found]

SIZES = (500, 2_000, 8_000)
STEEP = 8.0
"""How many times as long four times as much may take; the collector of garbage makes four into six."""
COMMANDS = ("check", "explain", "questions", "show", "write", "compare", "adopt", "fix")


def line_of(command: str, file: Path) -> list[str] | None:
    """A command line over a file; None where the command takes no such files."""
    draft = file.suffix == ".toml"
    if draft != (command in ("show", "write")) and command in ("show", "write", "adopt"):
        return None
    target = {".xml": ["--target", "windows-11-24h2"], ".ks": ["--target", "el-9"]}.get(file.suffix, [])
    more = {
        "adopt": ["--out", str(file.with_name("out.toml")), "--replace"],
        "write": ["--out", str(file.with_name("out")), "--replace"],
        "compare": [str(file.with_name(f"b{file.name}"))],
        "fix": ["--fix"],
    }
    return ["check" if command == "fix" else command, str(file), *target, *more.get(command, [])]


def seconds(line: list[str]) -> float:
    """The CPU that a command takes."""
    began = time.process_time()
    with (
        contextlib.redirect_stdout(io.StringIO()),
        contextlib.redirect_stderr(io.StringIO()),
        contextlib.suppress(SystemExit),
    ):
        main(line)
    return time.process_time() - began


def steep(wanted: tuple[str, ...] = (), minutes: float = 60, chance: random.Random | None = None) -> Counter[str]:
    """Times commands over files of each kind, in the order of ``chance``, until the time is over."""
    counts: Counter[str] = Counter()
    pairs = [(command, kind) for kind in FILES for command in COMMANDS]
    if chance is not None:
        chance.shuffle(pairs)
    ends = time.monotonic() + minutes * 60
    with tempfile.TemporaryDirectory() as name:
        os.environ["FAIRLEDGER_LIBRARY"] = str(Path(name) / "library")
        for command, kind in pairs:
            file = Path(name) / kind
            line = line_of(command, file)
            if line is None or time.monotonic() > ends or not all(part in f"{command} {kind}" for part in wanted):
                continue
            took = []
            for size in SIZES:
                file.write_text(FILES[kind](size))
                file.with_name(f"b{kind}").write_text(FILES[kind](size + 1))
                took.append(seconds(line))
            counts["sizes"] += 1
            if took[2] > 1 and took[2] - took[1] > STEEP * (took[1] - took[0]):
                counts["slow"] += 1
                print(f"steep: {command} {kind}: " + ", ".join(f"{one:.2f} s" for one in took), flush=True)
    return counts


if __name__ == "__main__":
    print(steep(tuple(sys.argv[1:])))
