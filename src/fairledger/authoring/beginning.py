"""The text of a new draft."""

from __future__ import annotations

from pathlib import Path

import tomlkit
from msgspec import Struct

from fairledger.authoring.editors import schema_line, schema_name
from fairledger.catalog.meant import target_named
from fairledger.model.errors import WrongUseError
from fairledger.model.suggest import did_you_mean
from fairledger.profiles.document import FORMAT, read_document
from fairledger.profiles.library import Library
from fairledger.profiles.resolve import resolve


class Job(Struct, frozen=True, kw_only=True):
    """What is known of the job at its beginning."""

    target: str
    title: str
    edition: str | None = None
    arch: str | None = None
    firmware: str | None = None
    profiles: tuple[str, ...] = ()


def new_draft(job: Job, path: Path) -> str:
    """The new draft's text. Raises `WrongUseError` for names that do not exist, `ContentError` for bad profiles."""
    target = target_named(job.target)
    if job.arch and job.arch not in target.architectures:
        hint = did_you_mean(job.arch, target.architectures)
        raise WrongUseError(f"{target.name} does not exist for {job.arch!r}", remedy=hint)
    if job.edition and not target.editions:
        raise WrongUseError(f"{target.name} has no editions to choose from", remedy="leave --edition out")
    if job.edition and job.edition not in target.editions:
        hint = did_you_mean(job.edition, target.editions)
        raise WrongUseError(f"{target.name} has no edition {job.edition!r}", remedy=hint, candidates=target.editions)
    library = Library(path.parent)
    for name in job.profiles:
        if library.find(name) is None:
            raise WrongUseError(f"there is no profile {name!r}", remedy=library.remedy(name))
    text = _text(job, target.architectures[0], licensed=bool(target.editions))
    resolve(read_document(text, str(path)), library)
    return text


def _text(job: Job, arch: str, *, licensed: bool) -> str:
    document = tomlkit.document()
    document["format"] = FORMAT
    head = tomlkit.table()
    head["title"] = job.title
    head["target"] = job.target
    head["arch"] = job.arch or arch
    if job.firmware:
        head["firmware"] = job.firmware
    if job.profiles:
        profiles = tomlkit.array()
        profiles.extend(job.profiles)
        head["profiles"] = profiles.multiline(len(job.profiles) > 2)
    document["draft"] = head
    if job.edition:
        document["image"] = {"edition": job.edition}
    if licensed:
        licence = tomlkit.table()
        accept = tomlkit.item(True)
        accept.comment("by this you accept the vendor's licence terms")
        licence["accept"] = accept
        document["licence"] = licence
    return f"{schema_line(schema_name(job.target))}\n{tomlkit.dumps(document)}"
