"""What a command costs grows with its input, and not with the square of it. Calls are counted, nothing is timed."""

from __future__ import annotations

import contextlib
import cProfile
import io
from collections.abc import Callable
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
        "write": ["--out", str(file.with_name("out")), "--replace"],
        "carry": ["--to", "windows-10-22h2" if "windows" in file.read_text() else "el-10"],
        "set": [{".xml": "ComputerName=x", ".ks": "lang=de_DE"}.get(file.suffix, "identity.owner=x")],
        "fix": ["--fix"],
    }
    return ["check" if command == "fix" else command, str(file), *target, *more.get(command, [])]


CASES = [
    (command, name)
    for name in FILES
    for command in (
        *("check", "explain", "questions", "compare", "set", "fix"),
        *(("show", "write", "--route", "plain", "carry") if name.endswith("toml") else ("adopt",)),
    )
    # each correction reads the file anew; what bounds that is how many one run makes
    if (command, name) != ("fix", "orders.xml")
]


def grows_with_its_input(make: Callable[[int], list[str]]) -> None:
    """``make`` prepares files of a size and gives the command line over them."""
    counted = [calls(make(size)) for size in (SIZES[0], *SIZES)]  # once to warm up
    small, middle, large = counted[1:]
    # three times as much more for three times as many; twice that already is the square
    assert large - middle < 5 * max(middle - small, 1_500), counted


@pytest.mark.parametrize(("command", "name"), CASES)
def test_the_cost_grows_no_faster_than_the_file(tmp_path, monkeypatch, command, name):
    monkeypatch.setenv("FAIRLEDGER_LIBRARY", str(tmp_path / "library"))
    file = tmp_path / name

    def make(size: int) -> list[str]:
        file.write_text(FILES[name](size))
        file.with_name(f"b{name}").write_text(FILES[name](size + 1))
        return arguments_of(command, file)

    grows_with_its_input(make)


@pytest.mark.parametrize("line", ["list", "check", "show kind/p0", "chain"])
def test_the_cost_grows_no_faster_than_the_library(tmp_path, monkeypatch, line):
    """Profiles of which each needs the next, and drafts that build on them."""
    monkeypatch.setenv("FAIRLEDGER_LIBRARY", str(tmp_path / "profiles"))
    monkeypatch.chdir(tmp_path)
    kind = tmp_path / "profiles" / "kind"
    kind.mkdir(parents=True)

    def make(size: int) -> list[str]:
        for at in range(size):
            needs = f'needs = ["kind/p{at + 1}"]\n' if at + 1 < size else ""
            head = f'format = 1\n[profile]\ntitle = "p"\nabout = "p"\n{needs}'
            (kind / f"p{at}.toml").write_text(f'{head}[locale]\nlanguage = "en-GB"\n')
            uses = f'profiles = ["kind/p{at - at % 5}"]' if at < 5 else ""
            (tmp_path / f"d{at}.toml").write_text(f'format = 1\n[draft]\ntarget = "el-9"\n{uses}\n')
        return ["check", "d0.toml"] if line == "chain" else ["profile", *line.split()]

    grows_with_its_input(make)


@pytest.mark.parametrize("inner", ["", "%include /b\n"])
def test_the_cost_grows_no_faster_than_what_is_taken_in(tmp_path, inner):
    (tmp_path / "b").write_text("lang en_GB.UTF-8\n")

    def make(size: int) -> list[str]:
        (tmp_path / "a").write_text(inner)
        lines = "".join(f"%include /{'a' if at % 2 else f'missing{at}'}\n" for at in range(size))
        scripts = "".join(f"%pre\necho >/tmp/{at}\n%end\n" for at in range(size))
        (tmp_path / "top.ks").write_text(lines + scripts)
        return ["check", str(tmp_path / "top.ks"), "--root", str(tmp_path), "--target", "el-9"]

    grows_with_its_input(make)
