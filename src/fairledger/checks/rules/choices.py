"""Choices that undo each other, that a release or edition ignores, or that belong elsewhere."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from fairledger.catalog.tidy import Effect, choices_of, tidy
from fairledger.checks.calls import commands_of
from fairledger.checks.claims import PRACTICE, SELF, WINDOWS_TOOLS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.image import IMAGE
from fairledger.intent.intent import Intent
from fairledger.intent.join import JOIN
from fairledger.model.finding import Severity
from fairledger.model.places import Placed, line_below
from fairledger.model.showing import visible

_LOCATION = r"HKLM\SOFTWARE\Policies\Microsoft\Windows\LocationAndSensors"
_COMMAND = "[[command]]\nbody = '{}'\n"
_WRITTEN = f"[privacy]\nlocation = \"off\"\n[[command]]\nbody = 'reg add {_LOCATION} /v {{}} /t REG_DWORD /d 0 /f'\n"
_JOINED = '[join]\ndomain = "larkmoor.example"\naccount = "joiner"\npassword = { env = "PW" }\n'


def _intent(view: View) -> Intent:
    """What is meant: a draft's own words, since some families say choices by other sections."""
    return view.subject.draft.intent if view.subject.draft is not None else view.intent


def _says(intent: Intent, what: str) -> bool:
    """Whether an intent makes a choice, told as ``section.field=value`` or without a value."""
    name, _, value = what.partition("=")
    section, _, field = name.partition(".")
    said: Any = getattr(intent.sections.get(section), field, None)
    if said is None or said == ():
        return False
    if isinstance(said, tuple):
        return any(str(one).casefold() == value.casefold() for one in said)
    return not value or str(said) == value


@rule(
    "choices-cancel",
    Severity.WARNING,
    "One choice takes from another what that needs, so that it has no effect.",
    source=SELF,
    fires='[power]\nhibernation = "off"\nfast_start = "on"\n',
    silent='[power]\nhibernation = "off"\nfast_start = "off"\n',
)
def choices_cancel(view: View) -> Iterator[Hit]:
    """The pairs of the catalog."""
    intent = _intent(view)
    if not intent.sections.keys() & {*tidy().groups, "services"}:
        return
    for pair in tidy().pairs:
        if _says(intent, pair.a) and _says(intent, pair.b):
            name = pair.b.partition("=")[0].split(".")
            told = f"{pair.a} leaves {pair.b} without effect: {pair.why}"
            yield Hit(intent.placed(*name), told, "take one of the two out")


@rule(
    "choice-idle-on-edition",
    Severity.WARNING,
    "The edition that is installed is known to ignore the choice.",
    source="the vendor's policy reference, in which editions a policy counts",
    fires='[image]\nedition = "Home"\n[remote]\ndesktop = "on"\n',
    silent='[image]\nedition = "Pro"\n[remote]\ndesktop = "on"\n',
)
def choice_idle_on_edition(view: View) -> Iterator[Hit]:
    """Choices without effect on it."""
    image, intent = view.intent.get(IMAGE), _intent(view)
    named = image.edition if image is not None and isinstance(image.edition, str) else ""
    edition = view.target.edition_of(named) if view.target is not None and named else ""
    for section in tidy().groups if edition else ():
        for name, choice in choices_of(section).items():
            value = getattr(intent.sections.get(section), name, None)
            if value not in (None, choice.usual, "ask") and choice.idle_on(edition):
                told = f"the edition {edition} ignores {section}.{name}"
                yield Hit(intent.placed(section, name), told, "install another edition, or leave it out")


@rule(
    "choices-for-policy",
    Severity.ADVICE,
    "The machine joins a domain, and central policy says the same things for all machines, also later.",
    source=PRACTICE,
    fires=_JOINED + '[privacy]\nlocation = "off"\n',
    silent=_JOINED + '[desktop]\nfile_extensions = "show"\n',
)
def choices_for_policy(view: View) -> Iterator[Hit]:
    """Choices that are policies of the machine, told once."""
    join, intent = view.intent.get(JOIN), _intent(view)
    if join is None or not join.domain or view.target is None:
        return
    made = view.family.chosen(intent, view.target, view.facts)
    found = [one for one in made if (known := choices_of(one.path[0]).get(one.path[1])) is not None and known.policy]
    if found:
        count = "one choice is a policy" if len(found) == 1 else f"{len(found)} choices are policies"
        more = "" if len(found) == 1 else " and others"
        told = f"{count} that the domain can set for all machines: {found[0].name}{more}"
        yield Hit(intent.placed(*found[0].place), told, "leave it to central policy, or silence this")


