"""What may be printed where: payload on standard output, all else on standard error.

All text goes out through here, and shows as an escape whatever would steer a terminal or turn the direction of writing.
"""

from __future__ import annotations

import errno
import os
import re
import secrets
import sys
import textwrap
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from typing import TYPE_CHECKING, Any, TextIO

if TYPE_CHECKING:
    from rich.console import RenderableType
    from rich.text import Text

_OURS = f"\x1b{secrets.token_hex(8)}"
"""What our own colours begin with until they are printed: no file can know it."""
_STYLES = {"error": "1;31", "warning": "33", "advice": "36", "good": "32", "dim": "2", "bold": "1"}


def columns() -> int:
    """Columns of the terminal; 100 where there is none."""
    told = os.environ.get("COLUMNS", "")
    if told.isdecimal() and int(told):
        return int(told)
    try:
        return os.get_terminal_size(sys.__stdout__.fileno() if sys.__stdout__ else 1).columns or 100
    except (OSError, ValueError, AttributeError):
        return 100


@contextmanager
def _told_apart() -> Iterator[None]:
    """Tells a standard output that is full or closed from everything else that goes wrong."""
    from fairledger.model.errors import FileTroubleError

    try:
        yield
    except BrokenPipeError:
        raise
    except OSError as error:
        with suppress(OSError):  # what is left in it is lost: the end of the program must not stumble over it
            os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        told = f"standard output takes nothing: {(error.strerror or 'it is closed').lower()}"
        raise FileTroubleError(told, remedy="give it a file with room, or a terminal") from error


class _Stream:
    """Standard output for others that draw on it."""

    def __init__(self, console: Console) -> None:
        self.write = console.put
        self.flush = console.flush
        self.isatty = console.coloured


def printable(text: str) -> str:
    """Text with escapes for what would steer a terminal, but for lines, tabs and our own colours."""
    if text.isprintable():
        return text
    first, *styled = text.split(_OURS)
    shown = [_escaped(first)]
    for part in styled:
        code, end, rest = part.partition("m")
        shown.append(f"\x1b{code}{end}{_escaped(rest)}")
    return "".join(shown)


def cell(text: str) -> Text:
    """A cell of a table: nothing in it is markup, and nothing steers the terminal."""
    from rich.text import Text

    return Text(printable(text).replace("\n", "\\n"))


def _escaped(text: str) -> str:
    return _UNSEEN.sub(lambda match: match[0].encode("unicode_escape").decode(), text)


def _json_escape(match: re.Match[str]) -> str:
    return "".join(f"\\u{unit:04x}" for unit in memoryview(match[0].encode("utf-16-le", "surrogatepass")).cast("H"))


def json_text(value: Any) -> str:
    """A JSON document in which nothing is unseen."""
    import msgspec

    try:
        text = msgspec.json.format(msgspec.json.encode(value), indent=2).decode()
    except UnicodeEncodeError:  # a name that is no text, of a file of another system
        import json

        text = json.dumps(msgspec.to_builtins(value), indent=2)
    return (text if text.isascii() else _UNSEEN.sub(_json_escape, text)) + "\n"


_UNSEEN = re.compile(
    "[\\x00-\\x08\\x0b-\\x1f\\x7f-\\xa0\\xad\\u0600-\\u0605\\u061c\\u06dd\\u070f\\u08e2\\u180e\\u2000-\\u200f\\u2028-\\u202f\\u205f-\\u206f"
    "\\u3000\\ud800-\\udfff\\ufeff\\ufff9-\\ufffb\\U000e0000-\\U000e0fff]"
)
"""What is not seen, or is not seen where it stands: controls, separators, formats, halves of characters."""


