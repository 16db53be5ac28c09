"""``fairledger demo``: the whole way with demo data, in a fresh folder that stays for a look."""

from __future__ import annotations

import argparse
import os
import shlex
import shutil
import tomllib
from pathlib import Path
from typing import Any

from fairledger.cli.console import Console
from fairledger.cli.status import Status

EXAMPLES = ("fairledger demo --out larkmoor",)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """Where to."""
    parser.add_argument("--out", type=Path, default=Path("larkmoor-demo"), help="a folder that does not exist yet")


def run(options: argparse.Namespace, console: Console) -> int:
    """Copies the demo data, plays its steps, leaves everything behind."""
    from fairledger.model.errors import RefusedError
    from fairledger.storage.looking import is_there, real

    if is_there(options.out):
        remedy = "name another with --out, or remove it"
        raise RefusedError("the folder exists already", file=str(options.out), remedy=remedy)
    examples = examples_folder()
    script = tomllib.loads((examples / "demo.toml").read_text(encoding="utf-8"))
    shutil.copytree(examples, options.out, ignore=shutil.ignore_patterns("demo.toml"))
    for name, text in script["files"].items():
        path = options.out / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, encoding="utf-8")
        path.chmod(0o600)
    before, kept = Path.cwd(), {name: os.environ.get(name) for name in script["environment"]}
    folder = real(options.out)
    os.environ.update(script["environment"])
    try:
        for step in script["step"]:
            os.chdir(folder / step["in"])
            if not _played(step, options.colour, console):
                console.error(f"the demo went wrong at: fairledger {step['run']}")
                return Status.OUR_BUG
    finally:
        os.chdir(before)
        for name, value in kept.items():
            os.environ.pop(name, None)
            if value is not None:
                os.environ[name] = value
    console.say()
    console.say(console.style(f"Everything is in {options.out} for a look. Next: make a draft of your own.", "bold"))
    return Status.DONE


def _played(step: dict[str, Any], colour: str, console: Console) -> bool:
    """Says and runs one step; whether it ended as the script says."""
    from fairledger.cli.main import main

    if "say" in step:
        console.say("\n" + console.style(f"# {step['say']}", "advice"))
    command = shlex.split(step["run"])
    lines = step["run"].split("\n")
    console.lines(console.style("\n".join([f"$ fairledger {lines[0]}", *lines[1:]]), "bold"))
    done = main(["--colour", colour, *command])
    console.flush()
    return bool(done == step.get("status", Status.DONE))


def examples_folder() -> Path:
    """The demo data: in the installed package, or beside the sources."""
    from fairledger.storage.looking import is_folder

    package = Path(__file__).parents[2]
    installed = package / "examples"
    return installed if is_folder(installed) else package.parents[1] / "examples"
