"""The command line's grammar: every command with its options and examples, and what is said of a wrong one."""

from __future__ import annotations

import argparse
import shlex
from collections.abc import Iterator, Sequence
from importlib import import_module
from typing import Any, NoReturn

COMMANDS = {
    "targets": "what operating systems it knows",
    "find": "portable fields and settings by plain words",
    "about": "one field, setting, component or pass explained",
    "values": "everyday values: time zones, languages, keyboards, regions",
    "start": "begin a new draft",
    "set": "set answers and portable fields in a draft, or answers in an answer file",
    "unset": "take them out again",
    "adopt": "take an answer file up as a draft",
    "compare": "what two or three files really say differently",
    "carry": "move a draft to another release, edition or architecture",
    "profile": "profiles: list, show, save, check, and which of them a draft builds on",
    "show": "a draft resolved, each answer with its origin",
    "check": "check drafts, profiles and answer files, one or a folder of them",
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
    "completion": "what makes a shell complete commands, targets, profiles and rules",
    "help": "pages to read in the terminal: addresses, drafts, exit statuses, routes, secrets",
    "demo": "play the whole way with demo data",
}
"""Name and help line; the module of the same name in `fairledger.cli.commands` does the rest."""


class WrongLineError(Exception):
    """A command line that is none: ``parser`` is that of the command, ``message`` says what is wrong."""

    def __init__(self, parser: argparse.ArgumentParser, message: str) -> None:
        super().__init__(message)
        self.parser = parser
        self.message = message


class Parser(argparse.ArgumentParser):
    """Leaves saying what is wrong to its caller. Options are written out: a part of one may mean another some day."""

    def __init__(self, **told: Any) -> None:
        super().__init__(**{**told, "allow_abbrev": False})

    def error(self, message: str) -> NoReturn:
        """Raises `WrongLineError`."""
        raise WrongLineError(self, message)


def module(name: str) -> Any:
    """The module of a command."""
    return import_module(f"fairledger.cli.commands.{name}")


def full_parser() -> argparse.ArgumentParser:
    """The parser with all commands and their options."""
    return parser_for(None, every=True)


def parser_for(named: str | None, *, alone: bool = False, every: bool = False) -> argparse.ArgumentParser:
    """The parser; only the ``named`` command has its options, and ``alone`` it is the only one, which is quicker."""
    from fairledger.cli.console import columns

    width = min(columns(), 100) - 2  # asked once: argparse would ask for every option

    class Formatter(argparse.RawDescriptionHelpFormatter):
        def __init__(self, prog: str) -> None:
            super().__init__(prog, width=width)

    parser = Parser(
        formatter_class=Formatter,
        prog="fairledger",
        description="Author, check and write unattended-installation answer files.",
        epilog="Each command explains itself: fairledger COMMAND --help; pages to read: fairledger help.\n"
        "A first try: fairledger demo",
    )
    parser.add_argument("--version", action=_Version, help="the program's version and the catalog's date")
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
        one = commands.add_parser(name, help=line, description=told, formatter_class=Formatter)
        if name == named or every:
            asked = module(name)
            asked.add_arguments(one)
            _with_examples(one, asked.EXAMPLES, Formatter)
    return parser


class _Version(argparse.Action):
    """Says the version and the catalog's date, which only then are looked up."""

    def __init__(self, **told: Any) -> None:
        super().__init__(**{**told, "dest": argparse.SUPPRESS, "nargs": 0})

    def __call__(self, parser: argparse.ArgumentParser, *_: object) -> None:
        from fairledger import CATALOG_DATE, __version__

        print(f"fairledger {__version__}, catalog of {CATALOG_DATE}")  # noqa: T201 - as argparse does
        parser.exit()


def _with_examples(parser: argparse.ArgumentParser, examples: tuple[str, ...], formatter: Any) -> None:
    """Puts examples below a command's help, and those of an action below the action's."""
    mine = [line for line in examples if f"{line} ".startswith(f"{parser.prog} ")]
    if mine:
        parser.epilog = "\n".join(("for example:", *(f"  {line}" for line in mine)))
    for action in inner_parsers(parser).values():
        action.formatter_class = formatter
        _with_examples(action, examples, formatter)


def inner_parsers(parser: argparse.ArgumentParser) -> dict[str, argparse.ArgumentParser]:
    """The parsers of a command's actions."""
    for action in parser._actions:  # noqa: SLF001 - argparse has no other way to them
        if isinstance(action, argparse._SubParsersAction):  # noqa: SLF001
            return dict(action.choices)
    return {}


def innermost(parser: argparse.ArgumentParser, options: argparse.Namespace) -> argparse.ArgumentParser:
    """The parser of the command, or of its action, that was asked for."""
    for name in (options.command, getattr(options, "action", None)):
        parser = inner_parsers(parser).get(str(name), parser)
    return parser


def options_of(parser: argparse.ArgumentParser) -> list[str]:
    """The long options that a parser knows."""
    return [one for one in parser._option_string_actions if one.startswith("--")]  # noqa: SLF001


def unknown_told(parser: argparse.ArgumentParser, behind: list[str]) -> str:
    """What is said of words that a command has no use for: the nearest option, or whose option it is."""
    from fairledger.model.suggest import nearest

    option = next((one.partition("=")[0] for one in behind if one.startswith("-") and one != "-"), "")
    if not option:
        return f"{' '.join(map(shlex.quote, behind))} is one word too many"
    near = nearest(option, options_of(parser), most=1, alike=0.75)
    if near:
        return f"there is no option {option} here; did you mean {near[0]}?"
    others = [one.prog for one in _every(full_parser()) if option in options_of(one)]
    if not others:
        return f"there is no option {option}; {parser.prog} --help lists those that there are"
    return f"{option} is no option of {parser.prog}, but of {', '.join(others[:4])}"


def _every(parser: argparse.ArgumentParser) -> Iterator[argparse.ArgumentParser]:
    for one in inner_parsers(parser).values():
        yield one
        yield from _every(one)


def told_better(error: WrongLineError, arguments: Sequence[str]) -> str:
    """What is wrong with a command line, in our own words where argparse would list everything."""
    from fairledger.cli.console import printable
    from fairledger.model.suggest import did_you_mean

    message = error.message
    argument, _, told = message.removeprefix("argument ").partition(": ")
    if told.startswith("invalid choice: ") and " (choose from " in told:
        said = told.removeprefix("invalid choice: ").partition(" (choose from ")[0]
        choices = _choices(error.parser, argument)
        hint = did_you_mean(said.strip("'\""), choices) or f"{error.parser.prog} --help lists them"
        what = {"COMMAND": "command", "ACTION": "action"}.get(argument.rpartition("/")[2], argument)
        return printable(f"{said} is no {what}; {hint}").replace("\n", "\\n")
    if message.startswith("the following arguments are required: "):
        known = error.parser._option_string_actions  # noqa: SLF001
        unknown = [one for one in arguments if one.startswith("--") and one.partition("=")[0] not in known]
        if unknown:
            return printable(unknown_told(error.parser, unknown)).replace("\n", "\\n")
        message = f"{message.partition(': ')[2]} is missing"
    elif told == "expected one argument":
        message = f"{argument} needs a value"
    return printable(message).replace("\n", "\\n")


def _choices(parser: argparse.ArgumentParser, argument: str) -> list[str]:
    for action in parser._actions:  # noqa: SLF001
        names = (*action.option_strings, action.dest, str(action.metavar or ""))
        if action.choices is not None and any(name in argument.split("/") for name in names):
            return [str(one) for one in action.choices]
    return []
