"""Scripts at named moments in the words of kickstart."""

from __future__ import annotations

from typing import Any

from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import on
from fairledger.families.kickstart.lines import has
from fairledger.families.kickstart.statements import taken_in
from fairledger.families.quoting import OTHER, SH, quoted_for
from fairledger.intent.command import Command
from fairledger.model.values import Template, Text, parse_text

MOMENTS = {
    "setup-starts": "pre",
    "disks-made": "pre-install",
    "installed": "post",
    "setup-fails": "onerror",
    "first-start": "firstboot",
}
"""Moments, and the sections that stand for them."""
_OUTSIDE = "--nochroot"
"""Runs in the installer's system instead of the new one."""


def canonical(value: tuple[Command, ...], words: Words) -> tuple[Command, ...] | None:
    """Without names; in the order of the sections."""
    kept = [_canonical_one(one, words) for one in value if one.when in MOMENTS and has(words, f"%{MOMENTS[one.when]}")]
    order = list(MOMENTS.values())
    return tuple(sorted(kept, key=lambda one: order.index(MOMENTS[one.when]))) or None


def _canonical_one(one: Command, words: Words) -> Command:
    section = f"%{MOMENTS[one.when]}"
    filled = one.fill and isinstance(parse_text(one.body), Template)
    body = one.body if filled or not one.fill else str(parse_text(one.body))
    body = "" if taken_in(body) else body
    return Command(
        when=one.when,
        body=body,
        interpreter=one.interpreter,
        run_as=one.unusual if has(words, section, _OUTSIDE) else None,  # type: ignore[arg-type]
        log=one.log if has(words, section, "--log") else None,
        stop_on_error=one.stop_on_error and has(words, section, "--erroronfail"),
        fill=filled,
    )


def translate(value: tuple[Command, ...], words: Words) -> None:
    """A section for every script."""
    for at, one in enumerate(value):
        path = ("command", at)
        section = MOMENTS.get(one.when, "")
        name = f"%{section}"
        if not section or not has(words, name):
            why = "its installer has no such moment"
            words.told.append(path)
            words.cannot((*path, "when"), f"a command at {one.when}", why, "choose another moment")
            continue
        if taken_in(one.body):
            why = "the installer takes in a file there, even in the midst of a text that the script writes"
            instead = "write the line in two parts, or answer the section directly"
            words.cannot((*path, "body"), "a line that begins with %include", why, instead)
        words.leave_out(path, one, ("about", "restart"), "a section says nothing of the kind")
        words.told += [(*path, "hidden")] if one.hidden else []  # nothing has a window
        origin = words.origin(*path)
        block = words.out.block(section, name, origin, again=True)
        rows: tuple[tuple[str, str, Any], ...] = (
            ("interpreter", "--interpreter", one.interpreter),
            ("run_as", _OUTSIDE, "true" if one.unusual else None),
            ("log", "--log", one.log),
            ("stop_on_error", "--erroronfail", "true" if one.stop_on_error else None),
        )
        for field, setting, said in rows:
            if said is not None and has(words, name, setting):
                block.put(setting, said, words.origin(*path, field))
            elif said is not None:
                words.leave_out(path, one, (field,), "this section has no option for it")
        block.put("body", _body(one), words.origin(*path, "body"))


def _body(one: Command) -> Text:
    """The script; what is filled in is quoted where a shell runs it, and else only what needs no quotes is let in."""
    body = parse_text(one.body) if one.fill else one.body
    if not isinstance(body, Template):
        return body
    shell = str(one.interpreter or "sh").rpartition("/")[2] in _SHELLS
    return quoted_for(body, SH if shell else OTHER)


_SHELLS = ("sh", "bash", "dash", "ksh", "ash", "zsh", "busybox")


def recognise(reader: Reader) -> tuple[Command, ...] | None:
    """Every script."""
    found: list[Command] = []
    for when, section in MOMENTS.items():
        for root in reader.find(section, f"%{section}", ""):
            path = ("command", len(found))
            reader.places[path] = root
            body = root.child("body")
            value = body.value if body is not None else ""
            interpreter, log = root.child("--interpreter"), root.child("--log")
            for setting, field in (
                ("--interpreter", "interpreter"),
                ("--log", "log"),
                (_OUTSIDE, "run_as"),
                ("--erroronfail", "stop_on_error"),
                ("body", "body"),
            ):
                reader.take(root.child(setting), *path, field)
            if not root.children:
                reader.take_block(root)
            found.append(
                Command(
                    when=when,  # type: ignore[arg-type]
                    body=str(value or ""),
                    interpreter=text_of(interpreter),
                    run_as="setup" if on(root, _OUTSIDE) else None,
                    log=text_of(log),
                    stop_on_error=on(root, "--erroronfail"),
                    fill=isinstance(value, Template),
                )
            )
    return tuple(found) or None
