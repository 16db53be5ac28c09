"""Choices in the words of other sections: services that start, packages, what the firewall lets in."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from msgspec.structs import replace

from fairledger.catalog.tidy import PORTABLE, Choice, Chosen, Effect, choices_of, effects, tidy
from fairledger.families import own
from fairledger.families.interface import Words
from fairledger.intent.firewall import Firewall
from fairledger.intent.intent import Intent
from fairledger.intent.packages import Packages
from fairledger.intent.services import Services
from fairledger.intent.walk import FieldPath
from fairledger.model.finding import Severity
from fairledger.model.places import Placed
from fairledger.model.target import Target


class _Section:
    """A section of choices, of which nothing stands in the file by itself."""

    def __init__(self, name: str) -> None:
        self.name = name

    def canonical(self, value: Any, words: Words) -> None:  # noqa: ARG002
        """What it comes to stands in other sections."""
        return

    def recognise(self, reader: Any) -> None:  # noqa: ARG002
        """As above."""
        return

    def translate(self, value: Any, words: Words) -> None:
        """Says what the installer has nothing for."""
        for name, choice in choices_of(self.name).items():
            said = getattr(value, name)
            path: FieldPath = (self.name, name)
            if said is None:
                continue
            words.told.append(path)
            if effects(choice, said, words.target) or said == "ask":
                continue
            if _already(choice, said, words.target):
                words.needless(path, f"{self.name}.{name} = {said}", "it is so already")
            else:
                why = "nothing is known that does it there"
                words.cannot(path, f"{self.name}.{name}", why, "leave it out for this target", Severity.WARNING)


class _OwnSection(_Section):
    """Choices of one's own."""

    def translate(self, value: Any, words: Words) -> None:
        """Says what is wrong with them."""
        own.tell(value, words)


SECTIONS = (*tidy().groups, "own")


def of(name: str) -> _Section:
    """The section of that name."""
    return _OwnSection(name) if name == "own" else _Section(name)


def _already(choice: Choice, said: Any, target: Target) -> bool:
    return any(said in one.already for one in choice.changes(target))


def folded(intent: Intent, target: Target) -> Intent:
    """The intent with what its choices come to in the sections that say it; what those say themselves stays first."""
    sections, places = dict(intent.sections), dict(intent.places)
    for path, one in _all(intent, target):
        field = _put(sections, one)
        if field and field not in places:
            places[field] = _place(intent, path)
    return intent if sections == intent.sections else Intent(sections, places, intent.own)


def _place(intent: Intent, path: FieldPath) -> Placed:
    return intent.placed(*path)


def _all(intent: Intent, target: Target) -> Iterator[tuple[FieldPath, Effect]]:
    for name in tidy().groups:
        value = intent.sections.get(name)
        for field, choice in choices_of(name).items() if value is not None else ():
            said = getattr(value, field)
            if said is not None:
                for one in effects(choice, said, target):
                    if one.kind in PORTABLE:
                        yield (name, field), one
    for made in own.made(intent, target):
        yield from ((("own", made.at), one) for one in made.effects if one.kind in PORTABLE)


def _put(sections: dict[str, Any], one: Effect) -> FieldPath:
    """Puts a change into its section; gives the field, or nothing where it stands there already."""
    if one.kind == "service":
        services = sections.get("services") or Services()
        others = [name for field in services.__struct_fields__ for name in getattr(services, field)]
        if one.service in others:
            return ()
        sections["services"] = replace(services, **{one.start: (*getattr(services, one.start), one.service)})
        return "services", one.start
    if one.kind == "package":
        packages = sections.get("packages") or Packages()
        if one.package in (*packages.packages, *packages.exclude):
            return ()
        sections["packages"] = replace(packages, packages=(*packages.packages, one.package))
        return "packages", "packages"
    firewall = sections.get("firewall") or Firewall(enabled=True)
    if one.key in firewall.services or firewall.enabled is False:
        return ()
    sections["firewall"] = replace(firewall, services=(*firewall.services, one.key))
    return "firewall", "services"


def chosen(intent: Intent, target: Target) -> tuple[Chosen, ...]:
    """The choices that an intent makes, those of one's own with them."""
    found = []
    for name in tidy().groups:
        value = intent.sections.get(name)
        for field, choice in choices_of(name).items() if value is not None else ():
            said = getattr(value, field)
            done = effects(choice, said, target) if said is not None else ()
            if done:
                found.append(_chosen((name, field), (name, field), str(said), choice, done))
    mine = own.made(intent, target)
    found += [_chosen(("own", one.name), ("own", one.at), str(one.value), one.choice, one.effects) for one in mine]
    return tuple(found)


def _chosen(path: tuple[str, str], place: FieldPath, value: str, choice: Choice, done: tuple[Effect, ...]) -> Chosen:
    return Chosen(
        path=path,
        place=place,
        value=value,
        topic=choice.topic,
        about=choice.about,
        usual=choice.usual,
        loses=choice.loses,
        effects=done,
        undo="none",
        how="by services, packages and the firewall",
    )
