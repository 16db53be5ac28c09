"""Small corrections of an answer file: only the words concerned change, all other bytes stay."""

from __future__ import annotations

from fairledger.catalog.address import Spot
from fairledger.catalog.seats import Seat, Seats
from fairledger.families.kickstart.read import entry_text
from fairledger.families.kickstart.statements import SourceText, Statement
from fairledger.families.kickstart.tokens import Token
from fairledger.families.kickstart.write import COMMANDS, Writer
from fairledger.model.errors import ContentError, WrongUseError
from fairledger.model.sheet import Block, Node, Sheet
from fairledger.model.values import Scalar


class Reviser:
    """Makes one change in a text."""

    def __init__(self, text: str, seats: Seats) -> None:
        self.text = text
        self.seats = seats
        self.source = SourceText(text)
        self.newline = "\r\n" if "\r\n" in text else "\n"

    def set(self, spot: Spot, value: Scalar) -> str:
        """The text with one answer set."""
        node = Node(spot.setting.name, str(value))
        self.examine(spot, node)
        form = spot.setting.form
        if spot.present is None or spot.setting.repeats:
            return self.insert(spot, node)
        if form == "body":
            statement = self.statement_of(spot.present.parent)
            body = str(value).replace("\n", self.newline) + self.newline
            end = statement.body_start + len(statement.body or "")
            return self.text[: statement.body_start] + body + self.text[end:]
        if form == "entry":
            start = self.offset_of(spot.present)
            old = entry_text(spot.present.node.name, str(spot.present.value))
            return self.text[:start] + entry_text(node.name, str(value)) + self.text[start + len(old) :]
        tokens = self.tokens_of(spot.present)
        written = self.written(spot, node)
        if form == "flag" and str(value) != "true":
            return self.without(tokens)
        if len(tokens) == 2:
            return self.text[: tokens[1].start] + written.partition("=")[2] + self.text[tokens[1].end :]
        return self.text[: tokens[0].start] + written + self.text[tokens[-1].end :]

    def unset(self, spot: Spot) -> str:
        """The text without one option or word."""
        if spot.present is None:
            raise WrongUseError(f"{spot.text} is not answered in this file", remedy="nothing was changed")
        if spot.setting.form in ("body", "entry"):
            raise WrongUseError(f"{spot.text} is a line of a section", remedy="take it out in a text editor")
        return self.without(self.tokens_of(spot.present))

    def without(self, tokens: tuple[Token, ...]) -> str:
        """The text without some words of a line, and the space before them."""
        start = tokens[0].start
        while start and self.text[start - 1] in " \t":
            start -= 1
        return self.text[:start] + self.text[tokens[-1].end :]

    def insert(self, spot: Spot, node: Node) -> str:
        """A new word at the end of its command, or a new command behind the last one."""
        root = self.root_of(spot)
        if root is not None and spot.setting.form in ("entry", "body"):
            statement = self.statement_of(root)
            at = statement.body_start + len(statement.body or "")
            line = entry_text(node.name, str(node.value)) if spot.setting.form == "entry" else str(node.value)
            return self.text[:at] + line.replace("\n", self.newline) + self.newline + self.text[at:]
        if root is not None:
            statement = self.statement_of(root)
            return self.text[: statement.end] + f" {self.written(spot, node)}" + self.text[statement.end :]
        told = (Node(spot.key, spot.item),) if spot.key and spot.item and not spot.item.startswith("+") else ()
        block = Block(spot.pass_, spot.component, "", (*told, node))
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
        for number, root in enumerate(roots, 1):
            named = root.says(spot.key) if spot.key else None
            if (named if named is not None else str(number)) == spot.item:
                return root
        return None

    def examine(self, spot: Spot, node: Node) -> None:
        """Refuses a value that would not stay in its place."""
        try:
            self.writer().cast(Sheet((Block(spot.pass_, spot.component, "", (node,)),)))
        except ContentError as error:
            raise WrongUseError(error.message, remedy="nothing was changed") from error

    def written(self, spot: Spot, node: Node) -> str:
        """The words of an option as they are written."""
        return self.writer().argument(Block(spot.pass_, spot.component), node, spot.setting)

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