@rule(
    "choice-for-good",
    Severity.ADVICE,
    "What is chosen cannot be taken back by a script: the machine must be set up anew, or somebody does it by hand.",
    source=SELF,
    fires='[apps]\nremove = ["news"]\n',
    silent='[power]\nfast_start = "off"\n',
)
def choice_for_good(view: View) -> Iterator[Hit]:
    """All of them, told once."""
    intent = _intent(view)
    if view.target is None or not intent.sections.keys() & {*tidy().groups, "apps", "own"}:
        return
    made = view.family.chosen(intent, view.target, view.facts)
    found = [one for one in made if one.undo == "none"] if view.family.undoes else []
    if found:
        names = ", ".join(dict.fromkeys(one.name for one in found[:3])) + (" and others" if len(found) > 3 else "")
        yield Hit(intent.placed(*found[0].place), f"no script takes back {names}", "make sure that it is meant")


@rule(
    "value-written-twice",
    Severity.WARNING,
    "Two places write one value differently: the later one counts, and the other is for nothing.",
    source=SELF,
    fires=_WRITTEN.format("DisableLocation"),
    silent=_WRITTEN.format("Station"),
)
def value_written_twice(view: View) -> Iterator[Hit]:
    """Choices and commands, by what they change."""
    target = view.target
    seen: dict[tuple[str, ...], Effect] = {}
    if target is not None:
        for one in view.family.chosen(view.intent, target, view.facts):
            for effect in one.effects:
                if effect.seat in seen and _differ(seen[effect.seat], effect):
                    told = f"{one.name} writes a value that another choice writes otherwise: {_named(effect)}"
                    yield Hit(view.intent.placed(*one.place), told, "take one of the two out")
                seen.setdefault(effect.seat, effect)
    for place, effect in _written(view):
        if effect.seat in seen and _differ(seen[effect.seat], effect):
            told = f"a value is written twice, and differently: {_named(effect)}"
            yield Hit(place, told, "take one of the two out")
        seen.setdefault(effect.seat, effect)


def _differ(one: Effect, other: Effect) -> bool:
    kinds = ("registry", "service", "task", "firewall")
    return one.kind in kinds and (one.data, one.start) != (other.data, other.start)


def _named(effect: Effect) -> str:
    return visible(f"{effect.key}\\{effect.name}" if effect.kind == "registry" else effect.service or effect.command)


def _written(view: View) -> list[tuple[Placed, Effect]]:
    """What commands change, in the order in which they stand."""

    def listed() -> list[tuple[Placed, Effect]]:
        out: list[tuple[Placed, Effect]] = []
        for place, one in commands_of(view):
            kind = one.interpreter or ("cmd" if "\n" in one.body.strip("\n") else "line")
            if not isinstance(kind, str) or not _worth(one.body):
                continue
            for row, effect in view.family.changes(one.body, kind):
                out.append((line_below(place.place, row - 1) if row > 1 else place, effect))
        return out

    return view.kept.once("changes", listed)


def _worth(body: str) -> bool:
    """Whether a text can hold one of the listed forms."""
    lower = body.lower()
    return any(word in lower for word in ("reg", "sc", "service", "schtasks", "scheduledtask", "itemproperty", "netsh"))


@rule(
    "service-must-run",
    Severity.ERROR,
    "Without the service the system does not start, nobody signs in, or the machine is open.",
    source=f"{WINDOWS_TOOLS}, sc config; the vendor's list of services",
    fires=_COMMAND.format("sc.exe config RpcSs start= disabled"),
    silent=_COMMAND.format("sc.exe config Fax start= disabled"),
)
def service_must_run(view: View) -> Iterator[Hit]:
    """Commands that switch such a service off."""
    must = {name.casefold(): why for name, why in tidy().must.items()}
    for place, effect in _written(view):
        if effect.kind == "service" and effect.start == "disabled" and effect.service.casefold() in must:
            told = f"{visible(effect.service)} must not be switched off: {must[effect.service.casefold()]}"
            yield Hit(place, told, "take the command out")
