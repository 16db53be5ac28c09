"""Broken and hostile inputs, and kills at bad moments, for a while: prints what was tried and what went wrong.

    campaign.py MINUTES [SEED]

Seeds are the repository's own files. Where atheris is installed, a third of the time is guided by which code an input
reaches (`guided.py`); `steep.py` times what grows. Whatever it finds becomes a small test.
"""

from __future__ import annotations

import contextlib
import importlib.util
import io
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from steep import steep

from fairledger.cli.main import main
from fairledger.cli.status import Status

ROOT = Path(__file__).resolve().parents[1]
SEEDS = sorted(
    path
    for pattern in ("tests/**/files/*", "docs/profiles/examples/*.toml", "examples/stations/**/*.toml")
    for path in ROOT.glob(pattern)
    if path.suffix in (".xml", ".ks", ".toml")
)
FOUND = ("bugs", "slow", "torn")
SLOW = 5.0
"""Seconds of CPU after which an input counts as slow."""
PIECES = [
    *(
        b"\x00",
        b"\xff",
        b"\x1b[2J",
        b"\xc2\x9b",
        "\u202e".encode(),
        b"\r",
        b"\n",
        b"\\\n",
        b'"',
        b"'",
        b"<",
        b"&",
        b"]]>",
    ),
    *(b"%include x\n", b"%end\n", b"%post\n", b"<<E\n", b"${n}", b"$$", b"-", b"--", b"=", b"{", b"}", b"[", b"]"),
    *(b"[[a]]\n", b"<!DOCTYPE a>", b"<a/>", b"<Order>1</Order>", b"1e999", b"99999999999999999999", b"-1", b"a" * 300),
]
ADDRESSES = ["identity.name=a", "locale.language=de-DE", "network.interface", "lang=de_DE", "ComputerName=x", "a.b.c=1"]


def mutated(data: bytes, chance: random.Random, others: list[bytes]) -> bytes:
    """A file with a few bytes, lines or pieces changed."""
    out = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 3, 8))):
        at = chance.randrange(len(out) + 1)
        kind = chance.randrange(7)
        if kind == 0 and out:
            out[at % len(out)] = chance.randrange(256)
        elif kind == 1:
            out[at:at] = chance.choice(PIECES)
        elif kind == 2:
            del out[at : at + chance.randrange(1, 60)]
        elif kind == 3:
            end = at + chance.randrange(1, 200)
            out[at:at] = out[at:end] * chance.randrange(1, 20)
        elif kind == 4:
            other = chance.choice(others)
            begin = chance.randrange(len(other) + 1)
            out[at:at] = other[begin : begin + chance.randrange(200)]
        elif kind == 5:
            lines = bytes(out).split(b"\n")
            chance.shuffle(lines)
            out = bytearray(b"\n".join(lines))
        else:
            out = out[:at]
    return bytes(out)


def commands(file: Path, chance: random.Random) -> list[str]:
    """A command line over a file."""
    name, out = str(file), str(file.with_name("out"))
    target = chance.choice([[], [], ["--target", chance.choice(["windows-11-24h2", "windows-7", "el-9", "esxi-8"])]])
    other = str(file.with_name(f"other{file.suffix}"))
    fields = [chance.choice(ADDRESSES)]
    made = {
        "check": ["check", name, *target],
        "fix": ["check", "--fix", name, *target],
        "explain": ["explain", name, *target],
        "page": ["explain", name, *target, "--format", "html"],
        "questions": ["questions", name, *target],
        "json": ["check", name, *target, "--format", chance.choice(["json", "sarif", "junit"])],
        "adopt": ["adopt", name, *target, "--out", f"{out}.toml", "--replace"],
        "compare": ["compare", name, other],
        "show": ["show", name],
        "write": ["write", name, "--out", out, "--replace", "--without-secrets"],
        "carry": ["carry", name, "--to", chance.choice(["windows-10-22h2", "el-10"])],
        "set": ["set", name, *fields, *target],
        "unset": ["unset", name, fields[0].partition("=")[0], *target],
    }
    return made[chance.choice(list(made))]


