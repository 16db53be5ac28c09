"""Requirement bypasses: a table (bypass.toml) of commands and answers, with the builds for which each works."""

# annotations are kept as types here, not as texts: decoding would compile every one of them at each start

from collections.abc import Iterator
from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import MOMENTS, REGISTRY, add_command, commands_at, registry_form
from fairledger.intent.intent import Intent
from fairledger.intent.part import Part
from fairledger.intent.sections import section
from fairledger.model.finding import Severity
from fairledger.model.target import Target


class Way(Struct, frozen=True, kw_only=True, rename={"pass_": "pass"}):
    """One way past one requirement."""

    about: str
    note: str = ""
    since: str = ""
    """First build for which it works."""
    until: str = ""
    """Last build for which it works."""
    doubtful_from: str = ""
    """First build of which nobody knows whether it still works."""
    upgrade: str = ""
    """The command to run before an upgrade in place; empty where nothing is known to help."""
    moment: str = ""
    command: str = ""
    pass_: str = ""
    component: str = ""
    setting: str = ""
    value: str = ""

    def asked_by(self, build: str) -> bool:
        """Whether a build has the requirement at all; unknown builds may."""
        return not build.isdecimal() or not self.since or int(build) >= int(self.since)

    def works_for(self, build: str) -> bool:
        """Whether the way works for a build; unknown builds are given the benefit of the doubt."""
        if not build.isdecimal():
            return True
        number = int(build)
        return (not self.since or number >= int(self.since)) and (not self.until or number <= int(self.until))

    def doubtful_for(self, build: str) -> bool:
        """Whether nobody knows that the way works for a build."""
        return build.isdecimal() and bool(self.doubtful_from) and int(build) >= int(self.doubtful_from)


INDEX = Path(__file__).parent / "bypass.json"


@cache
def ways() -> dict[str, Way]:
    """The table, by field."""
    found: dict[str, Way] = read_packaged(INDEX, dict[str, Way], "the table of bypass")
    return found


def build() -> bytes:
    """The packaged form of the authored table ``bypass.toml``."""
    import tomllib

    text = (Path(__file__).parent / "bypass.toml").read_text(encoding="utf-8")
    return lined(msgspec.convert(tomllib.loads(text), dict[str, Way]))


def canonical(value: Part, words: Words) -> Part | None:
    """Only what is switched off, and only where that works."""
    kept = {name: True for name, way in ways().items() if getattr(value, name) and way.works_for(words.target.build)}
    return section("bypass").table(**kept) if kept else None


def translate(value: Part, words: Words) -> None:
    """Commands while setup runs and before the first start, and a hidden page."""
    for name, way in ways().items():
        if not getattr(value, name):
            continue
        origin = words.origin("bypass", name)
        if not way.asked_by(words.target.build):
            words.needless(("bypass", name), f"bypass.{name}", "it asks for nothing of the kind")
        elif not way.works_for(words.target.build):
            span = f"it works up to build {way.until}"
            words.cannot(("bypass", name), f"bypass.{name}", span, "leave it out for this target")
        elif way.command:
            add_command(words, MOMENTS[way.moment], way.command, way.about, origin)
        else:
            words.out.block(way.pass_, way.component, origin).put(way.setting, way.value, origin)


def aged(intent: Intent, target: Target) -> Iterator[tuple[str, str, str, bool]]:
    """The ways that a build is not known to honour: section, field, a sentence, and whether that is certain."""
    said = intent.sections.get("bypass")
    for name, way in ways().items() if said is not None else ():
        if not getattr(said, name) or not way.asked_by(target.build):
            continue
        if not way.works_for(target.build):
            yield "bypass", name, f"{target.name} does not honour the way past a requirement: {way.about}", True
        elif way.doubtful_for(target.build) or not target.sure:
            yield "bypass", name, f"nobody knows whether {target.name} still honours it: {way.about}", False


def recognise(reader: Reader) -> Part | None:
    """The same commands, in whatever spelling."""
    found = {}
    for name, way in ways().items():
        if way.command:
            wanted = registry_form(way.command)
            for item, line in commands_at(reader, MOMENTS[way.moment], REGISTRY):
                if registry_form(line) == wanted:
                    found[name] = True
                    reader.take(item, "bypass", name, whole=True)
        else:
            seat = reader.first(way.pass_, way.component, way.setting)
            if seat is not None and seat.text == way.value:
                found[name] = True
                reader.take(seat, "bypass", name)
    return section("bypass").table(**found) if found else None


def before_upgrade(value: Part, words: Words) -> str:
    """The command file for upgrades in place, which read no answer file; what does not help there is said aloud."""
    lines: dict[str, str] = {}
    for name, way in ways().items():
        if not getattr(value, name) or way.moment != "setup":
            continue  # pages of the first start do not come up in an upgrade
        if way.upgrade and way.works_for(words.target.build):
            lines.setdefault(way.upgrade, way.about)
        else:
            why = (
                "an upgrade in place does not look there" if way.works_for(words.target.build) else "not in this build"
            )
            hint = "install anew from the medium, which reads the answer file"
            words.cannot(("bypass", name), f"bypass.{name} for an upgrade", why, hint, Severity.WARNING)
    told = "".join(f"rem {about}\n{line}\n" for line, about in lines.items())
    return f"@echo off\nrem Run as administrator before the upgrade.\n{told}" if lines else ""
