"""Optional features and capabilities: commands of the system's servicing tool, before the first start."""

from __future__ import annotations

import re

from fairledger.catalog.offers import named
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import ANY, AS_SYSTEM, add_command, commands_at, on_drives
from fairledger.intent.features import Features
from fairledger.model.target import Target
from fairledger.model.values import Template, Text, concat, parse_text

_FORMS = {
    "on": ("/Enable-Feature /FeatureName:", "Feature on"),
    "off": ("/Disable-Feature /FeatureName:", "Feature off"),
    "add": ("/Add-Capability /CapabilityName:", "Capability added"),
    "remove": ("/Remove-Capability /CapabilityName:", "Capability taken out"),
}
_TOOL, _QUIET = "dism.exe /Online ", " /NoRestart /Quiet"
_NAME = r"[A-Za-z0-9_.~-]+"
_FOLDER = r'[^"%\x00-\x1f]+[^"%\x00-\x1f\\]'
_MEDIUM = "medium"
_ON_MEDIUM = r"%d:\sources\sxs"
_ALL_FROM, _CAPABILITIES_FROM = 9200, 10240
"""The first builds whose tool knows ``/All``, and capabilities."""


def canonical(value: Features, words: Words) -> Features | None:
    """Names that can stand in a command, each once; where they come from if that matters to one of them."""
    fields = [field for field in _FORMS if _can(field, words.target)]
    kept = {field: tuple(name for name in dict.fromkeys(getattr(value, field)) if _usable(name)) for field in fields}
    source = value.source if _source_usable(value.source) and _fetched_of(kept["on"], words.target) else None
    made = Features(**kept, source=source)
    return made if made != Features() else None


def _can(field: str, target: Target) -> bool:
    return field in ("on", "off") or not target.build.isdecimal() or int(target.build) >= _CAPABILITIES_FROM


def _usable(name: object) -> bool:
    if isinstance(name, Template):
        return all(not isinstance(part, str) or re.fullmatch(_NAME, part) for part in name.parts)
    return isinstance(name, str) and re.fullmatch(_NAME, name) is not None


def _source_usable(source: object) -> bool:
    return isinstance(source, str) and re.fullmatch(_FOLDER, source) is not None


def _old(target: Target | None) -> bool:
    return target is not None and target.build.isdecimal() and int(target.build) < _ALL_FROM


def _fetched(name: Text, target: Target | None) -> bool:
    """Whether a feature may not be in the image: it is known not to be, or nobody knows."""
    known = named("feature").get(name.casefold()) if isinstance(name, str) else None
    return not _old(target) and (known is None or (bool(known.fetched) if target is None else known.lacking(target)))


def _fetched_of(names: tuple[Text, ...], target: Target) -> bool:
    return any(_fetched(name, target) for name in names)


def _ends(field: str, target: Target | None, source: str | None) -> tuple[str, str]:
    """What stands before and behind a name."""
    after = " /All" if field == "on" and not _old(target) else ""
    if source == _MEDIUM:
        before, behind = on_drives(_ON_MEDIUM, _TOOL + _FORMS[field][0])
        return before, f"{after} /LimitAccess /Source:{_ON_MEDIUM}{_QUIET}{behind}"
    told = f' /LimitAccess /Source:"{source}"' if source else ""
    return _TOOL + _FORMS[field][0], after + told + _QUIET


def translate(value: Features, words: Words) -> None:
    """A command for every name."""
    source = value.source if _source_usable(value.source) else None
    if value.source is not None and not isinstance(source, str):
        words.field_error(("features", "source"), f"{value.source} is no folder", 'write "medium", or a whole path')
    elif value.source is not None and not _fetched_of(value.on, words.target):
        words.leave_out(("features",), value, ("source",), "the image holds all that is switched on")
    for field, (_, about) in _FORMS.items():
        if not _can(field, words.target):
            words.leave_out(("features",), value, (field,), "capabilities came with Windows 10")
            continue
        for at, name in enumerate(getattr(value, field)):
            if not _usable(name):
                hint = "write it as the system's tool lists it, such as TelnetClient"
                words.field_error(("features", field, at), f"{name} is no name of a feature", hint)
            elif name not in getattr(value, field)[:at]:
                from_there = (
                    str(source) if source is not None and field == "on" and _fetched(name, words.target) else None
                )
                before, after = _ends(field, words.target, from_there)
                line = concat(before, name, after)
                add_command(words, AS_SYSTEM, line, concat(f"{about}: ", name), words.origin("features", field, at))


def recognise(reader: Reader) -> Features | None:
    """The same commands."""
    found: dict[str, tuple[object, ...]] = {}
    source: str | None = None
    seen = False
    for item, line in commands_at(reader, AS_SYSTEM, ANY):
        if _TOOL not in line:
            continue
        said = _source_in(line)
        for field in _FORMS:
            start, end = _ends(field, reader.target, said)
            inside = line.startswith(start) and line.endswith(end)
            name = parse_text(line[len(start) : -len(end)]) if inside else None
            if name is None or not _usable(name) or name in found.get(field, ()):
                continue
            if field == "on" and _fetched(name, reader.target):
                if seen and said != source:
                    continue  # one of them comes from elsewhere
                source, seen = said, True
            elif said is not None:
                continue
            if said is not None:
                reader.places.setdefault(("features", "source"), item)
            found[field] = (*found.get(field, ()), name)
            reader.take(item, "features", field, len(found[field]) - 1, whole=True)
            break
    return Features(**found, source=source) if found else None  # type: ignore[arg-type]


def _source_in(line: str) -> str | None:
    if f"/Source:{_ON_MEDIUM}" in line:
        return _MEDIUM
    match = re.search(rf'/Source:"({_FOLDER})"', line)
    return match[1] if match else None
