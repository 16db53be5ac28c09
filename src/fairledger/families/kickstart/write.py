"""Writes a sheet as an answer file. Every value goes through one quoting function; none can end its line."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog, catalog_of
from fairledger.catalog.setting import Component, Setting
from fairledger.families.casting import Cast, Marks, is_open
from fairledger.families.kickstart.read import entry_of, entry_text
from fairledger.families.kickstart.statements import SECTIONS, SourceText, section_of, taken_in
from fairledger.families.kickstart.tokens import QuoteError, quote, split
from fairledger.model.errors import ContentError
from fairledger.model.finding import Finding, Severity, finding_at
from fairledger.model.pattern import pattern
from fairledger.model.places import Place
from fairledger.model.sheet import Block, Extra, Node, Sheet
from fairledger.model.showing import quoted
from fairledger.model.target import Target

COMMANDS = "setup"
_STRANGE = "\0\r\v\f\x1c\x1d\x1e\x85\u2028\u2029"
"""What may end a line for one reader and not for another."""
_NO_LINE_CARRIES = pattern("[\x00-\x1f\x7f-\x9f\ud800-\udfff\u2028\u2029]")


BELOW = ("entry", "line", "body")
"""Forms of what stands below the line that begins a section."""


def where(node: Node, known: Component | None) -> str:
    """The form in which something stands; what a section of names and values does not know is such a line too."""
    setting = known.setting(node.name) if known else None
    if setting is not None or known is None or node.name.startswith("-"):
        return setting.form if setting else ""
    return "line" if any(one.form == "line" for one in known.settings) else ""


def _in_order(nodes: tuple[Node, ...], known: Component | None) -> list[Node]:
    """The parts of a line as they were, but for words behind which options count as words: these come last."""
    late = {one.name for one in known.settings if "after-options" in one.traits} if known else set()
    return sorted(nodes, key=lambda node: node.name in late) if late else list(nodes)


def fault(text: str) -> tuple[str, str]:
    """What is wrong with a section that is kept as it stands, and the remedy; empty if nothing is."""
    source = SourceText(text.replace("\r\n", "\n"))
    whole = len(source.foreign) == 1 and not source.statements and not source.faults
    if whole and not any(char in text for char in _STRANGE):
        return "", ""
    return "what stands in [[extra]] is not one unknown section with its end", "correct it, or take it out"


def _is_word(name: str) -> bool:
    """Whether a name is one word that needs no quotes."""
    try:
        return len(split(name)) == 1 and quote(name) == name
    except QuoteError:
        return False


class Writer:
    """Writes one file."""

    def __init__(self, target: Target | None, catalog: Catalog | None = None) -> None:
        self.catalog = catalog or catalog_of("kickstart", target)
        self.findings: list[Finding] = []
        self.marks = Marks(Sheet())

    def cast(self, sheet: Sheet) -> Cast:
        """The answer file: commands first, then sections. Raises `ContentError` where a value cannot be written."""
        self.marks = Marks(sheet)
        lines: list[str] = []
        for block in sheet.blocks:
            if block.pass_ == COMMANDS:
                lines.append(self.command(block))
            else:
                lines += ["", *self.section(block)]
        for extra in sheet.extras:
            lines += ["", *self.kept(extra)]
        if self.findings:
            raise ContentError(self.findings)
        return Cast(self.marks.cut("\n".join(lines) + "\n"))

    def kept(self, extra: Extra) -> list[str]:
        """A section that was kept as it stood, if that is what it is and nothing more."""
        told, hint = fault(extra.text)
        if told:
            place = Place(origin=extra.origin)
            self.findings.append(finding_at("extra-malformed", Severity.ERROR, told, place, hint))
        return extra.text.strip().replace("\r\n", "\n").split("\n")

    def hole(self, block: Block, node: Node, written: Callable[[Node], str]) -> str:
        """What ``written`` makes of a node, or if its value is open, a mark for what it will make of it."""
        if not is_open(node.value):
            return written(node)

        own = len(taken_in(str(node.value)))

        def put(text: str) -> str:
            self.findings = []
            made = written(replace(node, value=text))
            if len(taken_in(text)) > own:
                self.refuse(block, node, "a value begins a line with %include, and the installer would take in a file")
            if self.findings:
                raise ContentError(self.findings)
            return made

        return self.marks.mark(block, (node,), put)

    def command(self, block: Block) -> str:
        """A command, or a section's header, on one line."""
        known = self.catalog.anywhere(block.component)
        name = block.written or block.component
        if not _is_word(name):
            self.refuse(block, None, f"{quoted(name)} cannot be a command")
        parts = [known.opened_by, name] if known and known.opened_by else [name]
        parts = [" ".join(parts)]
        for node in _in_order(block.children, known):
            setting = known.setting(node.name) if known else None
            if where(node, known) not in BELOW:
                parts.append(self.hole(block, node, partial(self.word, block, setting)))
        return "".join(parts)

    def word(self, block: Block, setting: Setting | None, node: Node) -> str:
        """An argument with the space before it; nothing for a flag that is not set."""
        written = self.argument(block, node, setting)
        return f" {written}" if written else ""

    def argument(self, block: Block, node: Node, setting: Setting | None) -> str:
        """An option with its value, or a word."""
        value = self.plain(block, node)
        form = setting.form if setting is not None else ("" if node.name.startswith("-") else "word")
        if form == "flag":
            return node.name if value == "true" else ""
        if form == "bare" and value == "":
            return node.name
        if form == "word":
            return f'"{value}"' if value.startswith("-") and quote(value) == value else quote(value) if value else '""'
        if form == "rest":
            return self.rest(block, node, value)
        if setting is None and value == "true":
            return node.name
        if quote(node.name) != node.name or not node.name.startswith("-"):
            self.refuse(block, node, f"{quoted(node.name)} cannot be an option")
        return f"{node.name}={quote(value) if value else ''}"

    def rest(self, block: Block, node: Node, value: str) -> str:
        """Words that are written as they are, if they are words and nothing else."""
        try:
            tokens = split(value)
        except QuoteError:
            tokens = []
        if value and (not tokens or tokens[-1].end != len(value) or value.endswith("\\")):
            self.refuse(block, node, "the value would end the command's line, or open a comment or quote")
        return value

    def section(self, block: Block) -> list[str]:
        """A section: its header, what stands in it, and its end."""
        known = self.catalog.anywhere(block.component)
        out = [self.command(block)]
        for node in block.children:
            form = where(node, known)
            if form in BELOW:
                out.append(self.hole(block, node, partial(getattr(self, form), block)))
        return [*out, known.ends] if known and known.ends else out

    def entry(self, block: Block, node: Node) -> str:
        """A line of the package section."""
        value = self.plain(block, node)
        line = entry_text(node.name, value)
        if (
            not value
            or entry_of(line) != (node.name, value)
            or line.startswith("%") != (node.name == "include")
            or "#" in line
        ):
            self.refuse(block, node, f"{quoted(value)} is no name of a package")
        return line

    def line(self, block: Block, node: Node) -> str:
        """A line of a section of names and values."""
        value = self.plain(block, node)
        odd = node.name != node.name.strip() or not node.name or "=" in node.name or node.name.startswith(("#", "%"))
        if odd or _NO_LINE_CARRIES.search(node.name) or value != value.strip() or '"' in value:
            self.refuse(block, node, f"a line with the name {quoted(node.name)} cannot hold this value")
        return f'    {node.name} = "{value}"' if " " in value else f"    {node.name} = {value}"

    def body(self, block: Block, node: Node) -> str:
        """A script's lines; one that would end the section is refused."""
        value = str(node.value)
        for line in value.split("\n"):
            if section_of(line) in ("end", *SECTIONS):
                told = f"a line of the script begins with %{section_of(line)} and would end the section"
                self.refuse(block, node, told)
        if any(char in value for char in _STRANGE):
            self.refuse(block, node, "the script holds a control character or a strange line end")
        return value

    def plain(self, block: Block, node: Node) -> str:
        """A value that stands on one line."""
        value = str(node.value) if node.value is not None else ""
        bad = _NO_LINE_CARRIES.search(value)
        if bad is not None:
            self.refuse(block, node, f"the value holds the character U+{ord(bad[0]):04X}, which a line cannot carry")
        return value

    def refuse(self, block: Block, node: Node | None, message: str) -> None:
        """Notes what cannot be written."""
        origin = node.origin if node is not None else block.origin
        place = Place(block.pass_, block.component, node.name if node is not None else None, origin)
        self.findings.append(finding_at("character-forbidden", Severity.ERROR, message, place, "take it out"))
