"""Small corrections of an answer file: only the words concerned change, all other bytes stay."""

from __future__ import annotations

from fairledger.catalog.address import Spot
from fairledger.catalog.seats import Seat, Seats
from fairledger.families.kickstart.read import entry_text
from fairledger.families.kickstart.statements import SourceText, Statement
from fairledger.families.kickstart.tokens import Token
from fairledger.families.kickstart.write import BELOW, COMMANDS, Writer
from fairledger.model.errors import ContentError, WrongUseError
from fairledger.model.items import is_new, meant, place_in
from fairledger.model.pattern import pattern
from fairledger.model.sheet import Block, Node, Sheet
from fairledger.model.values import Scalar

_SPACE_BEFORE = pattern(r"(?:[ \t]|\\\r?\n)+$")
"""Blanks before a word, with the backslashes that join its line to the one above."""


LINES = ("entry", "line")
"""Forms of settings that are lines of a section."""


class Reviser:
    """Makes one change in a text."""

    def __init__(self, text: str, seats: Seats) -> None:
        self.text = text
        self.seats = seats
        self.source = SourceText(text)
        self.newline = "\r\n" if "\r\n" in text else "\n"

    def set(self, spot: Spot, value: Scalar) -> str:
        """The text with one answer set; a component without one gets its line."""
        if spot.whole:
            return self.insert_line(Block(spot.pass_, spot.component))
        node = Node(spot.setting.name, str(value))
        self.examine(spot, node)
        form = spot.setting.form
        if spot.present is None:
            return self.insert(spot, node)
        if form == "body":
            statement = self.statement_of(spot.present.parent)
            body = str(value).replace("\n", self.newline) + self.newline
            end = statement.body_start + len(statement.body or "")
            return self.text[: statement.body_start] + body + self.text[end:]
        if form in LINES:
            start, end = self.entry_of(spot.present)
            return self.text[:start] + self.line_of(spot, node).strip() + self.text[end:]
        tokens = self.tokens_of(spot.present)
        written = self.written(spot, node)
        if form == "flag" and str(value) != "true":
            return self.without(tokens)
        if form != "rest" and len(tokens) == 2:
            return self.text[: tokens[1].start] + written.partition("=")[2] + self.text[tokens[1].end :]
        return self.text[: tokens[0].start] + written + self.text[tokens[-1].end :]

    def unset(self, spot: Spot) -> str:
        """The text without one option or word, line, or section."""
        if spot.present is None:
            raise WrongUseError(f"{spot.text} is not answered in this file", remedy="nothing was changed")
        if spot.whole:
            statement = self.statement_of(spot.present)
            end = statement.end
            if statement.body is not None:
                end = statement.body_start + len(statement.body)
                if not statement.closed:
                    return self.text[: self.line_start(statement.start)] + self.text[end:]
            return self.without_lines(statement.start, end)
        if spot.setting.form == "body":
            remedy = f"take out the section: {spot.text.rpartition('/')[0]}"
            raise WrongUseError(f"{spot.text} is all that the section says", remedy=remedy)
        if spot.setting.form in LINES:
            return self.without_lines(*self.entry_of(spot.present))
        return self.without(self.tokens_of(spot.present))

    def without(self, tokens: tuple[Token, ...]) -> str:
        """The text without some words of a line, and the space before them."""
        start = tokens[0].start
        blanks = _SPACE_BEFORE.search(self.text, self.line_start(start, joined=True), start)
        return self.text[: blanks.start() if blanks else start] + self.text[tokens[-1].end :]

    def without_lines(self, start: int, end: int) -> str:
        """The text without the lines from one offset to another."""
        behind = self.text.find("\n", end)
        return self.text[: self.line_start(start)] + (self.text[behind + 1 :] if behind != -1 else "")

    def line_start(self, offset: int, *, joined: bool = False) -> int:
        """Where a line begins; with ``joined`` the first of those that backslashes join."""
        start = self.text.rfind("\n", 0, offset) + 1
        while joined and start and self.text[:start].rstrip("\r\n").endswith("\\"):
            start = self.text.rfind("\n", 0, start - 1) + 1
        return start

    def entry_of(self, seat: Seat) -> tuple[int, int]:
        """From where to where a line of a section reaches, without a comment behind it where there are any."""
        start = self.offset_of(seat)
        line = self.text[start:].split("\n", 1)[0]
        if seat.setting is not None and seat.setting.form != "entry":
            return start, start + len(line.rstrip())
        return start, start + len(line.partition("#")[0].rstrip())

    def insert(self, spot: Spot, node: Node) -> str:
        """A new word in its command, or a new command behind the last one."""
        root = self.root_of(spot)
        if root is not None and spot.setting.form in BELOW:
            statement = self.statement_of(root)
            at = statement.body_start + len(statement.body or "")
            line = self.line_of(spot, node) if spot.setting.form in LINES else str(node.value)
            return self.text[:at] + line.replace("\n", self.newline) + self.newline + self.text[at:]
        if root is not None:
            statement = self.statement_of(root)
            written = self.written(spot, node)
            last = next((one for one in root.children if one.setting and "after-options" in one.setting.traits), None)
            if last is not None and node.name.startswith("-"):
                at = self.offset_of(last)
                return f"{self.text[:at]}{written} {self.text[at:]}"
            return self.text[: statement.end] + f" {written}" + self.text[statement.end :]
        named = spot.key and spot.item is not None and not is_new(spot.item) and place_in(spot.item) is None
        if named and node.name == spot.key and node.value != spot.item:
            raise WrongUseError(
                f"{spot.text} would be called otherwise at once", remedy="name it as it shall be called"
            )
        told = (Node(spot.key, spot.item),) if named and node.name != spot.key else ()
        return self.insert_line(Block(spot.pass_, spot.component, "", (*told, node)))

    def line_of(self, spot: Spot, node: Node) -> str:
        """A line of a section for an answer."""
        if spot.setting.form == "entry":
            return entry_text(node.name, str(node.value))
        return self.writer().line(Block(spot.pass_, spot.component), node)

    def insert_line(self, block: Block) -> str:
        """A new command behind the last one, or a new section at the end."""
        lines = self.lines_of(block)
        commands = [one for one in self.source.statements if one.body is None]
        if block.pass_ != COMMANDS or not commands:
            gap = "" if not self.text or self.text.endswith(("\n", "\r\n")) else self.newline
            return self.text + gap + self.newline.join(lines) + self.newline
        end = self.text.find("\n", commands[-1].end)
        if end == -1:
            return self.text + self.newline + self.newline.join(lines)
        return self.text[: end + 1] + self.newline.join(lines) + self.newline + self.text[end + 1 :]

    def root_of(self, spot: Spot) -> Seat | None:
        """The command's block, or the one of several that is named."""
        roots = list(self.seats.find(spot.pass_, spot.component, ""))
        if spot.item is None:
            return roots[0] if roots else None
        found = meant(spot.item, [root.says(spot.key) if spot.key else None for root in roots])
        return roots[found[0]] if found else None

    def examine(self, spot: Spot, node: Node) -> None:
        """Refuses a value that would not stay in its place."""
        try:
            self.writer().cast(Sheet((Block(spot.pass_, spot.component, "", (node,)),)))
        except ContentError as error:
            raise WrongUseError(error.message, remedy="nothing was changed") from error

    def written(self, spot: Spot, node: Node) -> str:
        """The words of an option as they are written."""
        known = self.seats.catalog.anywhere(spot.component)
        return self.writer().argument(
            Block(spot.pass_, spot.component), node, known.setting(spot.setting.path) if known else None
        )

    def lines_of(self, block: Block) -> list[str]:
        """A whole new command or section."""
        cast = self.writer().cast(Sheet((block,)))
        return cast.whole(lambda hole: str(hole.value)).decode().strip("\n").split("\n")

    def writer(self) -> Writer:
        """A writer with the file's own catalog."""
        target = self.seats.catalog.target
        return Writer(target, self.seats.catalog)

    def offset_of(self, seat: Seat) -> int:
        """Where a seat begins in the text."""
        return self.source.offset(seat.node.origin.line or 1, seat.node.origin.column or 1)

    def statement_of(self, root: Seat | None) -> Statement:
        """The statement that a block was read from."""
        assert root is not None
        start = self.offset_of(root)
        return next(one for one in self.source.statements if one.start == start)

    def tokens_of(self, seat: Seat) -> tuple[Token, ...]:
        """The words that a seat was read from: one, an option and its value, or the rest of a line."""
        statement = self.statement_of(seat.parent)
        start = self.offset_of(seat)
        at = next(number for number, token in enumerate(statement.tokens) if token.start == start)
        token = statement.tokens[at]
        form = seat.setting.form if seat.setting else ""
        if form == "rest":
            return statement.tokens[at:]
        separate = token.text == seat.node.name and form == "" and seat.node.name.startswith("-")
        behind = self.text[statement.tokens[at + 1].start :] if separate and at + 1 < len(statement.tokens) else "--"
        return (token,) if behind.startswith("--") else statement.tokens[at : at + 2]
