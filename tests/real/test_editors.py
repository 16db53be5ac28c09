"""What an editor's language server makes of a draft's head and of its schema."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

TAPLO = shutil.which("taplo", path=str(Path(sys.executable).parent))
pytestmark = pytest.mark.skipif(not os.environ.get("REAL") or TAPLO is None, reason="make real")


def complaints(program) -> str:
    assert TAPLO is not None
    done = subprocess.run([TAPLO, "lint", "desk.toml"], cwd=program.folder, capture_output=True, text=True, check=False)
    return done.stdout + done.stderr


def test_the_line_that_start_writes_leads_an_editor_to_the_schema(program):
    program("start", "desk.toml", "--target", "windows-11", "--edition", "Pro")
    program("set", "desk.toml", "bypass.network=true", "identity.name=LMR-DESK-${number}", "OOBE/HideEULAPage=true")
    program("export", "windows-11", "--out", "windows-11-25h2.schema.json")
    assert "error" not in complaints(program)
    text = (program.folder / "desk.toml").read_text()
    program.file("desk.toml", text.replace("network = true", "netwrk = true"))
    assert "'netwrk' was unexpected" in complaints(program)
