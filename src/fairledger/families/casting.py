"""Files with holes: what an answer sheet comes to, but for the values that are still open.

A family writes a sheet once, with a mark in the place of each open value, and says how such a value is written once it
is known. Filling then is joining texts.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

from msgspec import Struct
from msgspec.structs import replace

from fairledger.model.errors import ContentError
from fairledger.model.finding import Severity, finding_at
from fairledger.model.pattern import pattern
from fairledger.model.places import Place
from fairledger.model.sheet import Block, Node, Sheet
from fairledger.model.values import Scalar

ANSWERS, SCRIPT = "answers", "script"
"""What a file is for: the installer reads it, or a command in it calls it."""
_PRIVATE_USE = range(0xE000, 0xF900)


class Hole(Struct, frozen=True):
    """A value that is still open, and how it is written."""

    block: Block
    way: tuple[Node, ...]
    """The nodes down to the one that holds it."""
    value: Scalar
    put: Callable[[str], str]
    """The text that stands in the file for a value. Raises `ContentError` where the file cannot carry it."""


class Cast(Struct, frozen=True):
    """A file with holes."""

    segments: tuple[str | Hole, ...]
    name: str = ""
    """Its path below the folder of the answer file, with ``/``; empty for that itself, which the route names."""
    role: str = ANSWERS
    encoding: str = "utf-8"
    sound: bool = False
    """Whether what stands around its holes was looked through already."""

    @property
    def holes(self) -> Iterator[Hole]:
        """What is open in it."""
        return (one for one in self.segments if isinstance(one, Hole))

    def whole(self, value_of: Callable[[Hole], str]) -> bytes:
        """The file's bytes with every hole filled. Raises `ContentError`."""
        return self.joined([one if isinstance(one, str) else one.put(value_of(one)) for one in self.segments])

    def joined(self, texts: Sequence[str]) -> bytes:
        """The file's bytes, of texts in the place of its segments. Raises `ContentError`."""
        text = anew = "".join(texts)
        if self.sound:
            anew = "".join([told for told, one in zip(texts, self.segments, strict=True) if not isinstance(one, str)])
        odd = UNREADABLE.search(anew)
        if odd is not None:
            told = f"{self.name or 'the answer file'} would hold U+{ord(odd[0]):04X}, with which nobody can read it"
            finding = finding_at("value-unwritable", Severity.ERROR, told, Place(), "take the character out")
            raise ContentError([finding])
        return text.encode(self.encoding)

    def carries(self, value_of: Callable[[Hole], str | None]) -> bool:
        """Whether every value can stand in its hole, the others aside. Raises `ContentError` where one cannot.

        False where only the whole file tells.
        """
        for hole in self.holes:
            value = value_of(hole)
            if value is not None and UNREADABLE.search(hole.put(value)):
                return False
        return self.sound

    def looked_through(self) -> Cast:
        """The same, if what stands around its holes can be read."""
        around = "".join([one for one in self.segments if isinstance(one, str)])
        return replace(self, sound=UNREADABLE.search(around) is None)


UNREADABLE = pattern("[\x00-\x08\x0e-\x1f\ud800-\udfff]")
"""What no file of a family may hold: controls, and halves of characters."""


def stamped(answers: Cast, lines: int, told: str) -> Cast:
    """An answer file with a comment behind so many of its first lines."""
    first = answers.segments[0] if answers.segments else ""
    if not isinstance(first, str):
        return replace(answers, segments=(told, *answers.segments))
    rows = first.split("\n", lines)
    return replace(answers, segments=("\n".join([*rows[:lines], told + rows[-1]]), *answers.segments[1:]))


class Marks:
    """Hands out marks for open values, and cuts a text at them."""

    def __init__(self, sheet: Sheet) -> None:
        used = {char for text in _texts(sheet) if not text.isascii() for char in text}
        # a mark is a number between two signs that no value holds
        self._sign = next(chr(code) for code in _PRIVATE_USE if chr(code) not in used)
        self._holes: list[Hole] = []

    def mark(self, block: Block, way: tuple[Node, ...], put: Callable[[str], str]) -> str:
        """A mark for the value of the last node of ``way``."""
        value = way[-1].value
        assert value is not None
        self._holes.append(Hole(block, way, value, put))
        return f"{self._sign}{len(self._holes) - 1}{self._sign}"

    def cut(self, text: str) -> tuple[str | Hole, ...]:
        """A text as what stands between the marks, with the holes."""
        pieces = pattern(f"{self._sign}([0-9]+){self._sign}").split(text)
        out = [self._holes[int(piece)] if at % 2 else piece for at, piece in enumerate(pieces)]
        return tuple([one for one in out if one != ""])


def _texts(sheet: Sheet) -> Iterator[str]:
    for block, node in sheet.scalars():
        yield node.name
        yield block.component
        if isinstance(node.value, str):
            yield node.value
    yield from (one.text for one in sheet.extras)


def is_open(value: Scalar | None) -> bool:
    """Whether a value is yet to be filled or fetched."""
    return value is not None and not isinstance(value, str)
