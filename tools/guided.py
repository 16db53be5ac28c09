"""Inputs that are kept and mutated by which code they reach, for a while: the part of the campaign that needs atheris.

    guided.py SECONDS SEED

The first two bytes of an input choose the kind of file and the command line; the rest is the file.
"""

from __future__ import annotations

import importlib
import json
import os
import pkgutil
import random
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

import atheris

with atheris.instrument_imports(include=["fairledger"]):
    import campaign

    import fairledger

    for module in pkgutil.walk_packages(fairledger.__path__, "fairledger."):
        if not module.name.endswith("__main__"):
            importlib.import_module(module.name)

SUFFIXES = (".xml", ".ks", ".toml")
EVERY = 200


def corpus(folder: Path) -> None:
    """The repository's own files and the campaign's pieces, in the form of the inputs."""
    for number, path in enumerate(campaign.SEEDS):
        kind = SUFFIXES.index(path.suffix)
        for line in range(3):
            (folder / f"seed{number}-{line}").write_bytes(bytes([kind, number * 7 + line & 255]) + path.read_bytes())
    words = ("".join(f"\\x{byte:02x}" for byte in piece) for piece in campaign.PIECES)
    (folder.parent / "pieces").write_text("".join(f'"{word}"\n' for word in words))


def run(seconds: int, seed: int) -> None:
    """Fuzzes for so many seconds; prints what it found and, each second or so, the counts as a line of JSON."""
    work = Path(tempfile.mkdtemp(prefix="campaign-guided-"))
    kept = work / "corpus"
    kept.mkdir()
    corpus(kept)
    os.environ["FAIRLEDGER_LIBRARY"] = str(work / "library")
    counts: Counter[str] = Counter()
    began = time.process_time()

    def one(data: bytes) -> None:
        if len(data) < 2:
            return
        suffix = SUFFIXES[data[0] % len(SUFFIXES)]
        file = work / f"a{suffix}"
        file.write_bytes(data[2:])
        file.with_name(f"other{suffix}").write_bytes(data[2 : 2 + len(data) // 2])
        chance = random.Random(data[1])  # noqa: S311 - no secret comes of it
        campaign.tried(campaign.commands(file, chance), data[2:], suffix, counts)
        if counts["inputs"] % EVERY == 0:
            print(json.dumps(counts | {"cpu seconds": round(time.process_time() - began)}), flush=True)

    options = [
        f"-max_total_time={seconds}",
        f"-seed={seed % 2**31}",
        "-max_len=20000",
        "-len_control=0",
        "-timeout=600",
        "-rss_limit_mb=0",
    ]
    atheris.Setup([sys.argv[0], *options, f"-dict={work / 'pieces'}", str(kept)], one)
    atheris.Fuzz()


if __name__ == "__main__":
    run(int(sys.argv[1]), int(sys.argv[2]))
