"""The programs that a command line or script calls, each with its words.

A plain line is split here: one program and its words, no pipes, nothing that a shell works out. Everything else is read
with a grammar of its shell, which others keep (the extra ``scripts``); where that is not installed, a script stays
unread, and nobody may say that nothing is wrong with it.
"""

from __future__ import annotations

import re
from base64 import b64decode
from collections.abc import Callable, Iterator
from functools import cache, lru_cache
from pathlib import Path, PureWindowsPath
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from fairledger.model.pattern import pattern
from fairledger.storage.looking import entries

LINE, CMD, POWERSHELL, SH = "line", "cmd", "powershell", "sh"
"""What runs a text: nothing but the system itself, or a shell."""
_GRAMMARS = {CMD: "tree_sitter_batch", POWERSHELL: "tree_sitter_powershell", SH: "tree_sitter_bash"}
_COMMANDS = {CMD: ("cmd", "call_stmt", "variable_assignment"), POWERSHELL: ("command",), SH: ("command",)}
_PIPES = {CMD: "pipe_stmt", POWERSHELL: "pipeline_chain", SH: "pipeline"}
_TAKES_IN = ("file_redirect", "heredoc_redirect", "herestring_redirect", "redirection")
_METHOD = "member_name"
_QUOTES = {LINE: '"', CMD: '"', POWERSHELL: "\"'", SH: "\"'"}
_WORKED_OUT = {
    LINE: pattern(r"(?!)"),
    CMD: pattern(r"[&|<>()^\n]|^\s*(?:@|if|for|call|set|rem|goto|::?)\b", re.IGNORECASE),
    POWERSHELL: pattern(r"[;|&(){}\[\]`<>@\n]|^\s*\$|\s=\s"),
    SH: pattern(r"[;|&(){}\[\]`<>\\\n]|^\s*(?:if|for|while|case|until|function|[A-Za-z_]\w*=)"),
}
"""What shows that a text is more than one program with its words."""
_WORD = {
    mark: pattern(rf"(?:[^\s{mark}]|" + "|".join(f"{one}[^{one}]*{one}?" for one in mark) + ")+") for mark in "\"'"
}
_WORD["\"'"] = pattern(r"""(?:[^\s"']|"[^"]*"?|'[^']*'?)+""")
_WORKED_IN = pattern(r"[$%(){}*@,]")
"""What shows that a shell works out a word, or that it stands for several."""
_ENDINGS = (".exe", ".com")
NO_GRAMMAR = "the grammar of its shell is not installed"
TOO_LONG, TOO_DEEP = "it is too long", "in it, commands stand within commands again and again"
"""Why a text is not read."""
_MOST, _MOST_BRACKETS = 200_000, 5_000
_DEEPEST = 4
_MOST_TIMES = 10
"""How often commands within commands may have one and the same letter of a text."""


class Call(Struct, frozen=True):
    """A program that is called."""

    program: str
    """Its name in lower case, without folder and ``.exe``."""
    words: tuple[str, ...]
    """The words behind it, without quotes."""
    text: str
    """All of it as it stands."""
    row: int
    """The line of the text in which it stands, from 0."""
    shell: str
    named_file: bool = False
    """Whether the name has an ending, such as ``.exe``."""
    fed: bool = False
    """Whether it gets its input from a file or another program, and so asks nobody."""
    takes: frozenset[str] = frozenset()
    """The programs whose output it gets: through a pipe, or as one of its words."""

    def named(self, option: str) -> tuple[str, ...]:
        """What stands behind an option, written ``-option VALUE``, ``-option:VALUE`` or ``-option=VALUE``; not what
        the shell works out.
        """
        found: list[str] = []
        for at, word in enumerate(self.words):
            name, mark, rest = word.partition(":") if ":" in word else word.partition("=")
            if name.lower() == option:
                found.append(rest if mark else self.words[at + 1] if at + 1 < len(self.words) else "")
        return tuple(one for one in found if one and not _WORKED_IN.search(one))

    def has(self, *wanted: str) -> bool:
        """Whether each of these is among its words, however they are written."""
        words = {word.lower() for word in self.words}
        return all(one in words for one in wanted)


