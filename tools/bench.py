"""Prints speeds as ratios of one run: whole commands against the bare interpreter's start."""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from fairledger.delivery.fill import filled
from fairledger.delivery.prepare import prepare
from fairledger.subject.opening import opened_draft

ROUNDS = 15


def best(command: list[str], folder: Path, rounds: int = ROUNDS) -> float:
    """Seconds of the fastest of some runs."""
    times = []
    for _ in range(rounds):
        begin = time.perf_counter()
        subprocess.run(command, cwd=folder, capture_output=True, check=False)
        times.append(time.perf_counter() - begin)
    return min(times)


def grown(text: str, lines: int) -> str:
    """An answer file with as many commands as make it about that long."""
    item = (
        '        <RunSynchronousCommand wcm:action="add">\n          <Order>{0}</Order>\n'
        "          <Path>cmd /c echo {0}</Path>\n          <Description>Station {0}</Description>\n"
        "        </RunSynchronousCommand>\n"
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
            ("check, answer file of 300 lines", ["check", "long.xml"], 9),
            ("check, draft with four profiles", ["check", "desk.toml"], 10),
            ("check, kickstart file", ["check", "gate/ks.cfg"], 9),
            ("about", ["about", "windows-11-24h2", "TimeZone"], 10),
            ("find", ["find", "windows-11-24h2", "time", "zone"], 10),
            ("export of a whole catalog", ["export", "windows-11-24h2", "--as", "json"], None),
        )
        for told, arguments, most in rows:
            ratio = best([*program, *arguments], demo) / bare
            print(f"{told}: {ratio:.1f} times" + (f" (at most {most})" if most else ""))
        many_files(program, demo, text)
        rows_of_a_roster(demo)


def many_files(program: list[str], demo: Path, text: str) -> None:
    """300 answer files in one call, beside a check of the same files against our exported grammar."""
    folder = demo / "many"
    folder.mkdir()
    whole = grown(text, 300)
    for number in range(300):
        (folder / f"{number}.xml").write_text(whole.replace("LMR-DESK-01", f"LMR-DESK-{number}"), encoding="utf-8")
    names = sorted(str(path) for path in folder.iterdir())
    taken = best([*program, "check", *names, "--format", "json"], demo, 5)
    print(f"check, 300 answer files of 300 lines in one call: {300 / taken:.0f} a second, start included")
    tool = shutil.which("xmllint")
    if tool:
        target = "windows-11-24h2"
        made = subprocess.run([*program, "export", target, "--as", "relaxng"], capture_output=True, check=True)
        (demo / "grammar.rng").write_bytes(made.stdout)
        beside = best([tool, "--noout", "--relaxng", "grammar.rng", *names], demo, 5)
        print(f"that is {taken / beside:.1f} times what xmllint takes with the exported grammar")
    else:
        print("xmllint is not installed: not compared")


def rows_of_a_roster(demo: Path) -> None:
    """Drafts that are prepared once and filled again and again, with all rules that depend on it; no passwords."""
    for name in ("desk", "gate", "host"):
        draft = opened_draft(demo / f"{name}.toml")
        prepared = prepare(draft, "plain", without_secrets=True)
        rows = [dict.fromkeys(prepared.blanks, str(number)) for number in range(10, 210)]
        taken = []
        for _ in range(5):
            begin = time.perf_counter()
            for values in rows:
                filled(prepared, values, None)
            taken.append((time.perf_counter() - begin) / len(rows))
        print(f"one more machine, {name}: {min(taken) * 1000:.2f} ms (at most 0.25)")


if __name__ == "__main__":
    main()
