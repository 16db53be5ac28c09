"""``fairledger completion``: what makes a shell complete commands, targets, profiles, settings and rules."""

from __future__ import annotations

import argparse

from fairledger.cli.console import Console
from fairledger.cli.status import Status

EXAMPLES = (
    'eval "$(fairledger completion bash)"                # in ~/.bashrc; zsh likewise',
    "fairledger completion fish > ~/.config/fish/completions/fairledger.fish",
    "fairledger completion powershell | Out-String | Invoke-Expression    # in $PROFILE",
)
"""Shown below the help."""
_SHELLS = ("bash", "zsh", "fish", "powershell")


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The shell."""
    parser.add_argument("shell", choices=_SHELLS, metavar="SHELL", help=f"one of {', '.join(_SHELLS)}")


def run(options: argparse.Namespace, console: Console) -> int:
    """Prints what the shell is to read at its start."""
    from argcomplete.shell_integration import shellcode

    console.lines(shellcode(["fairledger"], shell=options.shell).strip("\n"))
    return Status.DONE
