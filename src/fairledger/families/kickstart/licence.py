"""Licence terms and key in the words of kickstart."""

from __future__ import annotations

from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import secret_of
from fairledger.families.kickstart.lines import has
from fairledger.intent.licence import Licence


def canonical(value: Licence, words: Words) -> Licence | None:
    """Accepting only: refusing is not said. A key where the line knows one."""
    key = value.key if has(words, "serialnum") and value.key != "published" else None
    made = Licence(accept=True if value.accept else None, key=key)
    return made if made != Licence() else None


def translate(value: Licence, words: Words) -> None:
    """The terms' command of the line, and the key's."""
    if value.accept:
        origin = words.origin("licence", "accept")
        if has(words, "vmaccepteula"):
            words.out.block("setup", "vmaccepteula", origin)
        else:
            words.out.block("setup", "eula", origin).put("--agreed", "true", origin)
    if value.key == "published":
        words.cannot(("licence", "key"), "a published key", "its vendor publishes none", "write a key of your own")
    elif value.key is not None and has(words, "serialnum"):
        origin = words.origin("licence", "key")
        words.out.block("setup", "serialnum", origin).put("--esx", value.key, origin)
    elif value.key is not None:
        words.leave_out(("licence",), value, ("key",), "its installer asks for no key")
    fields = ("activation_key", "activation", "activation_server")
    words.leave_out(("licence",), value, fields, "it is not activated in this way")


def recognise(reader: Reader) -> Licence | None:
    """Terms and key."""
    accept = None
    for root in reader.find("setup", "vmaccepteula", ""):
        accept = True
        reader.take_block(root, "licence", "accept")
    agreed = reader.first("setup", "eula", "--agreed")
    if agreed is not None and agreed.text == "true":
        accept = True
        reader.take(agreed, "licence", "accept")
    key = None
    for root in reader.find("setup", "serialnum", ""):
        key = secret_of(root, "--esx")
        if key is not None:
            reader.take(root.child("--esx"), "licence", "key")
    made = Licence(accept=accept, key=key)
    return made if made != Licence() else None
