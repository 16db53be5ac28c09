"""Optional features and capabilities: commands of the system's servicing tool, before the first start."""

from __future__ import annotations

import re

from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import AS_SYSTEM, add_command, commands_at
from fairledger.intent.features import Features
from fairledger.model.values import Template, concat, parse_text

_FORMS = {
    "on": ("/Enable-Feature /FeatureName:", " /All", "Feature on"),
    "off": ("/Disable-Feature /FeatureName:", "", "Feature off"),
    "add": ("/Add-Capability /CapabilityName:", "", "Capability added"),
    "remove": ("/Remove-Capability /CapabilityName:", "", "Capability taken out"),
}
_TOOL, _QUIET = "dism.exe /Online ", " /NoRestart /Quiet"
_NAME = r"[A-Za-z0-9_.~-]+"
_ENDS = {field: (_TOOL + before, after + _QUIET) for field, (before, after, _) in _FORMS.items()}


def canonical(value: Features, words: Words) -> Features | None:  # noqa: ARG001
    """Names that can stand in a command, each once."""
    kept = {field: tuple(name for name in dict.fromkeys(getattr(value, field)) if _usable(name)) for field in _FORMS}
    made = Features(**kept)
    return made if made != Features() else None


def _usable(name: object) -> bool:
    if isinstance(name, Template):
        return all(not isinstance(part, str) or re.fullmatch(_NAME, part) for part in name.parts)
    return isinstance(name, str) and re.fullmatch(_NAME, name) is not None


def translate(value: Features, words: Words) -> None:
    """A command for every name."""
    for field, (before, after, about) in _FORMS.items():
        for at, name in enumerate(getattr(value, field)):
            if not _usable(name):
                hint = "write it as the system's tool lists it, such as TelnetClient"
                words.field_error(("features", field, at), f"{name} is no name of a feature", hint)
            elif name not in getattr(value, field)[:at]:
                line = concat(_TOOL + before, name, after + _QUIET)
                add_command(words, AS_SYSTEM, line, concat(f"{about}: ", name), words.origin("features", field, at))


def recognise(reader: Reader) -> Features | None:
    """The same commands."""
    found: dict[str, tuple[object, ...]] = {}
    for item, line in commands_at(reader, AS_SYSTEM, "dism.exe"):
        for field, (start, end) in _ENDS.items():
            named = line.startswith(start) and line.endswith(end)
            name = parse_text(line[len(start) : -len(end)]) if named else None
            if name is not None and _usable(name) and name not in found.get(field, ()):
                found[field] = (*found.get(field, ()), name)
                reader.take(item, "features", field, len(found[field]) - 1, whole=True)
                break
    return Features(**found) if found else None  # type: ignore[arg-type]
