"""What an answer file will do to a machine, in plain sentences and in the order of events."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from fairledger.catalog.passes import passes_of
from fairledger.catalog.seats import Seat
from fairledger.events.sentences import chapters_of
from fairledger.events.warnings import warnings_of
from fairledger.model.sheet import looks_secret, shown
from fairledger.subject.subject import Subject


class Item(Struct, frozen=True):
    """One sentence; with a quotation where it is about a command."""

    text: str
    tone: str = ""
    """``danger``, ``care`` or nothing."""
    quote: str = ""
    warnings: tuple[str, ...] = ()
    line: int | None = None


class Chapter(Struct, frozen=True):
    """What happens at one time."""

    title: str
    items: tuple[Item, ...]


class Explanation(Struct, frozen=True):
    """The whole of it."""

    file: str
    target: str
    basis: str
    gist: tuple[Item, ...]
    """What one must know before anything else."""
    chapters: tuple[Chapter, ...]


def explain(side: Subject) -> Explanation:
    """What a file will do to a machine."""
    groups: dict[str, list[Item]] = {}
    for moment, item in _commands(side):
        groups.setdefault(moment, []).append(item)
    commands = tuple(item for group in groups.values() for item in group)
    chapters = [
        Chapter(title, tuple(Item(*row) for row in rows)) for title, rows in chapters_of(side.intent, side) if rows
    ]
    chapters += [Chapter(f"Commands {moment}", tuple(group)) for moment, group in groups.items()]
    others = tuple(_others(side))
    if others:
        chapters.append(Chapter("Further settings", others))
    target = side.target.name if side.target else "a release that the file does not name"
    return Explanation(side.file, target, side.basis, tuple(_gist(chapters, commands)), tuple(chapters))


def _commands(side: Subject) -> Iterator[tuple[str, Item]]:
    """Every command and script, with its moment and its rights."""
    moments = {one.name: one for one in passes_of(side.family.name)}
    order = {name: at for at, name in enumerate(moments)}
    seats = [one for one in side.seats if _is_command(one)]
    bodies = {one.name: str(one.body) for one in side.sheet.companions}
    called = side.family.companions_of
    for seat in sorted(seats, key=lambda one: order.get(one.block.pass_, len(order))):
        moment = moments.get(seat.block.pass_)
        text = shown(seat.value).strip("\n") if seat.text is None else (seat.text or "").strip("\n")
        about = seat.parent.node.text("Description") if seat.parent is not None else None
        rights = f", with {moment.rights}" if moment is not None and moment.rights else ""
        when = moment.when if moment is not None else seat.block.pass_
        told = about or ("a script" if "\n" in text else "a command")
        script = next((body for name, body in bodies.items() if name.replace("/", "\\") in text), "")
        whole = f"{text}\n{script}".rstrip("\n")
        warned = warnings_of(whole)
        if not script and any(name.replace("/", "\\") in text for name in called(side.sheet)):
            warned = (*warned, "calls a script that is not beside the file, so that it cannot be read here")
        yield f"{when}{rights}", Item(told, "care" if warned else "", whole, warned, seat.node.origin.line)


def _is_command(seat: Seat) -> bool:
    setting = seat.setting
    if seat.value in (None, ""):
        return False
    if setting is None:
        return seat.node.name in ("CommandLine",)
    return setting.kind == "command" or setting.form == "body"


def _others(side: Subject) -> Iterator[Item]:
    """What no portable section speaks of, by the catalog's own words."""
    taken = side.understood
    for seat in side.seats:
        if seat.value is None or id(seat.node) in taken or _is_command(seat):
            continue
        setting = seat.setting
        if seat.node.name.startswith("@") or (setting is not None and setting.ordinal):
            continue
        secret = setting.secret if setting is not None else looks_secret(seat.path)
        about = f" - {setting.about}" if setting is not None and setting.about else ""
        told = f"{seat.block.pass_}: {seat.block.component}/{seat.shown} = {shown(seat.value, secret=secret)}{about}"
        if setting is None:
            told += " (unknown here)"
        yield Item(told, "", "", (), seat.node.origin.line)
    for extra in side.sheet.extras:
        yield Item(f"something of another form stands below {extra.place}; it is not understood", "care", extra.text)


def _gist(chapters: list[Chapter], commands: tuple[Item, ...]) -> Iterator[Item]:
    """The dangerous sentences, a count of the commands with their warnings, and the questions that are left."""
    for chapter in chapters:
        yield from (one for one in chapter.items if one.tone == "danger")
    if commands:
        warned: dict[str, int] = {}
        for one in commands:
            for word in one.warnings:
                warned[word] = warned.get(word, 0) + 1
        alone = len(commands) == 1
        yield Item(
            "one command runs; it is quoted below" if alone else f"{len(commands)} commands run; all are quoted below"
        )
        for word, count in warned.items():
            yield Item(f"it {word}" if alone else f"{'one' if count == 1 else count} of them: {word}", "care")
    else:
        yield Item("no command and no script runs")