class Console:
    """Prints. ``json`` says that standard output belongs to a machine: nothing is asked, nothing else printed there.

    ``out`` takes the payload instead of standard output.
    """

    def __init__(self, *, colour: str = "auto", json: bool = False, out: TextIO | None = None) -> None:
        self.json = json
        self.width = max(60, min(columns(), 160))
        self._colour = colour
        self._out = out
        for stream in (sys.stdout, sys.stderr):
            if hasattr(stream, "reconfigure"):
                stream.reconfigure(errors="backslashreplace")

    def coloured(self, stream: Any = None) -> bool:
        """Whether a stream gets colour."""
        if self._colour != "auto":
            return self._colour == "always"
        usable = not os.environ.get("NO_COLOR") and os.environ.get("TERM") != "dumb"
        there = stream or sys.stdout
        return usable and there is not None and bool(there.isatty())

    def style(self, text: str, style: str) -> str:
        """Text in a style of standard output, or plain."""
        return f"{_OURS}[{_STYLES[style]}m{text}{_OURS}[0m" if self.coloured() else text

    def say(self, text: str = "") -> None:
        """A line of payload, with empty ones around it if it has line ends there; one within it is shown as such."""
        line = text.strip("\n")
        before, after = text[: len(text) - len(text.lstrip("\n"))], text[len(text.rstrip("\n")) :] if line else ""
        self.put(before + printable(line).replace("\n", "\\n") + after + "\n")

    def lines(self, text: str) -> None:
        """Lines of payload."""
        self.put(printable(text) + "\n")

    def put(self, text: str) -> None:
        """Text of payload as it is. Raises `FileTroubleError` where standard output takes nothing."""
        if self._out is not None:
            self._out.write(text)
            return
        with _told_apart():
            if sys.stdout is None:
                raise OSError(errno.EBADF, "it is closed")
            sys.stdout.write(text)

    def paragraph(self, text: str, *, indent: str = "", hang: str | None = None, style: str | None = None) -> None:
        """Text folded to the width."""
        after = indent if hang is None else hang
        folded = textwrap.fill(
            text,
            self.width,
            initial_indent=indent,
            subsequent_indent=after,
            break_on_hyphens=False,
            break_long_words=False,
        )
        self.lines(self.style(folded, style) if style else folded)

    def table(self, renderable: RenderableType, widest: int = 160, styles: dict[str, str] | None = None) -> None:
        """Something drawn by rich: its cells come from `cell`."""
        from rich.console import Console as Rich
        from rich.theme import Theme

        forced = True if self.coloured() else None
        rich = Rich(
            file=_Stream(self),  # type: ignore[arg-type]
            width=min(self.width, widest),
            theme=Theme(styles) if styles else None,
            force_terminal=forced,
            no_color=not self.coloured(),
            highlight=False,
        )
        rich.print(renderable)

    def write_json(self, value: Any) -> None:
        """One JSON document."""
        self.put(json_text(value))

    def flush(self) -> None:
        """Sends everything on its way."""
        with _told_apart():
            if sys.stdout is not None:
                sys.stdout.flush()

    def note(self, text: str) -> None:
        """Something about the run, not its result."""
        from fairledger.model.errors import FileTroubleError

        with suppress(FileTroubleError):  # what is to be said is said all the same
            self.flush()
        if sys.stderr is None:
            return
        with suppress(OSError):
            sys.stderr.write(printable(text).replace("\n", "\\n") + "\n")

    def error(self, text: str) -> None:
        """One line that says what is wrong and what to do."""
        self.note("fairledger: " + text.replace("\n", " "))

    def asker(self, *, twice: bool = False) -> Any:
        """Asks for secrets without echo, ``twice`` for new ones; None where nobody can answer."""
        if self.json or sys.stdin is None or not sys.stdin.isatty():
            return None
        import getpass

        def ask(what: str) -> str | None:
            told = getpass.getpass(printable(f"{what}: ")) or None
            if twice and told is not None and getpass.getpass(printable(f"{what}, once more: ")) != told:
                from fairledger.model.errors import RefusedError

                raise RefusedError(f"the two answers for {what} differ", remedy="start again")
            return told

        return ask
