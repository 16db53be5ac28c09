"""What a command costs grows with its input, and not with the square of it. Calls are counted, nothing is timed."""

from __future__ import annotations

import contextlib
import cProfile
import io
from pathlib import Path

import pytest

from fairledger.cli.main import main
from growing import FILES

SIZES = (15, 45, 135)


def calls(arguments: list[str]) -> int:
    """How many functions a command calls. It must not be a mistake of our own."""
    profile = cProfile.Profile()
    with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
        profile.enable()
        try:
            status = main(arguments)
        finally:
            profile.disable()
    assert status != 5
    profile.create_stats()
    return sum(row[1] for row in profile.stats.values())  # type: ignore[attr-defined]


def arguments_of(command: str, file: Path) -> list[str]:
    target = {".xml": ["--target", "windows-11-24h2"], ".ks": ["--target", "el-9"]}.get(file.suffix, [])
    more = {
        "adopt": ["--out", str(file.with_name("out.toml")), "--replace"],
        "compare": [str(file.with_name(f"b{file.name}"))],
    }
    return [command, str(file), *target, *more.get(command, [])]


CASES = [
    (command, name)
    for name in FILES
    for command in ("check", "explain", "questions", "compare", "show" if name.endswith("toml") else "adopt")
]


@pytest.mark.parametrize(("command", "name"), CASES)
def test_the_cost_grows_no_faster_than_the_file(tmp_path, monkeypatch, command, name):
    monkeypatch.setenv("FAIRLEDGER_LIBRARY", str(tmp_path / "library"))
    file = tmp_path / name
    counted = []
    for size in (SIZES[0], *SIZES):  # once to warm up
        file.write_text(FILES[name](size))
        file.with_name(f"b{name}").write_text(FILES[name](size + 1))
        counted.append(calls(arguments_of(command, file)))
    small, middle, large = counted[1:]
    # three times as much more for three times as many; twice that already is the square
    assert large - middle < 5 * max(middle - small, 1_500), counted
