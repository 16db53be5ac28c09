"""How setup begins and what it installs, in sentences."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.events.event import Event, Weight
from fairledger.events.teller import Fields, Teller
from fairledger.events.words import word

BEGINS = "Setup begins"
INSTALLED = "What is installed"


def begin(teller: Teller) -> Iterator[Event]:
    """Language, licence, source, requirements."""
    locale = teller.fields("locale")
    if locale is not None:
        if locale.bare.setup_language:
            yield teller.event(BEGINS, f"setup itself speaks {word(locale.setup_language)}", "locale", "setup_language")
        elif locale.bare.language:
            yield teller.event(BEGINS, f"setup speaks {word(locale.bare.language)}", "locale", "language")
    licence = teller.fields("licence")
    if licence is not None and licence.bare.accept:
        yield teller.event(BEGINS, "the licence terms are accepted without asking", "licence", "accept")
    if licence is not None and licence.bare.key is not None:
        own = licence.key != "published"
        told = word(licence.key) if own else "that the vendor publishes for the edition; it activates nothing"
        yield teller.event(BEGINS, f"a product key is entered {told}", "licence", "key")
    yield from _source(teller)
    for field, off in teller.said("bypass"):
        if off:
            told = f"the requirement is switched off: {field.replace('_', ' ')}"
            yield teller.event(BEGINS, told, "bypass", field, weight=Weight.CARE)


def _source(teller: Teller) -> Iterator[Event]:
    source = teller.fields("source")
    if source is None:
        return
    where = next((name for name in _WHERE if getattr(source.bare, name)), None)
    if where is not None:
        yield teller.event(BEGINS, f"everything is fetched from {word(getattr(source, where))}", "source", where)
    for name, what in _UNVERIFIED:
        if getattr(source.bare, name) is False:
            text = f"{what} not verified: whoever is on the way can put something else in its place"
            yield teller.event(BEGINS, text, "source", name, weight=Weight.CARE)
    for path, one in teller.items("source", "repository"):
        field = next((name for name in ("url", "mirrors", "metalink") if getattr(one.bare, name)), None)
        place = f" ({word(getattr(one, field))})" if field else ""
        kept = ", and stays a source on the new system" if one.keep else ""
        yield teller.event(BEGINS, f"more is fetched from {word(one.name)}{place}{kept}", *path)


_UNVERIFIED = (("verify", "the server's certificate is"), ("signed", "signatures are"))
_WHERE = ("url", "mirrors", "metalink", "server", "partition", "kind")


def installed(teller: Teller) -> Iterator[Event]:
    """Image or packages."""
    image = teller.fields("image")
    if image is not None:
        yield teller.event(INSTALLED, f"{_image(image)} is installed", "image")
    for path, one in teller.items("file"):
        told = f"{word(one.source)} is laid down as {word(one.to)}"
        told += f", for {word(one.owner)}" if one.bare.owner else ""
        told += f", with the rights {word(one.mode)}" if one.bare.mode else ""
        yield teller.event(INSTALLED, told, *path)
    packages = teller.fields("packages")
    if packages is None:
        return
    for field in ("environment", "groups", "packages", "modules", "exclude", "exclude_groups"):
        if getattr(packages.bare, field):
            happens = "left out" if field.startswith("exclude") else "installed"
            kind = {"exclude": "packages", "exclude_groups": "groups"}.get(field, field)
            told = f"{kind} {happens}: {word(getattr(packages, field))}"
            yield teller.event(INSTALLED, told, "packages", field)


def _image(image: Fields) -> str:
    named = [word(image.edition)] if image.bare.edition else []
    named += [f"image number {word(image.index)}"] if image.bare.index is not None else []
    where = f" from {word(image.file)}" if image.bare.file else ""
    return (", ".join(named) or "the image") + where
