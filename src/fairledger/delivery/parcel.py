"""What is delivered: one machine's finished files, of a draft or of an answer file that somebody wrote."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct
from msgspec.structs import replace

from fairledger.catalog.routes import Route
from fairledger.checks.engine import Report, check
from fairledger.delivery.carried import Carrier
from fairledger.delivery.fill import FILE, Made, filled
from fairledger.delivery.prepare import Prepared, prepare, route_to
from fairledger.events.story import story_of
from fairledger.events.warnings import of_disks
from fairledger.media.medium import look_at
from fairledger.model.errors import FileTroubleError, WrongUseError
from fairledger.model.finding import Severity
from fairledger.model.showing import passwords_in
from fairledger.model.target import Target
from fairledger.profiles.secrets import Secrets
from fairledger.storage.files import read_bytes
from fairledger.storage.looking import inside, is_file, is_there
from fairledger.subject.opening import Asked, opened, opened_answers
from fairledger.subject.subject import FileKind, Subject

_EVERY = "every disk that is found"
ALL = "all"
BY_COMMANDS = "what its commands erase"
"""The words for commands that may erase disks: nobody knows which."""


class Parcel(Struct, frozen=True, kw_only=True):
    """The files of one machine, the answer file first."""

    subject: Subject
    """The answer file, as it is or would be."""
    route: Route
    machine: str
    files: tuple[Made, ...]
    wipes: tuple[str, ...]
    report: Report
    """What is found in it; with an error there are no files."""

    @property
    def ready(self) -> bool:
        """Whether it may be delivered."""
        return bool(self.files) and not any(one.severity == Severity.ERROR for one in self.report.findings)


def parcel_of(
    path: Path,
    asked: Asked,
    kind: str,
    values: Mapping[str, str],
    secrets: Secrets | None,
    *,
    medium: Path | None = None,
) -> Parcel:
    """What a draft or an answer file comes to in a kind of place. Raises what opening, filling and secrets raise.

    Without ``secrets`` their places are empty: that is enough for a plan. Where an installer stands on ``medium``, the
    file is held against that.
    """
    if medium is not None and is_there(medium) and look_at(medium).system.family is not None:
        asked = replace(asked, facts=replace(asked.facts, medium=str(medium)))
    subject = opened(path, asked)
    if subject.kind is FileKind.ANSWERS:
        if values:
            raise WrongUseError("an answer file has nothing to fill in", file=str(path), remedy="leave --fill out")
        return _of_answers(subject, kind)
    return packed(
        prepare(subject, route_to(kind, _target(subject)).name, without_secrets=secrets is None), values, secrets
    )


def packed(prepared: Prepared, values: Mapping[str, str], secrets: Secrets | None) -> Parcel:
    """One machine of a draft."""
    made = filled(prepared, values, secrets)
    return Parcel(
        subject=prepared.draft,
        route=prepared.route,
        machine=made.machine,
        files=made.files,
        wipes=lost_in(made.report.of, prepared.route) if isinstance(made.report.of, Subject) else (),
        report=made.report,
    )


def _target(subject: Subject) -> Target:
    if subject.target is None:
        remedy = "say what it is for: --target TARGET"
        raise WrongUseError("nobody knows what the file is for", file=subject.file, remedy=remedy)
    return subject.target


def _of_answers(subject: Subject, kind: str) -> Parcel:
    """An answer file as it is, with the scripts beside it that it calls. Raises `FileTroubleError` for missing ones."""
    way = route_to(kind, _target(subject))
    secret = bool(passwords_in(subject.text))
    files = [Made(way.file, "answers", subject.data, secret)]
    folder, slash, _ = way.file.rpartition("/")
    for name in subject.family.companions_of(subject.sheet):
        place = subject.path.parent / name
        if not inside(subject.path.parent, name) or not is_file(place):
            told = f"the answer file calls {name}, which does not lie beside it"
            raise FileTroubleError(told, file=subject.file, remedy="bring it, or take the call out")
        files.append(Made(f"{folder}{slash}{name}", "script", read_bytes(place), secret))
    along = Carrier(subject.intent, subject.path.parent).of([made.name for made in files])
    files += [Made(f"{folder}{slash}{one.name}", FILE, one.data, one.private) for one in along]
    known = replace(subject, facts=replace(subject.facts, route=None))
    return Parcel(
        subject=subject, route=way, machine="", files=tuple(files), wipes=lost_in(subject, way), report=check(known)
    )


def lost_in(subject: Subject, route: Route) -> tuple[str, ...]:
    """What a file destroys at the machine in the passes that it goes through, in the words that allow it."""
    run = route.passes
    events = [one for one in story_of(subject).events if not run or one.phase is None or one.phase in run]
    lost = dict.fromkeys(what for event in events for what in event.destroys)
    # what commands do to disks is not looked through: that they may is enough
    more = (BY_COMMANDS,) if any(not of_disks().isdisjoint(event.warnings) for event in events) else ()
    return ((ALL,) if _EVERY in lost else tuple(lost)) + more


def allowed(wipes: tuple[str, ...], said: tuple[str, ...]) -> bool:
    """Whether somebody allowed exactly what is lost."""
    return set(wipes) == {one.strip() for one in said}


def reread(path: Path, parcel: Parcel) -> Report:
    """What is found in the answer file where it now lies. Raises what reading it raises."""
    target = parcel.subject.target
    return check(opened_answers(path, Asked(target=target.id if target is not None else None)))
