"""Wrong uses of programs in commands and scripts: rules that are rows of a table."""

from __future__ import annotations

from fnmatch import fnmatchcase
from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.catalog.targets import covers
from fairledger.model.target import Target

DATA = Path(__file__).parent / "data"
INDEX = Path(__file__).parent / "index" / "uses.json"


class Use(Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """One way in which some programs must not be called. Words are compared in lower case; ``*`` is anything."""

    programs: tuple[str, ...]
    exact: bool = False
    """The programs are named without an ending such as ``.exe``."""
    words: tuple[str, ...] = ()
    any: tuple[str, ...] = ()
    lacks: tuple[str, ...] = ()
    in_front: bool = False
    """``lacks`` speaks only of the words in front of the first one of ``any``: what stands behind is no option."""
    shells: tuple[str, ...] = ()
    takes: tuple[str, ...] = ()
    """It gets the output of one of these programs."""
    alone: bool = False
    """Nothing but a person gives it its input."""
    when: tuple[str, ...] = ()
    as_: tuple[str, ...] = ()
    lines: tuple[str, ...] = ()
    since: tuple[str, ...] = ()
    until: tuple[str, ...] = ()
    beside: str = ""
    unless: tuple[str, ...] = ()
    severity: str = ""
    """Only where it differs from the rule's own."""
    told: str = ""
    """Only where it differs from the rule's own."""
    add: str = ""
    """What the sentences of the rule say of this use: they hold ``{add}``."""

    def fits(self, words: tuple[str, ...]) -> bool:
        """Whether words are those of the use."""
        lowered = [word.lower() for word in words]

        def first(wanted: str) -> int:
            return next((at for at, word in enumerate(lowered) if fnmatchcase(word, wanted)), -1)

        any_of = [at for at in map(first, self.any) if at >= 0]
        if (self.any and not any_of) or not all(first(one) >= 0 for one in self.words):
            return False
        ends = min(any_of) if self.in_front and any_of else len(lowered)
        return not any(0 <= first(one) < ends for one in self.lacks)

    def counts_for(self, target: Target | None) -> bool:
        """Whether it is wrong in a release; where nobody knows the release, only what is wrong in all of them."""
        if not (self.lines or self.since or self.until):
            return True
        return (
            target is not None
            and (not self.lines or target.line in self.lines)
            and covers(target, self.since, self.until)
        )


class OfAccount(Struct, frozen=True, kw_only=True, omit_defaults=True, forbid_unknown_fields=True):
    """Calls that make an account, change it, or put it into a group: which of their words is what."""

    programs: tuple[str, ...]
    first: str = ""
    name: int | None = None
    name_option: str = ""
    group: int | None = None
    group_option: str = ""
    secret: int | None = None
    makes: str = ""
    """The word with which the account is made; ``*`` where it always is."""

    def speaks(self, program: str, words: tuple[str, ...]) -> bool:
        """Whether a call is one of these."""
        return program in self.programs and (not self.first or words[:1] == (self.first,))

    def word(self, words: tuple[str, ...], field: str) -> str:
        """The word that is the name, the group or the secret; empty where there is none. Words are in lower case."""
        option: str = getattr(self, f"{field}_option", "")
        at: int | None = getattr(self, field)
        if option and option in words[:-1]:
            return words[words.index(option) + 1]
        plain = [word for word in words if not word.startswith("-")] if option else list(words)
        if at is None or not -len(plain) <= at < len(plain) or plain[at].startswith("/"):
            return ""
        return plain[at]

    def made(self, words: tuple[str, ...]) -> bool:
        """Whether the call makes the account."""
        return self.makes == "*" or (self.makes != "" and self.makes in words)


class WrongUse(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A rule, with the uses of which it speaks."""

    id: str
    severity: str
    says: str
    source: str
    fires: str
    silent: str
    told: str
    hint: str
    use: tuple[Use, ...]


class Uses(Struct, frozen=True, forbid_unknown_fields=True):
    """The table."""

    rule: tuple[WrongUse, ...]
    account: tuple[OfAccount, ...]
    restart: tuple[Use, ...]
    """Calls that restart or stop the machine."""


@cache
def uses() -> Uses:
    """All of it."""
    found: Uses = read_packaged(INDEX, Uses, "the table of wrong uses")
    return found


def build() -> bytes:
    """The packaged form of the authored table."""
    import tomllib

    table = tomllib.loads((DATA / "uses.toml").read_text(encoding="utf-8"))
    return lined(msgspec.to_builtins(msgspec.convert(table, Uses)), 2)
