"""Reads an answer file into a sheet: a block for every command and section, in the order of the file."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.setting import Component, Setting
from fairledger.families.interface import Reading
from fairledger.families.kickstart.statements import SECTIONS, SourceText, Statement
from fairledger.families.kickstart.telling import line_of, target_of
from fairledger.families.kickstart.tokens import Token
from fairledger.model.errors import FileTroubleError
from fairledger.model.finding import Finding, Severity
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin
from fairledger.model.sheet import Block, Extra, Node, Sheet
from fairledger.model.showing import visible
from fairledger.model.suggest import did_you_mean
from fairledger.storage.files import MOST_BYTES, MOST_FILES, MOST_LEVELS, MOST_PARTS, decode, read_bytes, too_many
from fairledger.storage.looking import is_file, real

_BETWEEN_WORDS = pattern(r"""[\s'"`=<>|&;:,()]+""")
_BARE_NUMBER_SIGN = pattern(r"""[^'"#]+#.*""")


@dataclass(slots=True)
class Taken:
    """How much one file takes in, itself and by what it takes in: files that double each time cost nothing to write."""

    file: str
    files: int = 0
    size: int = 0
    words: int = 0

    def count(self, data: bytes) -> None:
        """Counts one file more. Raises `FileTroubleError` where it is too much."""
        self.files += 1
        self.size += len(data)
        if self.files > MOST_FILES:
            raise FileTroubleError(
                f"the file takes in more than {MOST_FILES:,} files", file=self.file, remedy="put them into fewer files"
            )
        if self.size > MOST_BYTES:
            raise FileTroubleError(
                "what the file takes in is larger than 64 MiB", file=self.file, remedy="take in less"
            )

    def hold(self, words: int) -> None:
        """Counts what stands in them. Raises `FileTroubleError` where it is too much."""
        self.words += words
        if self.words > MOST_PARTS:
            raise too_many(self.file, "words of commands and lists, with what it takes in")


class FileReader:
    """Reads one file."""

    def __init__(
        self,
        file: str,
        root: Path | None = None,
        above: tuple[Path, ...] = (),
        own: Own = NOTHING,
        taken: Taken | None = None,
    ) -> None:
        self.file = file
        self.taken = taken or Taken(file)
        self.own = own
        self.root = root
        self.above = above
        """Files in which this one is taken in, outermost first."""
        self.findings: list[Finding] = []

    def read(self, data: bytes) -> Reading:
        """The sheet, with what is wrong with the file as such."""
        text = decode(data, self.file)
        source = SourceText(text, self.file)
        self.source = source
        self.taken.hold(source.words)
        if not text.strip():
            self.find("file-empty", "the file is empty", 0, "write it again, or check the name")
        nul = re.search("[\0-\x08\x0e-\x1f]", text)
        if nul:
            told = f"the file holds the control character U+{ord(nul[0]):04X}"
            self.find("file-binary", told, nul.start(), "is it an answer file?")
            return Reading(Sheet(), tuple(self.findings), {})
        for fault in source.faults:
            self.find("line-unreadable", fault.message, fault.at, fault.hint)
        line = line_of(source, self.own)
        guess = target_of(source, line)
        nominal = guess[0] if guess else None
        self.catalog = catalog_of("kickstart", nominal, self.own)
        blocks = tuple(block for one in source.statements for block in self.blocks(one))
        extras = []
        for one in source.foreign:
            whole = source.text[one.start : one.body_start + len(one.body or "")] + "%end"
            extras.append(Extra("section", whole, self.origin(one.start)))
            told = f"{visible(one.name)} is no section that is known; it is kept as it stands"
            near = did_you_mean(one.name.removeprefix("%"), SECTIONS)
            hint = near if "did you mean" in near else "check its name; the installer may refuse the file"
            self.find("section-unknown", told, one.start, hint)
        hints = {"line": line}
        if nominal is not None and guess:
            hints |= {"target": nominal.id, "basis": guess[1]}
        return Reading(Sheet(blocks, tuple(extras)), tuple(self.findings), hints)

    def blocks(self, one: Statement) -> tuple[Block, ...]:
        """One command or section; or what stands in a file that is taken in, where it can be looked at."""
        block = self.block(one)
        if one.name not in ("%include", "include", "%ksappend") or not one.tokens:
            return (block,)
        named = one.tokens[0].text
        there = self.root is not None and is_file(self.root / named.lstrip("/"))
        if not there and named in self.written:
            return (block,)  # a script of this very file writes it
        if self.root is None or one.name == "%ksappend":
            told = f"{named} is taken in here and is not looked at"
            self.find("file-included", told, one.start, "name its folder with --root", severity=Severity.ADVICE)
            return (block,)
        return self.taken_in(named, one, block)

    @cached_property
    def written(self) -> frozenset[str]:
        """Every word of the file's scripts: a name among them may be a file that they write."""
        bodies = (one.body for one in self.source.statements if one.body)
        return frozenset(word for body in bodies for word in _BETWEEN_WORDS.split(body))

    def taken_in(self, named: str, one: Statement, block: Block) -> tuple[Block, ...]:
        """The blocks of another file below the root folder."""
        assert self.root is not None
        root = real(self.root)
        path = real(root / named.lstrip("/"))
        told = ""
        if not path.is_relative_to(root):
            told = f"{named} leaves the folder {self.root}"
        elif path in self.above:
            told = f"{named} takes itself in"
        elif len(self.above) >= MOST_LEVELS:
            told = "files are taken in without end"
        elif not is_file(path):
            told = f"{named} is not in the folder {self.root}"
        if told:
            self.find("include-broken", told, one.start, "correct the name, or the folder given with --root")
            return (block,)
        data = read_bytes(path)
        self.taken.count(data)
        inner = FileReader(str(path), self.root, (*self.above, path), self.own, self.taken)
        reading = inner.read(data)
        self.findings += reading.findings
        return reading.sheet.blocks

    def block(self, one: Statement) -> Block:
        """One command or section."""
        known, word, tokens = self.catalog.anywhere(one.name), one.name, one.tokens
        inner = self.catalog.anywhere(tokens[0].text) if tokens and one.body is not None else None
        if inner is not None and inner.opened_by == one.name and (inner.section_like or not _says(one.body or "")):
            known, word, tokens = inner, inner.name, tokens[1:]
        name = known.alias if known is not None and known.alias else word
        pass_ = one.name[1:] if one.name[1:] in SECTIONS and one.name.startswith("%") else "setup"
        children = self.arguments(tokens, known)
        for token in one.tokens:
            if _BARE_NUMBER_SIGN.fullmatch(self.text_of(token)):
                told = "a number sign stands inside a word without quotes: whether the rest is a comment is not sure"
                hint = "put the word in quotes"
                self.find("word-cut", told, token.start, hint, pass_, name, severity=Severity.WARNING)
        if one.body is not None:
            if not one.closed and known is not None and known.ends:
                self.find(
                    "section-open", f"{one.name} is not closed", one.start, "end it with a line %end", pass_, name
                )
            children += self.body(one, known)
        return Block(pass_, name, "", tuple(children), self.origin(one.start), word if word != name else "")

    def arguments(self, tokens: tuple[Token, ...], known: Component | None) -> list[Node]:
        """Options and words of a command, in their order."""
        words = [one for one in known.settings if one.form == "word"] if known else []
        rest = next((one for one in known.settings if one.form == "rest"), None) if known else None
        out: list[Node] = []
        at = 0
        while at < len(tokens):
            token = tokens[at]
            origin = self.origin(token.start)
            if token.text.startswith("-") and len(token.text) > 1 and not self.text_of(token).startswith(("'", '"')):
                name, equals, value = token.text.partition("=")
                setting = known.setting(name) if known else None
                if setting is None and rest is not None:
                    break
                behind = self.text_of(tokens[at + 1]) if at + 1 < len(tokens) else "--"
                if not equals and self.takes_value(setting) and not behind.startswith("--"):
                    at += 1
                    value = tokens[at].text
                elif not equals:
                    lacks = self.takes_value(setting) and setting is not None and setting.form != "word"
                    value = "" if lacks or (setting is not None and setting.form == "bare") else "true"
                out.append(Node(name, value, (), origin))
            elif words:
                out.append(Node(words[0].name, token.text, (), origin))
                if not words[0].repeats:
                    words.pop(0)
            elif rest is not None:
                break
            else:
                out.append(Node("argument", token.text, (), origin))
            at += 1
        if rest is not None and at < len(tokens):
            raw = self.source.text[tokens[at].start : tokens[-1].end]
            out.append(Node(rest.name, re.sub(r"\\\r?\n\s*", " ", raw), (), self.origin(tokens[at].start)))
        return out

    def takes_value(self, setting: Setting | None) -> bool:
        """Whether the word behind an option without ``=`` is its value."""
        return setting is not None and setting.form not in ("flag", "bare")

    def text_of(self, token: Token) -> str:
        """A word as it stands in the file, quotes included."""
        return self.source.text[token.start : token.end]

    def body(self, one: Statement, known: Component | None) -> list[Node]:
        """What stands in a section: its script, or the entries of the package section."""
        body = one.body or ""
        if known is not None and any(setting.form == "entry" for setting in known.settings):
            return self.entries(body, one.body_start)
        if known is not None and any(setting.form == "line" for setting in known.settings):
            return self.lines(body, one.body_start)
        if known is None or known.setting("body") is None:
            return []
        text = body.replace("\r\n", "\n").removesuffix("\n")
        if not one.closed:
            text = text.rstrip("\n")
        return [Node("body", text, (), self.origin(one.body_start))] if body else []

    def entries(self, body: str, start: int) -> list[Node]:
        """The lines of a package section."""
        out = []
        for line in body.splitlines(keepends=True):
            text = line.partition("#")[0].strip()
            if text:
                name, value = entry_of(text)
                out.append(Node(name, value, (), self.origin(start + len(line) - len(line.lstrip()))))
            start += len(line)
        return out

    def lines(self, body: str, start: int) -> list[Node]:
        """The lines of a section that says names and their values."""
        out = []
        for line in body.splitlines(keepends=True):
            name, equals, value = line.strip().partition("=")
            if name and not name.startswith("#"):
                bare = value.strip()
                quoted = len(bare) > 1 and bare[0] == bare[-1] and bare[0] in "'\""
                value = (bare[1:-1] if quoted else bare) if equals else "true"
                out.append(Node(name.rstrip(), value, (), self.origin(start + len(line) - len(line.lstrip()))))
            start += len(line)
        return out

    def origin(self, offset: int) -> Origin:
        """Where an offset is."""
        return Origin(self.file, *self.source.position(offset))

    def find(
        self,
        rule: str,
        message: str,
        offset: int,
        hint: str,
        pass_: str | None = None,
        component: str | None = None,
        *,
        severity: Severity = Severity.ERROR,
    ) -> None:
        """Notes something wrong."""
        line, column = self.source.position(offset)
        self.findings.append(
            Finding(rule, severity, visible(message), hint, pass_, component, None, self.file, line, column)
        )


def _says(body: str) -> bool:
    """Whether a section says anything, comments apart."""
    return any(line.strip() and not line.lstrip().startswith("#") for line in body.split("\n"))


_MARKS = (("@^", "environment"), ("-@", "exclude-group"), ("-", "exclude"), ("%include ", "include"), ("@", "group"))


def entry_of(text: str) -> tuple[str, str]:
    """What a line of the package section names: the setting and its value."""
    for mark, name in _MARKS:
        if text.startswith(mark):
            value = text[len(mark) :].strip()
            module = name == "group" and ":" in value and " " not in value
            return "module" if module else name, value
    return "package", text


def entry_text(name: str, value: str) -> str:
    """The line of the package section for an entry."""
    mark = "@" if name == "module" else next((mark for mark, one in _MARKS if one == name), "")
    return mark + value
