"""What may be printed where: payload on standard output, all else on standard error."""

from __future__ import annotations

import os
import sys
import textwrap
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from rich.console import RenderableType

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


class Console:
    """Prints. ``json`` says that standard output belongs to a machine: nothing is asked, nothing else printed there."""

    def __init__(self, *, colour: str = "auto", json: bool = False) -> None:
        self.json = json
        self.width = max(60, min(columns(), 160))
        self._colour = colour
        for stream in (sys.stdout, sys.stderr):
            if hasattr(stream, "reconfigure"):
                stream.reconfigure(errors="backslashreplace")

    def coloured(self, stream: Any = None) -> bool:
        """Whether a stream gets colour."""
        if self._colour != "auto":
            return self._colour == "always"
        usable = not os.environ.get("NO_COLOR") and os.environ.get("TERM") != "dumb"
        return usable and (stream or sys.stdout).isatty()

    def style(self, text: str, style: str) -> str:
        """Text in a style of standard output, or plain."""
        return f"\x1b[{_STYLES[style]}m{text}\x1b[0m" if self.coloured() else text

    def say(self, text: str = "") -> None:
        """A line of payload."""
        sys.stdout.write(text + "\n")

    def paragraph(self, text: str, *, indent: str = "", hang: str | None = None, style: str | None = None) -> None:
        """Text folded to the width."""
        after = indent if hang is None else hang
        folded = textwrap.fill(text, self.width, initial_indent=indent, subsequent_indent=after, break_on_hyphens=False)
        self.say(self.style(folded, style) if style else folded)

    def table(self, renderable: RenderableType) -> None:
        """Something drawn by rich."""
        from rich.console import Console as Rich

        forced = True if self.coloured() else None
        rich = Rich(
            file=sys.stdout,
            width=self.width,
            force_terminal=forced,
            no_color=not self.coloured(),
            highlight=False,
        )
        rich.print(renderable)

    def write_json(self, value: Any) -> None:
        """One JSON document."""
        import msgspec

        sys.stdout.write(msgspec.json.format(msgspec.json.encode(value), indent=2).decode() + "\n")

    def flush(self) -> None:
        """Sends everything on its way."""
        sys.stdout.flush()

    def note(self, text: str) -> None:
        """Something about the run, not its result."""
        self.flush()
        sys.stderr.write(text + "\n")

    def error(self, text: str) -> None:
        """One line that says what is wrong and what to do."""
        self.note("fairledger: " + text.replace("\n", " "))

    def asker(self, *, twice: bool = False) -> Any:
        """Asks for secrets without echo, ``twice`` for new ones; None where nobody can answer."""
        if self.json or not sys.stdin.isatty():
            return None
        import getpass

        def ask(what: str) -> str | None:
            told = getpass.getpass(f"{what}: ") or None
            if twice and told is not None and getpass.getpass(f"{what}, once more: ") != told:
                from fairledger.model.errors import RefusedError

                raise RefusedError(f"the two answers for {what} differ", remedy="start again")
            return told

        return ask
