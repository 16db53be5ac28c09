"""Builds the parser, imports the one command that was asked for, and turns errors into exit statuses."""

from __future__ import annotations

import argparse
import gc
import os
import sys
from typing import NoReturn

from fairledger.cli.status import Status

COMMANDS = {
    "targets": "what operating systems it knows",
    "find": "settings by plain words",
    "about": "one setting, component or pass explained",
    "values": "everyday values: time zones, languages, keyboards, regions",
    "start": "begin a new draft",
    "set": "set answers and portable fields in a draft, or answers in an answer file",
    "unset": "take them out again",
    "adopt": "take an answer file up as a draft",
    "compare": "what two or three files really say differently",
    "carry": "move a draft to another release, edition or architecture",
    "profile": "the library of profiles: list, show, save, check",
    "show": "a draft resolved, each answer with its origin",
    "check": "check drafts, profiles and answer files",
    "tidy": "what comes after the bare system: choices, and what each changes",
    "write": "write the answer file, rightly named",
    "routes": "where an installer looks for answer files, and what wins",
    "deliver": "put the answer file where the installer finds it: a stick, a disc, a share",
    "roster": "many machines from one draft: new, check, show, write, gather, join",
    "medium": "what a medium is and holds: a disc, a folder, an image file",
    "questions": "what the installer asks, and what answers it",
    "explain": "what an answer file will do to a machine, in plain sentences",
    "rule": "the rules that check knows, explained",
    "secret": "make the hash of a password, for answer files that take one",
    "export": "the catalog of a target, for other programs",
    "demo": "play the whole way with demo data",
}
"""Name and help line; the module of the same name in `fairledger.cli.commands` does the rest."""


def entry() -> None:
    """The console script."""
    gc.set_threshold(100_000, 20, 20)  # short runs leave little behind, and looking for it takes a tenth of the time
    try:
        done = main(sys.argv[1:])
    except KeyboardInterrupt:
        done = Status.INTERRUPTED
    gc.freeze()  # the end would look through all that is left once more: a sixth of the time
    sys.exit(done)


def _without_extensions() -> None:
    """Loads msgspec without the backports that it takes where they are installed: a third of a start, for nothing.

    The language itself has all that it wants of them from 3.11 on. Whoever needs them later still gets them.
    """
    if "msgspec" in sys.modules or "typing_extensions" in sys.modules:
        return
    sys.modules["typing_extensions"] = None  # type: ignore[assignment]
    try:
        import msgspec  # noqa: F401
    finally:
        del sys.modules["typing_extensions"]


class Parser(argparse.ArgumentParser):
    """Says what is wrong with a command line without steering the terminal by what stands there."""

    def error(self, message: str) -> NoReturn:
        """Says it and ends with status 2."""
        from fairledger.cli.console import printable

        super().error(printable(message).replace("\n", "\\n"))


def main(arguments: list[str]) -> int:
    """Runs one command line and gives the exit status. Never raises, but for `SystemExit` from argparse."""
    named = next((one for one in arguments if one in COMMANDS), None)
    parser = _parser(named, alone=bool(arguments) and arguments[0] == named)
    options, behind = parser.parse_known_args(arguments)
    # names may stand behind options too, which argparse would take for the end of them
    if behind and isinstance(getattr(options, "names", None), list) and not any(one[:1] == "-" for one in behind):
        options.names += behind
    elif behind:
        parser.error(f"unrecognized arguments: {' '.join(behind)}")
    if not options.command:
        parser.print_help()
        return Status.WRONG_USE
    from fairledger.cli.console import Console

    _without_extensions()
    console = Console(colour=options.colour, json=getattr(options, "format", "text") != "text")
    try:
        status = int(_module(options.command).run(options, console))
        console.flush()
    except KeyboardInterrupt:
        console.note("interrupted")
        return Status.INTERRUPTED
    except BrokenPipeError:
        sys.stdout = open(os.devnull, "w")  # noqa: SIM115, PTH123 - nobody reads any more
        return Status.DONE
    except Exception as error:  # noqa: BLE001 - the one place that turns errors into statuses
        return _failed(error, console, options)
    return status


def _parser(named: str | None, *, alone: bool = False) -> argparse.ArgumentParser:
    """The parser; ``alone`` leaves out all commands but the named one, which is quicker."""
    from fairledger import __version__
    from fairledger.cli.console import columns

    width = min(columns(), 100) - 2  # asked once: argparse would ask for every option

    def formatter(prog: str) -> argparse.HelpFormatter:
        return argparse.HelpFormatter(prog, width=width)

    parser = Parser(
        formatter_class=formatter,
        prog="fairledger",
        description="Author, check and write unattended-installation answer files.",
        epilog="Each command explains itself: fairledger COMMAND --help. A first try: fairledger demo",
    )
    parser.add_argument("--version", action="version", version=f"fairledger {__version__}")
    parser.add_argument(
        "--colour",
        choices=("auto", "always", "never"),
        default="auto",
        help="colour in the output (default: auto)",
    )
    commands = parser.add_subparsers(
        dest="command", metavar="COMMAND", title="commands, in the order of the work", prog=parser.prog
    )
    listed = {named: COMMANDS[named]} if named and alone else COMMANDS
    for name, line in listed.items():
        told = f"{line[:1].upper()}{line[1:]}."
        one = commands.add_parser(name, help=line, description=told, formatter_class=formatter)
        if name == named:
            _module(name).add_arguments(one)
    return parser


def _module(name: str):  # type: ignore[no-untyped-def]
    from importlib import import_module

    return import_module(f"fairledger.cli.commands.{name}")


def _failed(error: Exception, console, options: argparse.Namespace) -> int:  # type: ignore[no-untyped-def]
    from fairledger.model import errors

    if isinstance(error, errors.ContentError):
        from fairledger.cli.report import show_problems

        show_problems(error.findings, console)
        return Status.FINDINGS
    if isinstance(error, errors.LedgerError):
        console.error(error.sentence())
        if isinstance(error, errors.WrongUseError):
            for one in error.candidates[:20]:
                console.note(f"  {one}")
            return Status.WRONG_USE
        return Status.REFUSED if isinstance(error, errors.RefusedError) else Status.FILE_TROUBLE
    if isinstance(error, OSError) and isinstance(error.filename, str):
        from pathlib import Path

        from fairledger.storage.looking import trouble

        console.error(trouble(Path(error.filename), error).sentence())
        return Status.FILE_TROUBLE
    return _our_bug(error, console, options)


def _our_bug(error: Exception, console, options: argparse.Namespace) -> int:  # type: ignore[no-untyped-def]
    """One sentence, and where the details were put: kinds of error and places in our code, no values."""
    import tempfile
    import traceback

    frames = [f"{one.filename}:{one.lineno} {one.name}" for one in traceback.extract_tb(error.__traceback__)]
    lines = [f"fairledger {options.command}", type(error).__name__, *frames]
    with tempfile.NamedTemporaryFile("w", prefix="fairledger-", suffix=".txt", delete=False) as file:
        file.write("\n".join(lines) + "\n")
    console.error(f"a mistake of the program itself ({type(error).__name__}); details are in {file.name}")
    return Status.OUR_BUG
