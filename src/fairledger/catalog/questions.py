"""The pages and prompts of installers, and what answers them. From the vendors' public references and guides."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.index import names_of
from fairledger.catalog.packaged import lined, read_packaged

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "questions.json"


class Question(Struct, frozen=True, kw_only=True):
    """Something that is asked, by whichever installer."""

    says: str
    """What it means that nobody answers it."""
    fires: str
    """A draft without its head, or an answer file, that leaves it open."""
    silent: str
    """One that does not."""


class Page(Struct, frozen=True, kw_only=True, rename={"pass_": "pass"}):
    """A page or prompt of some installers."""

    question: str
    lines: tuple[str, ...]
    """The lines of releases whose installers have it."""
    pass_: str
    """The pass in which it comes up."""
    who: str = "the installer"
    """Who asks."""
    asks: str
    """What is asked, after the word "asks"."""
    since: tuple[str, ...] = ()
    until: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()
    """One of them must hold for the page to come up; empty: it always does."""
    answered: tuple[str, ...]
    hidden: tuple[str, ...] = ()
    """What keeps the page away without answering it."""
    again: tuple[str, ...] = ()
    """What brings it up although it is answered."""
    doubtful: tuple[str, ...] = ()
    """With one of them nobody knows whether it is asked."""
    unless: str = ""
    """What may keep the question away that no file says."""
    remedy: str
    """What answers it in a draft."""
    native: str = ""
    """What answers it in an answer file, where that is more than the first of ``answered``."""
    rule: str = ""
    """The rule that speaks of it where that is more than a question; else ``question-`` and its word."""
    sure: bool = True


class Term(Struct, frozen=True):
    """One condition on what a file says."""

    absent: bool
    pass_: str
    trait: str
    """Of a component; empty where it is named."""
    component: str
    path: str
    """Empty where the component itself is meant."""
    values: tuple[str, ...] = ()
    part: str = ""


class _Table(Struct, frozen=True):
    question: dict[str, Question]
    page: tuple[Page, ...]


@cache
def _table() -> _Table:
    found: _Table = read_packaged(INDEX, _Table, "the table of questions")
    return found


def all_questions() -> dict[str, Question]:
    """Everything that installers ask, by its word."""
    return _table().question


def all_pages() -> tuple[Page, ...]:
    """The pages of all installers, of each in the order in which they come."""
    return _table().page


@cache
def terms_of(alternative: str, family: str) -> tuple[Term, ...]:
    """The terms of an alternative, all of which must hold. Raises `ValueError` for one that is none."""
    return tuple(_term(one.strip(), family) for one in alternative.split("&"))


def _term(text: str, family: str) -> Term:
    # parted by hand: compiling one pattern takes longer than all terms do
    absent = text.startswith("!")
    pass_, colon, rest = text.removeprefix("!").partition(":")
    if not colon or "/" in pass_ or "~" in pass_:
        pass_, rest = "", text.removeprefix("!")
    rest, tilde, part = rest.partition("~")
    rest, equals, values = rest.partition("=") if not tilde else (rest, "", "")
    name, _, path = rest.partition("/")
    if name.startswith("@"):
        return Term(absent, pass_, name[1:], "", "")
    if not name or (equals and not values) or (tilde and not part):
        raise ValueError(f"{text!r} is no condition")
    names = names_of(family)
    full = name if name in names else next((one for one in names if one.endswith(f"-{name}")), name)
    return Term(absent, pass_, "", full, path, tuple(values.split("|")) if values else (), part)


def build() -> bytes:
    """The packaged form of the authored table."""
    import tomllib

    rows = tomllib.loads((DATA / "questions.toml").read_text(encoding="utf-8"))
    return lined(msgspec.convert(rows, _Table), 2)
