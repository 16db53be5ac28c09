"""Reads the command line, runs the one command that was asked for, and turns errors into exit statuses."""

from __future__ import annotations

import argparse
import gc
import os
import sys
from collections.abc import Sequence
from itertools import pairwise
from typing import TYPE_CHECKING, Any

from fairledger.cli.status import Status

if TYPE_CHECKING:
    from fairledger.cli.console import Console
    from fairledger.cli.parser import WrongLineError


def entry() -> None:
    """The console script."""
    if "_ARGCOMPLETE" in os.environ:
        from fairledger.cli.completers import complete

        complete()
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


def main(arguments: list[str]) -> int:
    """Runs one command line and gives the exit status. Never raises, but for `SystemExit` from argparse."""
    from fairledger.cli.parser import COMMANDS, WrongLineError, module, parser_for

    named = next((one for one in arguments if one in COMMANDS), None)
    options = argparse.Namespace(command=named, colour="auto", format=_form(arguments))
    try:
        parser = parser_for(named, alone=bool(arguments) and arguments[0] == named)
        _parsed(parser, arguments, options)
    except WrongLineError as error:
        return _misused(error, _console(options), options, arguments)
    except Exception as error:  # noqa: BLE001 - a target that is none, say
        return _failed(error, _console(options), options)
    if not options.command:
        parser.print_help()
        return Status.WRONG_USE
    _without_extensions()
    console = _console(options)
    for sentence in getattr(options, "said_aloud", ()):
        console.note(sentence)
    try:
        status = int(module(options.command).run(options, console))
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


def _form(arguments: list[str]) -> str:
    """The form of output that is asked for, so that what is wrong with the line can be said in it."""
    said = [one for one in arguments if one.startswith("--format=")]
    behind = [two for one, two in pairwise(arguments) if one == "--format"]
    return next((one.partition("=")[2] for one in said), next(iter(behind), "text"))


def _console(options: argparse.Namespace) -> Console:
    from fairledger.cli.console import Console

    return Console(colour=options.colour, json=(getattr(options, "format", None) or "text") != "text")


def _parsed(parser: argparse.ArgumentParser, arguments: list[str], options: argparse.Namespace) -> None:
    """Reads a command line into the options. Raises `WrongLineError` and what a target that is none raises."""
    from fairledger.cli.parser import WrongLineError, innermost, unknown_told

    del options.command
    _, behind = parser.parse_known_args(arguments, options)
    # names may stand behind options too, which argparse would take for the end of them
    if behind and isinstance(getattr(options, "names", None), list) and not any(one[:1] == "-" for one in behind):
        options.names += behind
    elif behind:
        inner = innermost(parser, options)
        raise WrongLineError(inner, unknown_told(inner, behind))


def _misused(error: WrongLineError, console: Console, options: argparse.Namespace, arguments: Sequence[str]) -> int:
    """Says what is wrong with a command line, and how it is written."""
    from fairledger.cli.parser import told_better

    told = told_better(error, arguments)
    console.error(told)
    _for_machines(options, console, Status.WRONG_USE, [_error(told)])
    for line in error.parser.format_usage().splitlines():
        console.note(line)
    return Status.WRONG_USE


def _failed(error: Exception, console: Console, options: argparse.Namespace) -> int:
    """Says what went wrong, in one line each, and also as JSON where that is asked for."""
    from fairledger.model import errors

    if isinstance(error, OSError) and isinstance(error.filename, str):
        from pathlib import Path

        from fairledger.storage.looking import trouble

        error = trouble(Path(error.filename), error)
    if isinstance(error, errors.ContentError):
        from fairledger.cli.report import show_problems

        show_problems(error.findings, console)
        rows = [_error(one.message, one.file, one.line, one.hint, one.rule) for one in error.findings]
        return _for_machines(options, console, Status.FINDINGS, rows)
    if isinstance(error, errors.LedgerError):
        console.error(error.sentence())
        status = Status.FILE_TROUBLE
        if isinstance(error, errors.WrongUseError):
            status = Status.WRONG_USE
            for one in error.candidates[:_MOST_CANDIDATES]:
                console.note(f"  {one}")
            left = len(error.candidates) - _MOST_CANDIDATES
            if left > 0:
                console.note(f"  and {left} more")
        elif isinstance(error, errors.RefusedError):
            status = Status.REFUSED
        choices = getattr(error, "candidates", ())
        told = _error(error.message, error.file, error.line, error.remedy, choices=choices)
        return _for_machines(options, console, status, [told])
    return _our_bug(error, console, options)


_MOST_CANDIDATES = 12


def _error(
    message: str,
    file: str | None = None,
    line: int | None = None,
    remedy: str = "",
    rule: str | None = None,
    choices: Sequence[str] = (),
) -> dict[str, Any]:
    return {
        "message": message,
        "file": file,
        "line": line,
        "remedy": remedy or None,
        "rule": rule,
        "choices": list(choices),
    }


def _for_machines(options: argparse.Namespace, console: Console, status: Status, rows: Sequence[dict[str, Any]]) -> int:
    """The same on standard output, in one shape for all commands, where JSON is asked for."""
    from contextlib import suppress

    from fairledger.model.errors import FileTroubleError

    if getattr(options, "format", "text") == "json":
        with suppress(FileTroubleError):
            console.write_json({"command": options.command, "status": int(status), "failed": rows})
            console.flush()
    return status


def _our_bug(error: Exception, console: Console, options: argparse.Namespace) -> int:
    """One sentence, and where the details were put: kinds of error and places in our code, no values."""
    import tempfile
    import traceback

    frames = [f"{one.filename}:{one.lineno} {one.name}" for one in traceback.extract_tb(error.__traceback__)]
    lines = [f"fairledger {options.command}", type(error).__name__, *frames]
    with tempfile.NamedTemporaryFile("w", prefix="fairledger-", suffix=".txt", delete=False) as file:
        file.write("\n".join(lines) + "\n")
    told = f"a mistake of the program itself ({type(error).__name__}); details are in {file.name}"
    console.error(told)
    return _for_machines(options, console, Status.OUR_BUG, [_error(told)])
