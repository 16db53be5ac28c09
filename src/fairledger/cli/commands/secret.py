"""``fairledger secret hash``: the hash of a password, from a question or from standard input."""

from __future__ import annotations

import argparse
import sys

from fairledger.cli.console import Console
from fairledger.cli.status import Status

EXAMPLES = ("fairledger secret hash",)
"""Shown below the help."""


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """What is to be done."""
    parser.add_argument("action", choices=("hash",), help="hash: make a Unix hash of a password")
    parser.add_argument("--format", choices=("text", "json"), default="text", help="form of the output")


def run(options: argparse.Namespace, console: Console) -> int:
    """Asks twice at a terminal, else reads one line; prints nothing but the hash."""
    from fairledger.model.errors import RefusedError, WrongUseError
    from fairledger.profiles.hashes import unix_hash

    ask = console.asker()
    if ask is not None:
        secret = ask("password") or ""
        if secret != (ask("once more") or ""):
            raise RefusedError("the two passwords differ", remedy="try again")
    else:
        secret = sys.stdin.readline().removesuffix("\n").removesuffix("\r")
    if not secret:
        raise WrongUseError("there is no password", remedy="type it, or send it to standard input")
    made = unix_hash(secret)
    if options.format == "json":
        console.write_json({"hash": made})
    else:
        console.say(made)
    return Status.DONE
