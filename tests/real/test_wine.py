"""Generated commands of Windows, run by wine: what they write is read back from its registry and its drive.

``make real`` installs wine and runs this; without wine it is left out.
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
from pathlib import Path

import pytest

from factories import NOWHERE, resolved
from fairledger.families.windows.command_lines import FOLDER, keeping, kept_launcher, launcher
from fairledger.families.windows.later import from_batch, in_batch, with_log
from fairledger.subject.opening import of_draft

WINE = shutil.which("wine")
pytestmark = pytest.mark.skipif(not (WINE and os.environ.get("REAL")), reason="only make real runs it")
CHOICES = "[bypass]\nmemory = true\nnetwork = true\n[locale]\nutc_clock = true\n"


class System:
    """A Windows of its own, as far as wine is one."""

    def __init__(self, folder: Path) -> None:
        self.env = {**os.environ, "WINEPREFIX": str(folder / "wine"), "WINEDEBUG": "-all"}
        self.run("wineboot", "--init")
        self.drive = folder / "wine/drive_c"
        self.medium = self.drive / "medium"
        self.medium.mkdir()
        (folder / "wine/dosdevices/d:").symlink_to(self.medium)
        subprocess.run(["wineserver", "-k"], env=self.env, check=False)  # drives are looked for at its start

    def run(self, *words: str) -> str:
        done = subprocess.run([str(WINE), *words], env=self.env, capture_output=True, check=False, timeout=300)
        return done.stdout.decode(errors="replace")

    def batch(self, *lines: str) -> str:
        """What a batch file of these lines prints."""
        path = self.drive / "station.cmd"
        path.write_bytes("\r\n".join(("@echo off", *lines, "")).encode())
        return self.run("cmd", "/c", r"C:\station.cmd")


@pytest.fixture(scope="module")
def system(tmp_path_factory):
    return System(tmp_path_factory.mktemp("system"))


def lines(fragment: str, target: str) -> list[str]:
    """The command lines that a fragment comes to."""
    seats = of_draft(resolved(f'[draft]\ntarget = "{target}"\n{fragment}'), NOWHERE).seats
    return [str(seat.value) for seat in seats if seat.setting is not None and seat.setting.kind == "command"]


def test_the_registry_holds_what_was_chosen(system):
    made = [one for one in lines(CHOICES, "windows-11-24h2") if one.startswith("reg add")]
    made += [one for one in lines('[locale]\nregion = "PT"\n', "windows-7") if one.startswith("reg add")]
    assert len(made) > 3
    system.batch(*(in_batch(one) for one in made))
    for one in made:
        key = re.match(r'reg add ("[^"]+"|\S+) /v (\S+) /t (\S+) /d (\S+) /f', one)
        assert key, one
        told = system.run("reg", "query", key[1].strip('"'), "/v", key[2])
        value = f"0x{int(key[4]):x}" if key[3] == "REG_DWORD" else key[4]
        assert re.search(rf"{key[2]}\s+{key[3]}\s+{value}\s", told), (one, told)


@pytest.mark.parametrize("line", ["echo 100% of %OS%", "for %i in (1 2) do @echo %i%%", 'echo "50%" %OS:~0,3%'])
def test_a_line_means_the_same_in_a_batch_file(system, line):
    plain = {"echo 100% of %OS%": "100% of Windows_NT", 'echo "50%" %OS:~0,3%': '"50%" Win'}
    told = system.batch(str(in_batch(line)))
    assert told.split() == plain.get(line, "1%% 2%%").split()
    assert from_batch(in_batch(line)) == line


def test_scripts_are_kept_and_add_to_their_log(system):
    here = system.medium / FOLDER
    here.mkdir()
    (here / "1-sign-in.cmd").write_bytes(b"@echo wind %1\r\n")
    (here / "2-wireless.xml").write_bytes(b"<secret/>")
    system.batch(in_batch(keeping()))
    assert [one.name for one in (system.drive / FOLDER).iterdir()] == ["1-sign-in.cmd"]
    log = r"C:\larkmoor log.txt"
    call = kept_launcher(f"{FOLDER}/1-sign-in.cmd", "call ")
    system.batch(in_batch(str(with_log(call, log, in_shell=False, ends=True))))
    assert (system.drive / "larkmoor log.txt").read_text().strip() == "wind"
    assert system.batch(in_batch(launcher(f"{FOLDER}/1-sign-in.cmd", "call "))).split() == ["wind", "wind"]


def test_files_that_go_along_are_laid_down_where_the_draft_says(system):
    carried = system.medium / "fair-ledger" / "files"
    carried.mkdir(parents=True, exist_ok=True)
    (carried / "sky.png").write_bytes(b"sky")
    (made,) = lines("[[file]]\nsource = 'sky.png'\nto = 'C:\\Larkmoor Pictures\\Deep\\sky.png'\n", "windows-11-24h2")
    system.batch(str(in_batch(made)))
    assert (system.drive / "Larkmoor Pictures" / "Deep" / "sky.png").read_bytes() == b"sky"