@lru_cache(maxsize=2_000)
def calls_in(text: str, shell: str) -> tuple[tuple[Call, ...], str]:
    """The programs that a text calls, those within others too, and why some of it could not be read, if that is so."""
    if len(text) > _MOST or text.count("(") > _MOST_BRACKETS:
        return (), TOO_LONG
    read = _Reading()
    calls = tuple(read.calls(text, shell, 0, 0))
    return calls, read.left


class _Reading:
    """Reads one text."""

    def __init__(self) -> None:
        self.left = ""

    def calls(self, text: str, shell: str, row: int, depth: int) -> Iterator[Call]:
        if depth > _DEEPEST:
            self.left = TOO_DEEP
            return
        if not _WORKED_OUT[shell].search(text):
            found = [_call(text.strip(), shell, row)]
        else:
            tree, why = _tree(text, shell)
            self.left = why or self.left
            found = [one.call(shell, row) for one in tree]
        for one in found:
            if one is None:
                continue
            yield one
            within = _within(one)
            if within is not None:
                yield from self.calls(*within, one.row, depth + 1)


def _words(text: str, shell: str) -> list[str]:
    return [match[0] for match in _WORD[_QUOTES[shell]].finditer(text)]


def _call(text: str, shell: str, row: int) -> Call | None:
    """A program with its words; None for what is none."""
    if shell == POWERSHELL:
        text = _CALLED.sub(lambda sign: "" if sign[2] != "(" else f"{sign[1]} (", text)
    words = _words(text, shell)
    if shell == POWERSHELL and words and "(" in words[0][1:]:
        name, _, rest = words[0].partition("(")
        words = [name, f"({rest}", *words[1:]]
    if shell == CMD and words and words[0].lower() == "call":
        words = words[1:]
    if shell == SH:
        while words and (_GIVEN.match(words[0]) or words[0] in _BEFORE):
            before, words = words[0] in _BEFORE, words[1:]
            while before and words and words[0].startswith("-"):
                words = words[1:]
    if not words or words[0].startswith(":"):
        return None
    bare = [_bare(word, shell) for word in words]
    name = (PureWindowsPath(bare[0]).name or bare[0]).lower().lstrip("@")
    short = name
    for ending in _ENDINGS:
        short = short.removesuffix(ending)
    return Call(short, tuple(bare[1:]), text, row, shell, short != name)


_BEFORE = ("sudo", "nohup", "exec", "command", "time", "env")
_GIVEN = pattern(r"[A-Za-z_]\w*=")
_CALLED = pattern(r"^\s*([&.])\s*(?=(.))\(?", re.DOTALL)
"""What calls a name, a text or what is worked out in brackets."""


def _bare(word: str, shell: str) -> str:
    """A word without the quotes around it or its parts."""
    for mark in _QUOTES[shell]:
        word = word.replace(mark, "") if mark in word else word
    return word


_ASKS_CMD = pattern(r"^.*?\s/[cCkK](.*)$", re.DOTALL)
_ASKS_POWERSHELL = pattern(r"^.*?\s-(?:c|co|com|comm|comma|comman|command)\s(.*)$", re.IGNORECASE | re.DOTALL)
_PLAIN_OPTIONS = ("-noprofile", "-nop", "-noninteractive", "-noni", "-nologo", "-sta", "-mta")


def _within(one: Call) -> tuple[str, str] | None:
    """What a program that runs others is told to run, and by which shell; None for all others."""
    if one.program == "cmd":
        match = _ASKS_CMD.match(one.text)
        return (_unwrapped(match[1]), CMD) if match else None
    if one.program in ("powershell", "pwsh"):
        hidden = _ENCODED.match(one.text)
        if hidden:
            return _decoded(hidden[1]), POWERSHELL
        match = _ASKS_POWERSHELL.match(one.text)
        if match:
            return _unwrapped(match[1]).replace('\\"', '"'), POWERSHELL
        first = next((word for word in one.words if word.lower() not in _PLAIN_OPTIONS), "-")
        if not first.startswith("-") and not first.lower().endswith(".ps1"):
            return _unwrapped(one.text[one.text.find(first[:1]) :]), POWERSHELL
        return None
    if one.program == "start" and one.shell == CMD:
        words = _words(one.text, CMD)[1:]
        while words and (words[0].startswith(("/", '"'))):
            words = words[1:]
        return (" ".join(words), LINE) if words else None
    if one.program == "start-process":
        asked = [word for word in one.words if word.lower() not in _OF_STARTING]
        words = [piece for word in asked for piece in word.split(",")]  # its list of words is one word
        return (" ".join(words), LINE) if words else None
    return None


