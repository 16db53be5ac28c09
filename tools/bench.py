"""Prints speeds as ratios of one run: whole commands against the bare interpreter's start."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROUNDS = 15


def best(command: list[str], folder: Path) -> float:
    """Seconds of the fastest of some runs."""
    times = []
    for _ in range(ROUNDS):
        begin = time.perf_counter()
        subprocess.run(command, cwd=folder, capture_output=True, check=False)
        times.append(time.perf_counter() - begin)
    return min(times)


def grown(text: str, lines: int) -> str:
    """An answer file with as many commands as make it about that long."""
    item = (
        "        <RunSynchronousCommand>\n          <Order>{0}</Order>\n          <Path>cmd /c echo {0}</Path>\n"
        "          <Description>Station {0}</Description>\n        </RunSynchronousCommand>\n"
    )
    mark = '      </RunSynchronous>\n    </component>\n  </settings>\n  <settings pass="oobeSystem">'
    if mark not in text:
        raise SystemExit("the demo's answer file has another shape than this benchmark expects")
    count = (lines - text.count("\n")) // 5
    return text.replace(mark, "".join(item.format(number) for number in range(100, 100 + count)) + mark)


def main() -> None:
    """Measures and prints."""
    program = [sys.executable, "-m", "fairledger"]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        subprocess.run([*program, "demo", "--out", "demo"], cwd=folder, capture_output=True, check=True)
        demo = folder / "demo" / "stations"
        text = (demo / "out" / "autounattend.xml").read_text(encoding="utf-8")
        (demo / "long.xml").write_text(grown(text, 300), encoding="utf-8")
        bare = best([sys.executable, "-c", "pass"], demo)
        print(f"bare interpreter: {bare * 1000:.0f} ms")
        rows = (
            ("--help", ["--help"], 5),
            ("check, answer file of 300 lines", ["check", "long.xml"], 12),
            ("check, draft with four profiles", ["check", "desk.toml"], None),
            ("check, kickstart file", ["check", "gate/ks.cfg"], 12),
            ("about", ["about", "windows-11-24h2", "TimeZone"], 10),
            ("find", ["find", "windows-11-24h2", "time", "zone"], 10),
            ("export of a whole catalog", ["export", "windows-11-24h2", "--as", "json"], None),
        )
        for told, arguments, most in rows:
            ratio = best([*program, *arguments], demo) / bare
            print(f"{told}: {ratio:.1f} times" + (f" (at most {most})" if most else ""))


if __name__ == "__main__":
    main()
