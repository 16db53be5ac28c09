"""Every command of a file: those of the portable section, and those that only direct answers can hold."""

from __future__ import annotations

from fairledger.catalog.passes import passes_of
from fairledger.catalog.setting import Setting
from fairledger.checks.view import View
from fairledger.intent.command import COMMAND, Command
from fairledger.model.places import Placed


def commands_of(view: View) -> list[tuple[Placed, Command]]:
    """The commands with where they stand. What another section brings or has recognised is not among them."""

    def listed() -> list[tuple[Placed, Command]]:
        found: list[tuple[Placed, Command]] = [
            (view.intent.placed("command", at), one) for at, one in view.each(COMMAND)
        ]
        moments = {one.name: one.commands for one in passes_of(view.family.name)}
        for seat in view.where(_is_line):
            when = moments.get(seat.block.pass_, "")
            if when and seat.text and seat.parent is not None and id(seat.node) not in view.understood:
                found.append((seat.parent, Command(when=when, body=seat.text)))  # type: ignore[arg-type]
        return found

    return view.kept.once("commands", listed)


def _is_line(setting: Setting) -> object:
    return setting.kind == "command"
