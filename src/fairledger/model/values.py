"""The values of fields and answers: text, text with placeholders, and references to secrets.

A placeholder is written ``${word}``; ``$${word}`` stands for the text ``${word}`` itself. Everything else
that begins with a dollar sign (a hash with ``$6$``, a shell variable) is plain text.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping

from msgspec import Struct

from fairledger.model.pattern import pattern

_BLANK = pattern(r"\$(\$?)\{([A-Za-z_][A-Za-z0-9_]*)\}")
ESCAPES: dict[str, Callable[[str], str]] = {
    "": lambda text: text,
    "disk-tool": lambda text: re.sub(r'["\x00-\x1f\x7f]', "_", text),
    "powershell": lambda text: re.sub(r'(\\*)"', r'\1\1\\"', re.sub("(['‘’‚‛])", r"\1\1", text)),
}
"""How a value is made safe for the quotes that surround its blank. PowerShell's single quotes stand inside
the double quotes of a command line here, so that both kinds are escaped."""


class Blank(Struct, frozen=True):
    """A placeholder that is still empty."""

    name: str
    escape: str = ""
    """A key of `ESCAPES`: what must happen to the value when it is filled in."""


class Template(Struct, frozen=True):
    """Text with at least one placeholder in it."""

    parts: tuple[str | Blank, ...]

    @property
    def names(self) -> tuple[str, ...]:
        """The placeholders in order of coming, each once."""
        return tuple(dict.fromkeys(part.name for part in self.parts if isinstance(part, Blank)))

    def fill(self, values: Mapping[str, str]) -> str | Template:
        """Puts in the values that are known; the rest stays open."""
        parts = [
            ESCAPES[part.escape](values[part.name]) if isinstance(part, Blank) and part.name in values else part
            for part in self.parts
        ]
        return _joined(parts)

    def __str__(self) -> str:
        return "".join(f"${{{part.name}}}" if isinstance(part, Blank) else escape_text(part) for part in self.parts)


class SecretSource(Struct, frozen=True):
    """One place in which a secret may be found."""

    kind: str
    """``env``, ``file``, ``keyring``, ``ask`` or ``value`` (a literal, which earns a warning)."""
    name: str | Template = ""

    def __repr__(self) -> str:
        return f"SecretSource({self.kind!r})" if self.kind == "value" else f"SecretSource({self.told()!r})"

    def told(self) -> str:
        """What may be shown of it: never a secret."""
        if self.kind == "value":
            return "written in the file" if isinstance(self.name, str) else f"placeholder {self.name}"
        return "asked at the terminal" if self.kind == "ask" else f"{self.kind} {self.name}"


class SecretRef(Struct, frozen=True):
    """A password, key or token: not itself, but where it is to be had."""

    sources: tuple[SecretSource, ...]
    """In the order in which they are tried."""
    form: str = "plain"
    """``plain`` or ``hash``: what the sources yield."""

    @property
    def literal(self) -> bool:
        """Whether the secret itself stands in a file."""
        return any(source.kind == "value" and isinstance(source.name, str) for source in self.sources)

    def __str__(self) -> str:
        return "(secret: " + ", or ".join(source.told() for source in self.sources) + ")"


Text = str | Template
Scalar = str | Template | SecretRef
"""What an answer or a scalar field may hold."""


def parse_text(text: str) -> Text:
    """Reads placeholders out of text that a technician wrote.

    >>> str(parse_text("LMR-${site}-01"))
    'LMR-${site}-01'
    >>> parse_text("$6$salt$hash") == "$6$salt$hash"
    True
    """
    parts: list[str | Blank] = []
    at = 0
    for match in _BLANK.finditer(text):
        parts.append(text[at : match.start()])
        parts.append(f"${{{match[2]}}}" if match[1] else Blank(match[2]))
        at = match.end()
    return _joined([*parts, text[at:]])


def escape_text(text: str) -> str:
    """Writes plain text so that `parse_text` gives it back unchanged."""
    if "${" not in text:
        return text
    return _BLANK.sub(lambda match: "$" + match[0], text)


def concat(*parts: Text) -> Text:
    """Joins texts and templates into one."""
    return _joined([piece for part in parts for piece in ((part,) if isinstance(part, str) else part.parts)])


def escaped(text: Text, escape: str) -> Text:
    """The text made safe for the quotes named by ``escape``, blanks included."""
    make = ESCAPES[escape]
    pieces = (text,) if isinstance(text, str) else text.parts
    return _joined([Blank(piece.name, escape) if isinstance(piece, Blank) else make(piece) for piece in pieces])


def split(text: Text, mark: str) -> tuple[Text, ...]:
    """Splits text at a mark, placeholders kept; empty text gives no parts."""
    rows: list[list[str | Blank]] = [[]]
    for piece in (text,) if isinstance(text, str) else text.parts:
        if isinstance(piece, Blank):
            rows[-1].append(piece)
            continue
        first, *more = piece.split(mark)
        rows[-1].append(first)
        rows.extend([one] for one in more)
    return tuple(one for one in (_joined(row) for row in rows) if one != "")


def join(texts: tuple[Text, ...], mark: str) -> Text:
    """Joins texts with a mark between them."""
    pieces: list[Text] = []
    for text in texts:
        pieces += [mark, text] if pieces else [text]
    return concat(*pieces)


def fill(value: Scalar, values: Mapping[str, str]) -> Scalar:
    """Fills the placeholders of any value, also those in a secret's source."""
    if isinstance(value, Template):
        return value.fill(values)
    if isinstance(value, SecretRef):
        sources = tuple(
            SecretSource(source.kind, source.name.fill(values)) if isinstance(source.name, Template) else source
            for source in value.sources
        )
        return SecretRef(sources, value.form)
    return value


def blanks_of(value: Scalar) -> tuple[str, ...]:
    """The placeholders that are still open in a value."""
    if isinstance(value, Template):
        return value.names
    if isinstance(value, SecretRef):
        return tuple(
            name for source in value.sources if isinstance(source.name, Template) for name in source.name.names
        )
    return ()


def _joined(parts: list[str | Blank]) -> Text:
    out: list[str | Blank] = []
    for part in parts:
        if isinstance(part, str) and out and isinstance(out[-1], str):
            out[-1] += part
        elif part != "":
            out.append(part)
    if not out:
        return ""
    if len(out) == 1 and isinstance(out[0], str):
        return out[0]
    return Template(tuple(out))