_ENCODED = pattern(r"^.*?\s[-/](?:e|ec|en\w*)\s+[\"']?([A-Za-z0-9+/=]+)", re.IGNORECASE | re.DOTALL)


def _decoded(text: str) -> str:
    """What an encoded command says; empty if nobody can tell."""
    try:
        return b64decode(text, validate=True).decode("utf-16-le")
    except ValueError:
        return ""


_OF_STARTING = ("-filepath", "-wait", "-argumentlist", "-args", "-nonewwindow", "-passthru")


def _unwrapped(text: str) -> str:
    """A text without the quotes around all of it."""
    text = text.strip()
    return text[1:-1] if len(text) > 1 and text[0] == text[-1] == '"' else text


class _Found(Struct):
    """A command as a grammar finds it."""

    text: str
    row: int
    fed: bool
    takes: set[str]

    def call(self, shell: str, row: int) -> Call | None:
        one = _call(self.text, shell, row + self.row)
        return one and replace(one, fed=self.fed, takes=frozenset(self.takes))

    def program(self, shell: str) -> str:
        one = _call(self.text, shell, 0)
        return one.program if one is not None else ""


def _tree(text: str, shell: str) -> tuple[list[_Found], str]:
    """The commands of a script as its grammar finds them, and why some of it could not be read, if that is so."""
    parse = _parser(shell)
    if parse is None:
        return [], NO_GRAMMAR
    left = _MOST_TIMES * len(text) + 10_000
    data = text.encode("utf-8", "surrogatepass")
    found: list[_Found] = []
    waiting: list[_Waiting] = [(parse(data).root_node, False, (), ())]
    while waiting:
        node, fed, named, before = waiting.pop()
        children, kind = node.named_children, node.type
        fed = fed or any(
            child.type in _TAKES_IN and b"<" in data[child.start_byte : child.end_byte] for child in children
        )
        if kind == _METHOD or kind in _COMMANDS[shell]:
            left -= node.end_byte - node.start_byte
            if left < 0:
                return found, TOO_DEEP
            told = data[node.start_byte : node.end_byte].decode("utf-8", "replace")
            one = _Found(told, node.start_point[0], fed, set().union(*before))
            program = told.lower() if kind == _METHOD else one.program(shell)
            for names in named:
                names.add(program)
            if kind != _METHOD:
                found.append(one)
                named = (*named[-_MOST_NAMED:], one.takes)
        piped = kind == _PIPES[shell]
        inner: list[_Waiting] = []
        for child in children:
            into: set[str] = set()
            inner.append((child, fed, (*named, into) if piped else named, before))
            if piped:
                before, fed = (*before[-_MOST_NAMED:], into), True
        waiting += reversed(inner)
    return found, ""


_Waiting = tuple[Any, bool, tuple[set[str], ...], tuple[set[str], ...]]
"""A part of a script; whether it gets its input from elsewhere; who wants to know its programs; who gives it input."""
_MOST_NAMED = 4


@cache
def _parser(shell: str) -> Callable[[bytes], Any] | None:
    """What parses scripts of a shell; None where the extra is not installed."""
    language = _grammar(_GRAMMARS[shell])
    if language is None:
        return None
    try:
        from tree_sitter import Language, Parser
    except ImportError:
        return None
    parser = Parser(Language(language.language()))
    return parser.parse


def _grammar(name: str) -> Any:
    """A grammar's compiled part alone: its package looks for files of its own, which takes longer than all the rest."""
    from importlib.machinery import EXTENSION_SUFFIXES
    from importlib.util import find_spec, module_from_spec, spec_from_file_location

    spec = find_spec(name)
    folders = spec.submodule_search_locations if spec is not None else None
    for folder in folders or ():
        for path in entries(Path(folder)):
            if path.name.startswith("_binding") and path.name.endswith(tuple(EXTENSION_SUFFIXES)):
                inner = spec_from_file_location(f"{name}._binding", path)
                if inner is not None and inner.loader is not None:
                    module = module_from_spec(inner)
                    inner.loader.exec_module(module)
                    return module
    return None
