"""Five whole jobs, each played from an empty folder: few commands, fewer dead ends, and what they were for at the end."""

from __future__ import annotations

import shlex
import shutil
import tomllib
from pathlib import Path

import pytest

JOBS = Path(__file__).parents[1] / "jobs"
MOST_COMMANDS, MOST_DEAD_ENDS = 14, 2


@pytest.mark.parametrize("path", sorted(JOBS.glob("*.toml")), ids=lambda path: path.stem)
def test_a_job_takes_few_commands(program, path):
    job = tomllib.loads(path.read_text(encoding="utf-8"))
    if (JOBS / path.stem).is_dir():
        shutil.copytree(JOBS / path.stem, program.folder, dirs_exist_ok=True)
    steps = job["step"]
    assert len(steps) <= MOST_COMMANDS
    assert sum(step.get("dead_end", False) for step in steps) == MOST_DEAD_ENDS, "two natural mistakes belong to each"
    told = ""
    for step in steps:
        done = program.any(*shlex.split(step["run"]), **job.get("environment", {}))
        told += done.stdout
        whole = " ".join((done.stdout + done.stderr).split())
        wanted = step.get("status", None if step.get("dead_end") else 0)
        assert done.returncode == wanted or (wanted is None and done.returncode), f"{step['run']}\n{whole}"
        assert step.get("tells", "") in whole, f"{step['run']}\n{whole}"
    for end in job["ends"]:
        if "told" in end:
            assert end["told"] in told
            continue
        text = (program.folder / end["file"]).read_text(encoding="utf-8")
        assert [one for one in end.get("holds", ()) if one not in text] == []
        assert [one for one in end.get("lacks", ()) if one in text] == []
