"""What a rule is, and how rules are found."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from functools import cache, partial
from importlib import import_module
from pathlib import Path
from typing import Any

from msgspec import Struct

from fairledger.catalog.seats import Seat
from fairledger.checks.view import View
from fairledger.families.registry import FAMILIES, has_rules
from fairledger.model.finding import Finding, Severity, finding_at
from fairledger.model.places import Placed
from fairledger.storage.looking import entries


class Hit(Struct, frozen=True):
    """What a rule found, before it is a finding."""

    place: Placed
    message: str
    hint: str = ""
    severity: Severity | None = None
    """Only where it differs from the rule's own."""


Check = Callable[[View], Iterator[Hit]]


class Rule(Struct, frozen=True):
    """One rule, with two examples that are tests and documentation."""

    id: str
    severity: Severity
    says: str
    """What is wrong when it fires, and why that matters."""
    source: str
    """Where the claim comes from: a reference, a standard, or the practice of the trade."""
    fires: str
    """A draft without its head, or an answer file, in which it fires."""
    silent: str
    """One in which it does not."""
    given: str = ""
    """The options of ``check`` without which it does not fire."""
    check: Check | None = None
    """None for what the reader of a family itself finds."""
    topic: str = ""
    """One of `TOPICS`; of a rule on the syntax of one family, that family."""
    family: str = ""
    """The only family in whose files it finds something; empty for all."""
    by_itself: bool = False
    """Whether it speaks of a value by itself, so that nothing said elsewhere can make it right."""
    always: bool = False
    """Whether no draft can silence it: broken syntax, open placeholders, escaping, secrets."""


TOPICS = {
    "accounts": ("accounts", "people", "policy"),
    "choices": ("choices",),
    "commands": ("commands", "batch", "lines", "scripts", "shell", "uses"),
    "disks": ("disks", "layouts", "reused", "tables", "volumes"),
    "files": ("files", "paths", "structure"),
    "images": ("editions", "features", "images", "keys"),
    "languages": ("words",),
    "linux": ("unix",),
    "media": ("held", "media", "routes", "sources"),
    "network": ("joining", "network"),
    "questions": ("questions",),
    "releases": ("age",),
    "settings": ("beside", "catalog", "contradictions", "leftovers", "together"),
}
"""What rules are about, each with the modules of this room that hold them."""
_TOPIC_OF = {module: topic for topic, modules in TOPICS.items() for module in modules}
_RULES: dict[str, Rule] = {}


def can_be_silenced(id: str) -> bool:  # noqa: A002 - the rule's own word
    """Whether a draft may silence a rule: one that is known, and that does not speak always."""
    return id in _RULES and not _RULES[id].always


def told_by(id: str, view: View) -> bool:  # noqa: A002 - the rule's own word
    """Whether another rule finds something."""
    check = _RULES[id].check
    return check is not None and next(check(view), None) is not None


def rule(
    id: str,  # noqa: A002 - the rule's own word
    severity: Severity,
    says: str,
    *,
    source: str,
    fires: str,
    silent: str,
    given: str = "",
    by_itself: bool = False,
    always: bool = False,
) -> Callable[[Check], Check]:
    """Makes a function a rule. An id that exists already is refused."""

    def register(check: Check) -> Check:
        *_, above, module = check.__module__.split(".")
        family = above if module == "rules" else ""
        topic = family or _TOPIC_OF[module]
        _add(Rule(id, severity, says, source, fires, silent, given, check, topic, family, by_itself, always))
        return check

    return register


def found_by_reader(
    id: str,  # noqa: A002 - as above
    severity: Severity,
    says: str,
    *,
    source: str,
    fires: str,
    silent: str,
    given: str = "",
    family: str = "",
) -> None:
    """Describes a finding that the reader of a family, or the resolving of a draft, makes by itself."""
    always = severity == Severity.ERROR
    topic = family or "files"
    _add(Rule(id, severity, says, source, fires, silent, given, None, topic, family, always=always))


