"""Makes the pictures of docs/screenshots from the demo data, with the terminal tool named in TERMINAL_SHOT."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import tomllib
from pathlib import Path

import media

SHOTS = {
    "targets": (".", "targets"),
    "find": ("stations", "find windows-11 auto logon"),
    "about": ("stations", "about disk.partition.role"),
    "show": ("stations", "show desk.toml"),
    "check": ("stations", "check broken.xml --firmware uefi"),
    "profiles": ("stations", "profile list"),
    "tidy": ("stations", "tidy list windows-11-24h2 findable"),
    "show-tidy": ("stations", "show archive.toml --tidy"),
    "compare": ("stations", "compare elsewhere.ks gate/ks.cfg"),
    "questions": ("stations", "questions desk.toml"),
    "explain": ("stations", "explain elsewhere.ks"),
    "routes": ("stations", "routes windows-11-24h2"),
    "deliver": ("stations", "deliver finished.toml --to stick:blank --from stick --fill number=01 --dry-run"),
    "medium": ("stations", "medium server.iso"),
    "check-medium": ("stations", "check finished.toml --medium media/server.toml"),
    "roster": ("stations", "roster write gate.toml stations.csv --keep-going --out again"),
    "demo": (".", "demo --out again"),
}
"""Name of the picture, folder of the demo, command line."""


WIDE = ("check-medium", "show")
"""Output that fills the window's last columns, of which the usual letters would be cut off."""
BEGINNING = """#!/bin/sh
COLUMNS=$(($(tput cols) - 8)) {program} --colour always "$@" 2>&1 | head -n $(($(tput lines) - 3))
"""
"""Stands for the program in the pictures: what would scroll the beginning away is left out."""
BROWSERS = ("chromium", "chromium-browser", "google-chrome")


def main() -> None:
    """Plays the demo and photographs each command in a window, from the beginning of its output on."""
    tool = os.environ.get("TERMINAL_SHOT")
    if not tool:
        raise SystemExit("set TERMINAL_SHOT to a program that is called as: OUT.png COMMAND ARGUMENT ...")
    program = str(Path(sys.executable).with_name("fairledger"))
    pictures = Path(__file__).parents[1] / "docs" / "screenshots"
    wanted = sys.argv[1:] or list(SHOTS)
    with tempfile.TemporaryDirectory() as name:
        demo = Path(name) / "demo"
        subprocess.run([program, "demo", "--out", str(demo)], capture_output=True, check=True)
        secrets = tomllib.loads((pictures.parents[1] / "examples" / "demo.toml").read_text(encoding="utf-8"))[
            "environment"
        ]
        beginning = Path(name) / "bin" / "fairledger"
        beginning.parent.mkdir()
        beginning.write_text(BEGINNING.format(program=program), encoding="utf-8")
        beginning.chmod(0o755)
        environment = {
            **os.environ,
            **secrets,
            "SHOT_FONT": "9",
            "PATH": f"{beginning.parent}{os.pathsep}{os.environ['PATH']}",
        }
        if not media.missing():
            media.server_disc(demo / "stations" / "server.iso", Path(name))
            media.desk_stick(demo / "stations" / "stick", Path(name))
            (demo / "stations" / "blank").mkdir()
        figure = str(pictures / "disk-figure.png")
        subprocess.run([program, "show", "desk.toml", "--figure", figure], cwd=demo / "stations", check=True)
        page = demo / "stations" / "page.html"
        command = [program, "explain", "elsewhere.ks", "--format", "html", "--out", str(page)]
        subprocess.run(command, cwd=demo / "stations", check=True)
        browser = next((found for name in BROWSERS if (found := shutil.which(name))), None)
        if browser and "explain-page" in (sys.argv[1:] or ["explain-page"]):
            shot = f"--screenshot={pictures / 'explain-page.png'}"
            flags = ["--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", "--window-size=1280,800"]
            subprocess.run([browser, *flags, shot, page.as_uri()], capture_output=True, check=True)
        for shot in [one for one in wanted if one in SHOTS]:
            folder, line = SHOTS[shot]
            command = [tool, str(pictures / f"{shot}.png"), "fairledger", *line.split()]
            font = {"SHOT_FONT": "8"} if shot in WIDE else {}
            subprocess.run(command, cwd=demo / folder, env={**environment, **font}, check=True)


if __name__ == "__main__":
    main()
