"""What all copies of a generalised image have in common, because its answer file says it once for all of them."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.routes import routes_of
from fairledger.events.event import Event, Weight
from fairledger.events.teller import Teller
from fairledger.intent.walk import FieldPath, names_of, said, told
from fairledger.model.values import Template
from fairledger.subject.subject import Subject

CHAPTER = "Every copy of the image has the same"
SHARED = {
    "identity.name": "machine name: {value}",
    "network.interface.address": "address: {value}",
    "network.interface.ipv6": "IPv6 address: {value}",
    "network.interface.wifi_key": "key of the wireless network",
    "account.administrator.password": "password of the administrator",
    "account.administrator.ssh_keys": "keys that sign in as the administrator",
    "account.local.password": "password of {name}",
    "account.local.ssh_keys": "keys that sign in as {name}",
    "account.sign_in.password": "password of the automatic sign-in",
    "join.password": "password with which machines join",
    "licence.key": "product key",
    "licence.activation_key": "product key of the installed system",
    "boot.password": "password of the boot loader",
}
"""Fields whose values should belong to one machine, or are secrets that one machine could give away."""
_ANY = ("auto", "dhcp", "off")


def shared(subject: Subject) -> list[tuple[str, FieldPath]]:
    """What copies share, each in a few words with its field; nothing on routes that make no copies."""
    if not makes_copies(subject):
        return []
    out = []
    intent = subject.intent
    for name, value in intent.sections.items():
        for path in said(value, (name,)):
            words = SHARED.get(".".join(names_of(path)))
            found = intent.at(path)
            if words is None or isinstance(found, Template) or found in _ANY:
                continue
            above = intent.at(path[:-1])
            out.append((words.format(value=told(found), name=getattr(above, "name", "") or "an account"), path))
    return out


def makes_copies(subject: Subject) -> bool:
    """Whether the file goes on a route on which an image is generalised."""
    target, first = subject.target, subject.limits.generalising_pass
    if target is None or not first:
        return False
    return any(one.name == subject.facts.route and first in one.passes for one in routes_of(target))


def tell(teller: Teller) -> Iterator[Event]:
    """An event for each, and one where nothing is known to be shared."""
    for words, path in shared(teller.subject):
        yield teller.event(CHAPTER, words, *path, weight=Weight.CARE)
    if makes_copies(teller.subject):
        yield teller.event(CHAPTER, "and all that scripts and the image itself hold, of which nobody knows")
