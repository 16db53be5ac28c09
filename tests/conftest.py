"""Fixtures that the tests share."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any, TextIO

import pytest
from hypothesis import settings

from factories import DESK, TIMES
from fairledger.catalog.catalog import Catalog
from fairledger.catalog.meant import target_named
from fairledger.cli.status import Status

# noise on a shared machine is no mistake, and what chance finds in one change is not laid on the next
settings.register_profile("steady", deadline=None, derandomize=TIMES == 1)
settings.load_profile("steady")


@pytest.fixture(scope="session")
def desk_catalog() -> Catalog:
    target = target_named(DESK)
    return Catalog(target.family, target)


class Program:
    """The installed program in a temporary folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.environment = {
            **os.environ,
            "COLUMNS": "100",
            "NO_COLOR": "1",
            "FAIRLEDGER_LIBRARY": str(folder / "library"),
            "FAIRLEDGER_CACHE": str(folder / "cache"),
        }

    def __call__(self, *arguments: str, status: int = 0, **environment: str) -> subprocess.CompletedProcess[str]:
        """Runs a command line; the status must be as stated, and no traceback may show."""
        done = self.any(*arguments, **environment)
        assert done.returncode == status, f"{arguments}\n{done.stdout}\n{done.stderr}"
        return done

    def json(self, *arguments: str, status: int = 0, **environment: str) -> Any:
        """The result for machines."""
        return json.loads(self(*arguments, "--format", "json", status=status, **environment).stdout)

    def any(self, *arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
        """Runs a command line, whatever its status, unless that is a mistake of our own."""
        done = subprocess.run(
            [sys.executable, "-m", "fairledger", *arguments],
            cwd=self.folder,
            env={**self.environment, **environment},
            stdin=subprocess.DEVNULL,
            capture_output=True,
            text=True,
            encoding="utf-8",
            timeout=60,
        )
        assert done.returncode != Status.OUR_BUG, f"{arguments}\n{done.stderr}"
        assert "Traceback" not in done.stderr, f"{arguments}\n{done.stderr}"
        return done

    def into(self, output: TextIO | None, *arguments: str) -> subprocess.CompletedProcess[str]:
        """Runs a command line with another standard output; None closes it."""
        return subprocess.run(
            [sys.executable, "-m", "fairledger", *arguments],
            cwd=self.folder,
            env=self.environment,
            stdout=output,
            stderr=subprocess.PIPE,
            text=True,
            encoding="utf-8",
            timeout=60,
            preexec_fn=(lambda: os.close(1)) if output is None else None,
        )

    def file(self, name: str, text: str | bytes) -> Path:
        """A file in the folder."""
        path = self.folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(text.encode() if isinstance(text, str) else text)
        return path


@pytest.fixture
def program(tmp_path: Path) -> Program:
    return Program(tmp_path)
