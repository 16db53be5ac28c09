"""Facts of a medium as a small file that stands for it, and taken from the medium itself."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
from msgspec.structs import replace

from fairledger.catalog.targets import known_target
from fairledger.media.medium import Medium, look_at
from fairledger.model.errors import ContentError, FileTroubleError
from fairledger.model.finding import Finding, Severity
from fairledger.model.holdings import AnswerFacts, BootFacts, HeldFacts, ImageFacts, MediumFacts, TreeFacts
from fairledger.model.showing import visible
from fairledger.storage.files import read_text
from fairledger.storage.looking import is_file

FORMAT = 1
MOST = 4 << 20
"""Bytes of a file of facts."""
_WIDE = 100


def is_facts_file(path: Path) -> bool:
    """Whether a path names a file of facts rather than a medium. Raises `FileTroubleError`."""
    return path.suffix.lower() == ".toml" and is_file(path)


def facts_at(path: Path) -> MediumFacts:
    """The facts of a medium, or those in a file of them. Raises `FileTroubleError`, `ContentError`."""
    return read_facts(path) if is_facts_file(path) else facts_of(look_at(path))


def facts_of(medium: Medium) -> MediumFacts:
    """The facts of a medium; what its images hold is not among them."""
    whole = medium.kind != "image file"
    system = medium.system
    entries = tuple(
        BootFacts(file=one.file, title=one.title, labels=one.labels) for one in medium.entries if one.labels
    )
    return MediumFacts(
        name=medium.path.name or str(medium.path),
        kind=medium.kind,
        label=medium.label,
        size=medium.size,
        boots=medium.boots if whole and not medium.partly else None,
        family=system.family,
        targets=system.targets,
        release=system.name,
        build=system.build,
        arch=system.arch,
        languages=system.languages or None,
        channel=medium.channel,
        edition=medium.edition,
        images=tuple(
            ImageFacts(
                index=one.image.index,
                file=one.file if whole else "",
                name=one.image.name,
                shown=one.image.shown,
                edition=one.edition,
                edition_id=one.image.edition,
                installation=one.image.installation,
                arch=one.image.arch,
                build=one.image.build,
                languages=one.image.languages,
                size=one.image.size,
            )
            for one in medium.images
        )
        or None,
        tree=medium.tree or TreeFacts(),
        answers=tuple(AnswerFacts(path=one.path, first=one.first) for one in medium.answers) if whole else None,
        entries=entries if whole else None,
        problems=medium.problems,
    )


def with_held(facts: MediumFacts, held: HeldFacts) -> MediumFacts:
    """The same, with what one of its images holds."""
    others = tuple(one for one in facts.held if (one.image, one.file) != (held.image, held.file))
    return replace(facts, held=(*others, held))


class _File(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    format: int
    medium: MediumFacts


def read_facts(path: Path) -> MediumFacts:
    """What such a file says. Raises `FileTroubleError`, and `ContentError` for what is none."""
    text = read_text(path)
    if len(text) > MOST:
        raise FileTroubleError("a file of facts is never that large", file=str(path))
    try:
        found = msgspec.toml.decode(text, type=_File)
    except (msgspec.DecodeError, ValueError, RecursionError) as error:
        told = f"this is no file of facts of a medium: {_reason(error)}"
        hint = "make it again: fairledger medium MEDIUM --facts FILE"
        raise ContentError([Finding("medium-facts", Severity.ERROR, told, hint, file=str(path), line=1)]) from error
    if found.format != FORMAT:
        told = f"this file of facts has format {found.format}, and format {FORMAT} can be read"
        hint = "make it again with this version"
        raise ContentError([Finding("medium-facts", Severity.ERROR, told, hint, file=str(path), line=1)])
    return _known(found.medium)


def _known(facts: MediumFacts) -> MediumFacts:
    """Facts without releases of which this version knows nothing."""
    known = tuple(name for name in facts.targets if known_target(name) is not None)
    if known == facts.targets:
        return facts
    unknown = ", ".join(visible(name) for name in facts.targets if name not in known)
    told = f"it is said to install {unknown}, which this version does not know"
    return replace(facts, targets=known, problems=(*facts.problems, told))


def _reason(error: Exception) -> str:
    return str(error).splitlines()[0] if str(error) else type(error).__name__


def text_of(facts: MediumFacts) -> str:
    """The text of such a file; the same facts give the same text."""
    import tomlkit

    document = tomlkit.document()
    document.add(
        tomlkit.comment("Facts of a medium, which stand for it. Made by: fairledger medium MEDIUM --facts FILE")
    )
    document.add("format", tomlkit.item(FORMAT))
    told = msgspec.to_builtins(facts)
    document.add("medium", _item({name: one for name, one in told.items() if name != "tree" or one}))
    return tomlkit.dumps(document)


def _item(value: Any) -> Any:
    """A value in the form in which people like to read it; what nobody knows is left out."""
    import tomlkit

    if isinstance(value, dict):
        table = tomlkit.table()
        for name, one in sorted(value.items(), key=lambda pair: _holds_tables(pair[1])):
            if one is not None:
                table.add(name, _item(one))
        return table
    if isinstance(value, (list, tuple)):
        if value and isinstance(value[0], dict):
            tables = tomlkit.aot()
            for one in value:
                tables.append(_item(one))
            return tables
        array = tomlkit.array()
        array.extend(value)
        return array.multiline(sum(len(str(one)) + 4 for one in value) > _WIDE)
    return tomlkit.item(value)


def _holds_tables(value: Any) -> bool:
    return isinstance(value, dict) or (isinstance(value, (list, tuple)) and bool(value) and isinstance(value[0], dict))
