"""Answer discs: planned and made for one machine."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from msgspec.structs import replace

from fairledger.delivery.answerdisc import disc_of
from fairledger.delivery.answerstick import stick_of
from fairledger.delivery.fill import Made
from fairledger.delivery.machine import Machine
from fairledger.delivery.parcel import Parcel
from fairledger.delivery.plan import Plan, Step
from fairledger.delivery.telling import Delivery, How, cares, held_name, then, wanting
from fairledger.media.programs import Progress
from fairledger.model.errors import WrongUseError
from fairledger.model.facts import Facts
from fairledger.storage.files import read_whole, write_file
from fairledger.storage.looking import is_file


def onto_disc(parcel: Parcel, place: Path, how: How) -> Delivery:
    """An answer disc for one machine."""
    ending = ending_of(how)
    if place.suffix.lower() != ending:
        remedy = f"name the file: answer-disc:{place}/answers{ending}; a folder goes with --roster"
        raise WrongUseError(f"{str(place)!r} is no name of a disc", remedy=remedy)
    label = how.label or parcel.route.label or "ANSWERS"
    answers, *beside = parcel.files
    name = held_name(answers.name) if how.hold else answers.name
    data = made_disc([*beside, Made(name, answers.role, answers.data, answers.private)], label, how)
    private = any(one.private for one in parcel.files)
    by_itself = not how.hold and parcel.route.by_itself and label == (parcel.route.label or label)
    needs = []
    old = read_whole(place) if is_file(place) else None
    if old is not None and old != data and not how.replace:
        needs.append(f"--replace, since {place} stands there already")
    step = Step(
        action="make" if old is None else "replace", path=str(place), bytes=len(data), source=parcel.subject.file
    )
    plan = Plan(
        steps=(step,) if old != data else (),
        needs=(*needs, *wanting(parcel, how, by_itself=by_itself)),
        wipes=parcel.wipes,
        by_itself=by_itself,
        then=tuple(then(parcel, how, name, by_itself=by_itself, label=label, medium="beside")),
        cares=tuple(cares(parcel)),
    )

    def run(_progress: Progress) -> None:
        if old != data:
            write_file(place, data, replace=how.replace, private=private)

    return Delivery(plan=plan, answers=place, run=run, wanted=((place, data),))


def made_disc(files: Sequence[Made], label: str, how: How) -> bytes:
    """The bytes of an answer disc in the form that is wanted. Raises `WrongUseError`, `FileTroubleError`."""
    return stick_of(files, label) if how.fat else disc_of(files, label)


def ending_of(how: How) -> str:
    """How the name of an answer disc ends."""
    return ".img" if how.fat else ".iso"


def onto_machine(parcel: Parcel, folder: Path, how: How) -> Delivery:
    """An answer disc, and a virtual machine that starts with it. Raises as those do."""
    name = file_name(parcel.machine or Path(parcel.subject.file).stem)
    disc = onto_disc(parcel, folder / f"{name}.iso", how)
    machine = machine_for(name, folder, parcel.subject.facts, how)
    typed = [one for one in disc.plan.then if "type:" in one]
    plan = replace(
        disc.plan,
        steps=(*disc.plan.steps, *machine.steps()),
        needs=(*machine.needs(replace=how.replace), *disc.plan.needs),
        cares=(*machine.cares(), *disc.plan.cares),
        then=(*typed, *[one for one in disc.plan.then[1:] if one not in typed]),
    )

    def run(progress: Progress) -> None:
        disc.run(progress)
        machine.make()

    return replace(disc, plan=plan, run=run, machine=machine)


def machine_for(name: str, folder: Path, facts: Facts, how: How) -> Machine:
    """The machine of one row or draft. Raises `WrongUseError`, `FileTroubleError` for media that are none."""
    named = how.source or (Path(facts.medium) if facts.medium is not None else None)
    original = named if how.base is None else None
    if original is not None and original.suffix.lower() == ".toml":
        original = None  # facts of a medium are no medium
    disc = folder / f"{name}.iso"
    machine = Machine(name=name, folder=folder, disc=disc, facts=facts, original=original, base=how.base)
    machine.must_be_right()
    return machine


def file_name(name: str) -> str:
    """A machine's name as files of it are called."""
    kept = "".join(one if one.isalnum() or one in "-_." else "_" for one in name).strip(".")
    return kept[:_MOST_NAME] or "machine"


_MOST_NAME = 64
