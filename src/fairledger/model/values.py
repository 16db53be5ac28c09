"""The values of fields and answers: text, text with placeholders, and references to secrets.

A placeholder is written ``${word}``; ``$${word}`` stands for the text ``${word}`` itself. Everything else
that begins with a dollar sign (a hash with ``$6$``, a shell variable) is plain text.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from typing import TypeVar

from msgspec import Struct

from fairledger.model.pattern import pattern

_BLANK = pattern(r"\$(\$?)\{([A-Za-z_][A-Za-z0-9_]*)\}")
FORMS: dict[str, Callable[..., str]] = {
    "disk-tool": lambda text: re.sub(r'["\x00-\x1f\x7f]', "_", text),
    "xml-text": lambda text: text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;"),
    "powershell": lambda text: re.sub(r'(\\*)"', r'\1\1\\"', re.sub("(['‘’‚‛])", r"\1\1", text)),
}
"""What may have to happen to a value when it is filled in: it is made safe for the quotes around it, or put into a
family's words. PowerShell's single quotes stand inside the double quotes of a command line here, so that both kinds are
escaped. Families add their own with `form`."""

F = TypeVar("F", bound=Callable[..., str])


def form(name: str) -> Callable[[F], F]:
    """Adds a pure function to `FORMS`: text to text, with what stands behind its name where a form has more to say."""

    def added(function: F) -> F:
        FORMS[name] = function
        return function

    return added


def _put(text: str, forms: tuple[str, ...]) -> str:
    for one in forms:
        name, _, more = one.partition(" ")
        text = FORMS[name](text, more) if more else FORMS[name](text)
    return text


class Blank(Struct, frozen=True):
    """A placeholder that is still empty."""

    name: str


class Formed(Struct, frozen=True):
    """Text with placeholders that takes other forms once it is whole."""

    parts: tuple[str | Blank | Formed, ...]
    forms: tuple[str, ...]
    """Keys of `FORMS`, in their order; behind a blank what the form has to know besides."""

    def fill(self, values: Mapping[str, str]) -> str | Formed:
        """The text in its forms if all of it is known."""
        inner = Template(self.parts).fill(values)
        return _put(inner, self.forms) if isinstance(inner, str) else Formed(inner.parts, self.forms)


Piece = str | Blank | Formed


class Template(Struct, frozen=True):
    """Text with at least one placeholder in it."""

    parts: tuple[Piece, ...]

    @property
    def names(self) -> tuple[str, ...]:
        """The placeholders in order of coming, each once."""
        inside = (Template(part.parts).names if isinstance(part, Formed) else (part.name,) for part in self._open())
        return tuple(dict.fromkeys(name for names in inside for name in names))

    @property
    def takes_forms(self) -> bool:
        """Whether what is filled in is put into other words."""
        return any(isinstance(part, Formed) for part in self.parts)

    def _open(self) -> Iterator[Blank | Formed]:
        return (part for part in self.parts if not isinstance(part, str))

    def fill(self, values: Mapping[str, str]) -> str | Template:
        """Puts in the values that are known; the rest stays open."""
        return _joined([_filled(part, values) for part in self.parts])

    def __str__(self) -> str:
        """As a technician writes it, whatever forms it takes later."""
        return "".join(_written(part) for part in self.parts)


def _filled(part: Piece, values: Mapping[str, str]) -> Piece:
    if isinstance(part, Blank):
        return values.get(part.name, part)
    return part if isinstance(part, str) else part.fill(values)


def _written(part: Piece) -> str:
    if isinstance(part, Blank):
        return f"${{{part.name}}}"
    return escape_text(part) if isinstance(part, str) else str(Template(part.parts))


class SecretSource(Struct, frozen=True):
    """One place in which a secret may be found."""

    kind: str
    """``env``, ``file``, ``keyring``, ``ask`` or ``value`` (a literal, which earns a warning)."""
    name: str | Template = ""

    def __repr__(self) -> str:
        return f"SecretSource({self.kind!r})" if self.kind == "value" else f"SecretSource({self.told()!r})"

    def filled(self, values: Mapping[str, str]) -> SecretSource:
        """With its placeholders filled. Raises `ValueError` where a file would then be looked for elsewhere."""
        if not isinstance(self.name, Template):
            return self
        name = self.name.fill(values)
        if self.kind == "file" and _leads_away(self.name, name):
            raise ValueError("the file of the secret would not be below the folder that the draft names")
        return SecretSource(self.kind, name)

    def told(self) -> str:
        """What may be shown of it: never a secret."""
        if self.kind == "value":
            return "written in the file" if isinstance(self.name, str) else f"placeholder {self.name}"
        return "asked at the terminal" if self.kind == "ask" else f"{self.kind} {self.name}"


def _leads_away(template: Template, filled: Text) -> bool:
    """Whether values make another folder of a file's name: steps upwards, a place of its own, somebody's home."""
    both = (template.parts, filled.parts if isinstance(filled, Template) else (filled,))
    before, after = ("".join(part if isinstance(part, str) else "x" for part in parts) for parts in both)
    steps = [text.replace("\\", "/").split("/").count("..") for text in (before, after)]
    if steps[1] > steps[0] or "\0" in after:
        return True
    begins = isinstance(template.parts[0], str)
    return not begins and (after[:1] in ("/", "\\", "~") or after[1:2] == ":")


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
    parts: list[Piece] = []
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
    """The text made safe, piece by piece, for the quotes named by ``escape``; what is filled in later, too."""
    return _joined([_formed(piece, escape) for piece in ((text,) if isinstance(text, str) else text.parts)])


def formed(text: Text, form: str) -> Text:
    """The text as a whole in another form: at once, or when the last of its placeholders is filled."""
    if isinstance(text, str):
        return _put(text, (form,))
    whole = text.parts[0] if len(text.parts) == 1 else Formed(text.parts, ())
    return Template((_formed(whole, form),))


def _formed(piece: Piece, form: str) -> Piece:
    if isinstance(piece, str):
        return _put(piece, (form,))
    return Formed((piece,), (form,)) if isinstance(piece, Blank) else Formed(piece.parts, (*piece.forms, form))


def takes(text: Text, form: str) -> bool:
    """Whether a text can be one that took a form: what is still open must be about to take it, at the end."""
    lone = text.parts[0] if isinstance(text, Template) and len(text.parts) == 1 else None
    return isinstance(text, str) or (isinstance(lone, Formed) and lone.forms[-1].partition(" ")[0] == form)


def unformed(text: Text, form: str) -> Text:
    """Text with placeholders as it was before it was to take that form at the end; other text as it is."""
    lone = text.parts[0] if isinstance(text, Template) and len(text.parts) == 1 else None
    if not isinstance(lone, Formed) or not takes(text, form):
        return text
    return Template((Formed(lone.parts, lone.forms[:-1]),) if lone.forms[:-1] else lone.parts)


def split(text: Text, mark: str) -> tuple[Text, ...]:
    """Splits text at a mark, placeholders kept; empty text gives no parts."""
    rows: list[list[Piece]] = [[]]
    for piece in (text,) if isinstance(text, str) else text.parts:
        if not isinstance(piece, str):
            rows[-1].append(piece)
            continue
        first, *more = piece.split(mark)
        rows[-1].append(first)
        rows.extend([one] for one in more)
    return tuple(one for one in (_joined(row) for row in rows) if one != "")


def halves(text: Text, mark: str) -> tuple[Text, Text] | None:
    """What stands before and behind a mark; None unless the mark stands there once."""
    pieces = (text,) if isinstance(text, str) else text.parts
    places = [at for at, piece in enumerate(pieces) if isinstance(piece, str) and mark in piece]
    held = pieces[places[0]] if len(places) == 1 else ""
    if not isinstance(held, str) or held.count(mark) != 1:
        return None
    before, _, after = held.partition(mark)
    return _joined([*pieces[: places[0]], before]), _joined([after, *pieces[places[0] + 1 :]])


def join(texts: tuple[Text, ...], mark: str) -> Text:
    """Joins texts with a mark between them."""
    pieces: list[Text] = []
    for text in texts:
        pieces += [mark, text] if pieces else [text]
    return concat(*pieces)


def fill(value: Scalar, values: Mapping[str, str]) -> Scalar:
    """Fills the placeholders of any value, also those in a secret's source.

    Raises `ValueError` for what does not fit: a form that a value has not, a file that would leave its folder.
    """
    if isinstance(value, Template):
        return value.fill(values)
    if isinstance(value, SecretRef):
        return SecretRef(tuple(one.filled(values) for one in value.sources), value.form)
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


def _joined(parts: list[Piece]) -> Text:
    out: list[Piece] = []
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
