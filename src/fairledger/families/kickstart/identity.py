"""The machine's name in the words of kickstart."""

from __future__ import annotations

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.network import has_lines, put_name
from fairledger.intent.identity import Identity
from fairledger.model.finding import Severity


def canonical(value: Identity, words: Words) -> Identity | None:  # noqa: ARG001
    """A fixed name; the rest has no command."""
    return Identity(name=value.name) if value.name is not None and value.naming in (None, "fixed") else None


def translate(value: Identity, words: Words) -> None:
    """The name stands on a network line (of its own where lines may repeat)."""
    words.leave_out(("identity",), value, ("owner", "organisation"), "its installer has nothing of the kind")
    hint = "give a name, such as lmr-${number}"
    if value.pattern is not None:
        why = "its installer makes no names up"
        words.cannot(("identity", "pattern"), "a name by serial number", why, hint, Severity.WARNING)
    if value.naming in ("random", "ask"):
        why = "its installer makes no names up, and asks for none"
        words.cannot(("identity", "naming"), f"identity.naming = {value.naming}", why, hint, Severity.WARNING)
    elif value.name is not None and not has_lines(words):
        put_name(words)  # else behind the interfaces, since the first line of all brings its interface up


def recognise(reader: Reader) -> Identity | None:
    """The last network line that has a name counts."""
    seats = [seat for seat in reader.find("setup", "network", "--hostname") if text_of(seat)]
    if not seats:
        return None
    reader.take(seats[-1], "identity", "name")
    return Identity(name=text_of(seats[-1]))