def fuzz(minutes: float, chance: random.Random, folder: Path) -> Counter[str]:
    """Runs commands over broken files until the time is over."""
    counts: Counter[str] = Counter()
    others = [path.read_bytes() for path in SEEDS]
    ends = time.monotonic() + minutes * 60
    os.environ["FAIRLEDGER_LIBRARY"] = str(folder / "library")
    while time.monotonic() < ends:
        seed = chance.choice(SEEDS)
        file = folder / f"a{seed.suffix}"
        data = mutated(seed.read_bytes(), chance, others)
        file.write_bytes(data)
        file.with_name(f"other{seed.suffix}").write_bytes(seed.read_bytes())
        tried(commands(file, chance), data, seed.suffix, counts)
    return counts


def tried(line: list[str], data: bytes, suffix: str, counts: Counter[str]) -> None:
    """Runs one command over one input, counts what came of it, and keeps an input that it broke on or was slow for."""
    began = time.process_time()
    out = io.StringIO()
    try:
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(out):
            status = main(line)
    except SystemExit as error:
        status = int(error.code or 0)
    except BaseException as error:  # noqa: BLE001 - that is what is looked for
        status = f"{type(error).__name__}"  # type: ignore[assignment]
    took = time.process_time() - began
    counts["inputs"] += 1
    counts[f"status {status}"] += 1
    bad = status == Status.OUR_BUG or isinstance(status, str)
    if bad or took > SLOW:
        name = f"campaign-{os.getpid()}-{counts['inputs']}-{'bug' if bad else 'slow'}{suffix}"
        kept = Path(tempfile.gettempdir()) / name
        kept.write_bytes(data)
        counts["bugs" if bad else "slow"] += 1
        said = "bug" if bad else f"slow {took:.1f} s"
        print(said, " ".join(line), "kept as", kept, out.getvalue()[-200:], flush=True)


def guided(minutes: float, seed: int) -> Counter[str]:
    """The coverage-guided part, in a process of its own since it never comes back; empty where it cannot run."""
    if importlib.util.find_spec("atheris") is None:
        print("atheris is not installed: nothing was guided by coverage")
        return Counter()
    script = Path(__file__).with_name("guided.py")
    line = [sys.executable, str(script), str(round(minutes * 60)), str(seed)]
    done = subprocess.run(line, capture_output=True, text=True, check=False)
    told = done.stdout.splitlines()
    print(*(row for row in told if not row.startswith("{")), sep="\n", end="")
    found = [json.loads(row) for row in told if row.startswith("{")]
    if not found:
        print(done.stderr[-2_000:])
        return Counter({"bugs": 1})
    return Counter(found[-1])


def kills(minutes: float, chance: random.Random, folder: Path) -> Counter[str]:
    """Kills writing and setting at any moment: the file is as before or as after."""
    counts: Counter[str] = Counter()
    draft = folder / "kill.toml"
    ends = time.monotonic() + minutes * 60
    while time.monotonic() < ends:
        before = f'format = 1\n[draft]\ntarget = "el-9"\n[identity]\nowner = "old{counts["kills"]}"\n' + "# x\n" * 5_000
        draft.write_text(before)
        line = [sys.executable, "-m", "fairledger", "set", str(draft), "locale.language=de-DE"]
        running = subprocess.Popen(line, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        time.sleep(chance.uniform(0.05, 0.5))
        running.send_signal(signal.SIGKILL)
        running.wait()
        counts["kills"] += 1
        text = draft.read_text()
        whole = text.startswith("format = 1") and "de-DE" in text and text.count("# x") == 5_000
        counts["torn"] += text != before and not whole
        for left in folder.glob(".kill.toml.*"):
            left.unlink()
    return counts


def run(minutes: float, seed: int) -> int:
    """All of them, a tenth of the time each for kills and what grows; the status says whether something was found."""
    chance = random.Random(seed)  # noqa: S311 - no secret comes of it
    with tempfile.TemporaryDirectory() as name:
        began = time.process_time()
        counts = fuzz(minutes * 0.5, chance, Path(name))
        counts += steep((), minutes * 0.1, chance)
        cpu = time.process_time() - began
        counts += kills(minutes * 0.1, chance, Path(name))
    steered = guided(minutes * 0.3, seed)
    cpu += steered.pop("cpu seconds", 0)
    counts += Counter({name if name in FOUND else f"guided {name}": count for name, count in steered.items()})
    told = ", ".join(f"{name} {count}" for name, count in sorted(counts.items()))
    print(f"seed {seed}, {cpu / 60:.1f} minutes of CPU: {told}")
    return int(any(counts[name] for name in FOUND))


if __name__ == "__main__":
    sys.exit(run(float(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else int(time.time())))
