"""Privacy choices as registry values that a command sets before the first start (privacy.toml)."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

from msgspec import Struct

from fairledger.catalog.packaged import lined, read_packaged
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import AS_SYSTEM, REGISTRY, add_command, commands_at, registry_form
from fairledger.intent.privacy import Privacy

INDEX = Path(__file__).parent / "privacy.json"


class Switch(Struct, frozen=True):
    """A registry value, and what it is for each word of the choice."""

    key: str
    value: str
    about: str
    words: dict[str, int]
    since: str = ""
    """First build that reads it."""

    def works_for(self, build: str) -> bool:
        """Whether a build reads it."""
        return not self.since or not build.isdecimal() or int(build) >= int(self.since)

    def line(self, word: str) -> str:
        """The command that sets it."""
        return f"reg add {self.key} /v {self.value} /t REG_DWORD /d {self.words[word]} /f"


@cache
def switches() -> dict[str, Switch]:
    """The table, by field."""
    found: dict[str, Switch] = read_packaged(INDEX, dict[str, Switch], "the table of privacy")
    return found


def build() -> bytes:
    """The packaged form of the authored table ``privacy.toml``."""
    import tomllib

    rows = tomllib.loads((Path(__file__).parent / "privacy.toml").read_text(encoding="utf-8"))
    table = {
        name: Switch(
            row["key"],
            row["value"],
            row["about"],
            {word: one for word, one in row.items() if isinstance(one, int)},
            row.get("since", ""),
        )
        for name, row in rows.items()
    }
    return lined(table)


def canonical(value: Privacy, words: Words) -> Privacy | None:
    """What is switched, where the release reads it; asking leaves no trace."""
    build = words.target.build
    kept = {
        name: getattr(value, name)
        for name, one in switches().items()
        if getattr(value, name) in one.words and one.works_for(build)
    }
    return Privacy(**kept) if kept else None


def translate(value: Privacy, words: Words) -> None:
    """A command for every choice that is made."""
    for name, switch in switches().items():
        said = getattr(value, name)
        if said in switch.words and not switch.works_for(words.target.build):
            why = f"what it switches came with build {switch.since}"
            words.needless(("privacy", name), f"privacy.{name}", why)
        elif said in switch.words:
            about = f"{switch.about}: {said}"
            add_command(words, AS_SYSTEM, switch.line(said), about, words.origin("privacy", name))


def recognise(reader: Reader) -> Privacy | None:
    """The same commands, in whatever spelling."""
    found: dict[str, Any] = {}
    forms = _forms()
    for item, line in commands_at(reader, AS_SYSTEM, REGISTRY):
        for name, word in forms.get(registry_form(line), ()):
            if name not in found:
                found[name] = word
                reader.take(item, "privacy", name, whole=True)
    return Privacy(**found) if found else None


@cache
def _forms() -> dict[str, list[tuple[str, str]]]:
    """What each command says, by its one spelling."""
    out: dict[str, list[tuple[str, str]]] = {}
    for name, switch in switches().items():
        for word in switch.words:
            out.setdefault(registry_form(switch.line(word)), []).append((name, word))
    return out
