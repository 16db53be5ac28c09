"""Programs of others: where they are, how they are got, and watching them while they make something large."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.model.errors import FileTroubleError
from fairledger.storage.looking import is_file, is_there, size_of

Progress = Callable[[str, int, int], None]
"""Told what is done, how many bytes of it, and of how many; zero where nobody knows that."""
_LOOKS_EVERY = 0.2
_MOST_SAID = 300


class Program(Struct, frozen=True, kw_only=True):
    """A program that is used where it is installed."""

    makes: str
    instead: str = ""
    """What can be done without it."""
    debian: str = ""
    fedora: str = ""
    macos: str = ""


@cache
def programs() -> dict[str, Program]:
    """All of them, by their names."""
    return msgspec.toml.decode(Path(__file__).with_name("programs.toml").read_bytes(), type=dict[str, Program])


def where_is(name: str) -> str | None:
    """Where a program is, looked for in the folders of ``PATH`` alone: this may run in one that is a medium."""
    folders = [folder for folder in os.get_exec_path() if Path(folder).is_absolute()]
    return next((found for folder in folders if (found := shutil.which(str(Path(folder) / name)))), None)


def lacking(name: str) -> str:
    """What is to be done where a program is missing: a line for a plan; empty where it is there."""
    if where_is(name) is not None:
        return ""
    one = programs()[name]
    ways = {"linux": [one.debian, one.fedora], "darwin": [one.macos]}.get(sys.platform, [])
    ways = [way for way in ways if way]
    told = f"the program {name}, which makes {one.makes}"
    told += f": {' or '.join(ways)}" if ways else "; this system has no usual package of it"
    return f"{told}; {one.instead}" if one.instead else told


def run_program(
    name: str, arguments: Sequence[str], *, makes: Path | None = None, size: int = 0, progress: Progress | None = None
) -> str:
    """Runs a program, and tells how far it is by what it has written to ``makes``, of about ``size`` bytes.

    Gives what it said. Raises `FileTroubleError` with its last words where it fails.
    """
    found = where_is(name)
    if found is None:
        raise FileTroubleError(f"the program {name} is not installed", file=name, remedy=lacking(name))
    with tempfile.TemporaryFile() as said:
        running = subprocess.Popen(  # noqa: S603 - looked for in absolute folders alone
            [found, *arguments], stdin=subprocess.DEVNULL, stdout=said, stderr=subprocess.STDOUT
        )
        try:
            while True:
                try:
                    running.wait(_LOOKS_EVERY)
                    break
                except subprocess.TimeoutExpired:
                    if progress is not None and makes is not None and is_file(makes):
                        progress(f"{name} wrote", min(size_of(makes), size), size)
        except BaseException:
            running.kill()
            running.wait()
            raise
        said.seek(0)
        text = said.read().decode("utf-8", "replace")
    if progress is not None and size:
        progress(f"{name} wrote", size, size)
    if running.returncode != 0:
        raise FileTroubleError(f"{name} failed: {_last(text)}", file=str(makes or name), remedy="is there room for it?")
    return text


def _last(text: str) -> str:
    """The last words of a program that mean something."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    bad = [line for line in lines if any(one in line for one in ("FATAL", "FAILURE", "ERROR", "rror:", "annot"))]
    return (bad or lines or ["it said nothing"])[-1][:_MOST_SAID]


def free_in(folder: Path) -> int | None:
    """The bytes that are free where a folder is, or will be; None where nobody knows."""
    here = next((one for one in (folder, *folder.absolute().parents) if is_there(one)), None)
    return shutil.disk_usage(here).free if here is not None else None
