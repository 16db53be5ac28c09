"""What ``explain`` prints: the events of a file under their heads; as text, JSON, or a page to sign off."""

from __future__ import annotations

import hashlib
import textwrap
from collections.abc import Sequence
from itertools import groupby
from pathlib import Path
from typing import Any

from fairledger.cli.console import Console
from fairledger.cli.places import place_of
from fairledger.events.event import Event, Weight
from fairledger.events.story import Story
from fairledger.model.showing import visible

_STYLES = {Weight.DANGER: "error", Weight.CARE: "warning"}
_MARKS = {Weight.DANGER: "!! ", Weight.CARE: "!  "}


def as_json(told: Story) -> dict[str, Any]:
    """The stable form."""
    return {
        "file": told.file,
        "target": told.target,
        "basis": told.basis,
        "gist": [one.what for one in told.gist],
        "events": told.events,
    }


def show(told: Story, console: Console) -> None:
    """What must be known first, then everything by chapter."""
    basis = f" ({told.basis})" if told.basis not in ("", "stated") else ""
    console.say(console.style(f"{told.file}", "bold") + f"  for {told.target_name}{basis}")
    console.say()
    for event in told.gist:
        _show(event, told, console)
    for title, events in groupby(told.events, key=lambda one: one.chapter):
        console.say("\n" + console.style(title, "bold"))
        for event in events:
            _show(event, told, console)


def _show(event: Event, told: Story, console: Console) -> None:
    style = _STYLES.get(event.severity)
    place = f"  ({_place(event, told)})" if event.line else ""
    folded = textwrap.wrap(f"{visible(event.what)}{place}", console.width - 6, break_on_hyphens=False) or [""]
    for at, part in enumerate(folded):
        text = (_MARKS.get(event.severity, "   ") if at == 0 else "   ") + part
        console.say("  " + (console.style(text, style) if style else text))
    for quoted in event.quote.split("\n") if event.quote else ():
        for part in textwrap.wrap(visible(quoted), console.width - 12, break_on_hyphens=False) or [""]:
            console.say("       " + console.style("| ", "dim") + part)
    for said in event.says:
        for at, part in enumerate(textwrap.wrap(visible(said), console.width - 12, break_on_hyphens=False)):
            console.say("       " + console.style("= " if at == 0 else "  ", "dim") + part)
    for warning in event.warnings:
        console.say("       " + console.style(f"^ {warning}", "warning"))


def _place(event: Event, told: Story) -> str:
    """The line; with its file, or its profile's name, where a draft and profiles meet."""
    return place_of(event.file or told.file, event.line, told.file, told.profiles)


def _seen(value: Any) -> Any:
    """A value as it may be shown: what would turn the direction of writing, or is not seen, as an escape."""
    return "\n".join(map(visible, value.split("\n"))) if isinstance(value, str) else value


def page(told: Story, data: bytes, *, secret: bool = False, medium: Sequence[str] = ()) -> str:
    """The explanation as one file to sign off: nothing is fetched, every value escaped.

    ``data`` is the file, whose digest stands on it; not where it holds a ``secret``, which could be guessed from that.
    ``medium`` is what there is to say of the medium that it is for.
    """
    from jinja2 import Environment, FileSystemLoader, StrictUndefined

    folder = Path(__file__).parent / "templates"
    environment = Environment(loader=FileSystemLoader(folder), autoescape=True, undefined=StrictUndefined)
    environment.finalize = _seen
    environment.trim_blocks = environment.lstrip_blocks = True
    chapters = [(title, [*events]) for title, events in groupby(told.events, key=lambda one: one.chapter)]
    made = environment.get_template("explain.html").render(
        told=told,
        chapters=chapters,
        medium=list(medium),
        place=lambda event: _place(event, told),
        name=Path(told.file).name,
        digest="" if secret else hashlib.sha256(data).hexdigest(),
    )
    return made + "\n"