@cache
def rules_of_values() -> frozenset[str]:
    """The rules that speak of a value by itself."""
    return frozenset(one.id for one in all_rules() if one.by_itself)


def _add(new: Rule) -> None:
    if new.id in _RULES:
        raise ValueError(f"two rules are called {new.id}")
    _RULES[new.id] = new


@cache
def all_rules() -> tuple[Rule, ...]:
    """Every rule of the package, by id."""
    for family in FAMILIES:
        rules_for(family)
    return tuple(_RULES[name] for name in sorted(_RULES))


@cache
def rules_for(family: str) -> tuple[Rule, ...]:
    """The rules that can find something in files of a family, by id: those of the trade, and those on its syntax."""
    for path in entries(Path(__file__).parent / "rules", ".py"):
        import_module(f"fairledger.checks.rules.{path.stem}")
    if has_rules(family):
        import_module(f"fairledger.families.{family}.rules")
    return tuple(_RULES[name] for name in sorted(_RULES) if _RULES[name].family in ("", family))


def run(view: View, rules: Sequence[Rule] | None = None) -> list[Finding]:
    """What the rules find, all of them if none are named."""
    return [one for rule in (rules_for(view.family.name) if rules is None else rules) for one in found_by(rule, view)]


class Asking(Struct, frozen=True):
    """A rule that is handed no open placeholder, but asks judges, who see the open values."""

    rule: Rule
    found: tuple[Finding, ...]
    """What it finds as long as they have nothing to say of these."""
    judges: frozenset[Any]


class Noticed(Struct, frozen=True):
    """What is found before anything is filled in, and what is to be done once it is."""

    settled: tuple[Finding, ...]
    """In which no open placeholder has a part."""
    waiting: tuple[Rule, ...]
    asking: tuple[Asking, ...]

    @property
    def before(self) -> tuple[Finding, ...]:
        """All that is found so far, the rules that wait aside."""
        return (*self.settled, *(finding for one in self.asking for finding in one.found))

    def with_values(self, view: View) -> tuple[bool, list[Finding]]:
        """Whether all that was found before holds, and what is found else once the placeholders are filled."""
        found = run(view, self.waiting)
        anew = view.told_anew.keys()
        if not anew or not any(one.judges & anew for one in self.asking):
            return True, found
        for one in self.asking:
            found += found_by(one.rule, view) if one.judges & anew else one.found
        return False, [*self.settled, *found]


def run_noting(view: View) -> Noticed:
    """What is found without the open placeholders, and the rules that are to run once they are filled."""
    settled: list[Finding] = []
    waiting, asking = [], []
    for rule in rules_for(view.family.name):
        found, handed, judges = view.trace.noting(partial(found_by, rule, view))
        if handed:
            waiting.append(rule)
        elif judges:
            asking.append(Asking(rule, tuple(found), judges))
        else:
            settled += found
    return Noticed(tuple(settled), tuple(waiting), tuple(asking))


def found_by(rule: Rule, view: View) -> list[Finding]:
    """What one rule finds. A rule that fails is a finding, never the end of the run."""
    if rule.check is None:
        return []
    try:
        return [
            finding_at(
                rule.id, hit.severity or rule.severity, hit.message, hit.place.place, hit.hint, _item(hit.place, view)
            )
            for hit in rule.check(view)
        ]
    except Exception as error:
        if "PYTEST_CURRENT_TEST" in os.environ:
            raise
        told = f"the rule {rule.id} failed: {type(error).__name__}"
        return [Finding("rule-failed", Severity.WARNING, told, "this is a mistake of the program; please report it")]


def _item(place: Placed, view: View) -> str:
    """Which use of its component a seat stands in; empty where it has only one."""
    if not isinstance(place, Seat):
        return ""
    root = place
    while root.parent is not None:
        root = root.parent
    return view.seats.title(root).removeprefix(root.block.component)[1:-1]


def at(seat: Seat, message: str, hint: str = "", severity: Severity | None = None) -> Hit:
    """A hit at a seat of the sheet."""
    return Hit(seat, message, hint, severity)
