"""How a file stands to its medium, and what is on that, for people and for machines."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from fairledger.cli.console import Console
from fairledger.model.showing import visible

if TYPE_CHECKING:
    from fairledger.checks.against import Against
    from fairledger.model.holdings import HeldFacts, MediumFacts


def against_json(told: Against | None) -> dict[str, Any]:
    """``medium``: how a file stands to its medium; nothing where none is named."""
    if told is None:
        return {}
    facts, image = told.facts, told.image
    found = {
        "path": told.path,
        "label": facts.label if facts is not None else None,
        "targets": list(facts.targets) if facts is not None else None,
        "image": {"index": image.index, "name": image.name, "edition": image.edition} if image is not None else None,
        "looked_into": told.looked_into,
        "findings": [
            {"rule": one.rule, "severity": one.severity, "message": one.message, "line": one.line}
            for one in told.findings
        ],
    }
    return {"medium": found}


def sentences(told: Against) -> Iterator[tuple[str, str]]:
    """What there is to say, each with the manner in which it is said."""
    facts, image = told.facts, told.image
    if facts is not None:
        what = f"image {image.index}, {image.title}" if image is not None else facts.release or ""
        yield "", f"{told.path}" + (f": {what}" if what else "")
    for one in told.findings:
        line = f"  (line {one.line})" if one.line and one.setting else ""
        yield ("error" if one.severity == "error" else "warning"), f"{one.message}{line}"
    if facts is not None and not told.findings:
        yield ("good", _NOTHING) if told.looked_into else ("warning", "nobody looked into what it holds")


_NOTHING = "nothing of what is checked against a medium is missing on it"


def show_against(told: Against | None, console: Console) -> None:
    """A few lines under the head of a file."""
    for at, (manner, text) in enumerate(sentences(told) if told is not None else ()):
        indent = "  on the medium " if at == 0 else "    "
        console.paragraph(visible(text), indent=indent, hang="      ", style=manner or None)


class OnMedium:
    """What is on a medium, for those who search the catalog."""

    def __init__(self, facts: MediumFacts, held: HeldFacts | None) -> None:
        self.facts = facts
        self.held = held
        self.title = facts.name

    def has(self, component: str) -> bool | None:
        """Whether the image has a component; None where nobody knows."""
        held = self.held
        if held is None or held.lacking is None or component in held.unclear:
            return None
        return False if component in held.lacking else True if component in held.present else None

    def told(self, component: str) -> str:
        """A sentence about a component."""
        here = self.has(component)
        if here is None:
            return f"nobody knows whether {self.title} has it"
        return f"in the image on {self.title}" if here else f"not in the image on {self.title}"

    def besides(self, words: str) -> list[tuple[str, str]]:
        """What else it has whose name holds all of some words."""
        parts = [word.casefold() for word in words.split()]
        rows = [(kind, name) for kind, names in self.listed().items() for name in names or ()]
        return [(kind, name) for kind, name in rows if all(word in name.casefold() for word in parts)]

    def listed(self) -> dict[str, tuple[str, ...] | None]:
        """Everything by kind; None where nobody knows."""
        held, tree, systems = self.held, self.facts.tree, self.facts.systems
        editions = [one.edition or one.title for one in systems] if systems is not None else None
        return {
            "edition": tuple(dict.fromkeys(editions)) if editions is not None else None,
            "feature": held.features if held is not None else None,
            "package": held.packages if held is not None and held.packages is not None else tree.packages,
            "app": held.apps if held is not None else None,
            "group": tree.groups,
            "environment": tree.environments,
            "repository": tree.repositories,
        }


def on_medium(options: argparse.Namespace) -> OnMedium | None:
    """What was named with ``--medium``; None without it. Raises what looking at it raises."""
    if options.medium is None:
        return None
    from fairledger.cli.options import own_of
    from fairledger.media.holding import described, image_of

    own = own_of(options) if hasattr(options, "catalog") else None
    facts = described(options.medium, index=options.index, own=own)
    if options.index is not None:
        return OnMedium(facts, facts.held_by(image_of(facts, options.index)))
    systems = facts.systems or ()
    alone = systems[0] if len(systems) == 1 else None
    if alone is None and len(facts.held) == 1:
        return OnMedium(facts, facts.held[0])
    return OnMedium(facts, facts.held_by(alone))


def show_why(told: OnMedium, console: Console) -> None:
    """Why nobody knows what an image holds, if so, and what is to be done."""
    if told.held is None and told.facts.systems:
        count = len(told.facts.systems)
        why = f"{told.title} has {count} images: say which with --index N" if count > 1 else ""
        for one in (*told.facts.problems, *([why] if why else [])):
            console.paragraph(visible(one), indent="  ", hang="    ", style="warning")
