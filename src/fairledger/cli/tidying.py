"""What is printed of choices: the lists of a release, one of them, and those that a draft makes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from fairledger.catalog.tidy import TOPICS, UNDO, App, Chosen, Effect, all_choices, in_contract
from fairledger.catalog.tidy_finding import APPS, Offered
from fairledger.catalog.tidy_words import spoken
from fairledger.cli.console import Console
from fairledger.cli.status import Status
from fairledger.cli.view import told as origin_told
from fairledger.delivery.undo import Undo
from fairledger.model.pattern import pattern
from fairledger.model.target import Target
from fairledger.subject.subject import Subject

_USUALLY = pattern(r"by (?:a command|\d{1,3} commands) before the first start")
"""What brings most choices about; it is said once."""


def as_json(rows: Sequence[Offered], apps: Mapping[str, App]) -> list[dict[str, Any]]:
    """The stable form of a list."""
    told: list[dict[str, Any]] = [
        {
            "choice": one.name,
            "topic": one.choice.topic,
            "about": one.choice.about,
            "usual": one.choice.usual or None,
            "values": [
                {"value": value, "changes": [in_contract(each) for each in found]} for value, found in one.values
            ],
            "undo": one.choice.undo,
        }
        for one in rows
    ]
    if apps:
        gone = [(name, Effect(kind="app", package=one.package)) for name, one in apps.items() if not one.stays]
        values = [{"value": name, "changes": [in_contract(effect)]} for name, effect in gone]
        about = "Apps that are taken away before anybody gets them."
        told.append({"choice": APPS, "topic": "lean", "about": about, "usual": None, "values": values, "undo": "none"})
    return told


def show_list(words: str, rows: Sequence[Offered], apps: Mapping[str, App], target: Target, console: Console) -> None:
    """A line each under its topic, then the apps."""
    if not rows and not apps:
        console.say(f"{target.name} has no choice that fits {words!r}" if words else f"{target.name} has no choices")
        console.note("try fewer or other words; services are named as the system names them: services.disabled=Fax")
        return
    count = f"{len(rows)} {'choice' if len(rows) == 1 else 'choices'}"
    fit = f" that fit {words!r}" if words else ""
    told = f"{count}{fit}" + (f", {len(apps)} apps" if apps else "")
    console.say(console.style(f"{target.name}: {told}", "bold") + "  (what a fresh system does is in brackets)")
    if rows:
        _table(rows, console, by_topic=not words)
    if apps:
        console.say("\n" + console.style("apps that come with it", "bold") + "  lean")
        console.paragraph(", ".join(name for name, one in apps.items() if not one.stays), indent="  ")
        for name, one in apps.items():
            if one.stays:
                console.paragraph(f"{name} stays: {one.stays}", indent="  ", hang="    ")
    console.say()
    example = rows[0].name if rows else "desktop.menus"
    console.say(f"  what one changes   fairledger tidy about {target.id} {example}")
    if rows:
        console.say(f"  choose it          fairledger set FILE {_address(rows[0])}={_example(rows[0])}")
    if apps:
        kept = ",".join([name for name, one in apps.items() if not one.stays][:2])
        console.say(f"  keep some apps     fairledger set FILE apps.keep={kept} apps.others=remove")


def choices_json(rows: Sequence[Offered], *, medium: bool = False) -> list[dict[str, Any]]:
    """Choices among what was found: portable fields, which stand in no component."""
    return [
        {
            **({"on_medium": None} if medium else {}),
            "component": None,
            "path": one.name,
            "passes": [],
            "kind": one.choice.kind,
            "values": list(one.choice.values),
            "about": one.choice.about,
            "example": f"{one.name}={_example(one)}",
        }
        for one in rows
    ]


def show_choices(rows: Sequence[Offered], target: Target, console: Console) -> None:
    """Choices that fit too, a line each."""
    if rows:
        console.say(console.style("choices", "bold") + f"  (fairledger tidy about {target.id} NAME)")
        _table(rows, console, by_topic=False)


def _address(one: Offered) -> str:
    """What is typed to choose it."""
    section, _, field = one.name.partition(".")
    return f"'own[{field}].value'" if section == "own" else one.name


def _example(one: Offered) -> str:
    value = next((value for value, found in one.values if found and value != one.choice.usual), None)
    return value or {"number": str(one.choice.least)}.get(one.choice.kind, "...")


def _table(rows: Sequence[Offered], console: Console, *, by_topic: bool) -> None:
    left = max(len(one.name) for one in rows) + 2
    middle = min(max(len(_values(one)) for one in rows), 26) + 2
    last = ""
    for one in rows:
        if by_topic and one.choice.topic != last:
            last = one.choice.topic
            console.say("\n" + console.style(last, "bold") + console.style(f"  {TOPICS[last]}", "dim"))
        told = _values(one)
        if len(told) > middle - 2:
            console.say(f"  {one.name:<{left}}{told}")
            console.paragraph(one.choice.about, indent=" " * (left + middle + 2))
        else:
            hang = " " * (left + middle + 2)
            console.paragraph(one.choice.about, indent=f"  {one.name:<{left}}{told:<{middle}}", hang=hang)


def _values(one: Offered) -> str:
    choice = one.choice
    if choice.kind == "number":
        return f"{choice.least} to {choice.most}"
    if choice.kind != "choice":
        return f"a {choice.kind}"
    return ", ".join(f"({value})" if value == choice.usual else str(value) for value, _ in one.values)


def show_one(one: Offered, console: Console) -> None:
    """A choice whole: what it is about, what is lost, what each value changes."""
    choice = one.choice
    console.say(console.style(one.name, "bold") + f"  {choice.topic}")
    console.paragraph(choice.about, indent="  ")
    if choice.loses:
        console.paragraph(f"what is lost: {choice.loses}", indent="  ", hang="    ", style="warning")
    if choice.without_editions:
        told = f"without effect on the editions {', '.join(choice.without_editions)}"
        console.paragraph(told, indent="  ", hang="    ", style="warning")
    if choice.policy:
        console.paragraph("it is what central policy writes too; where there is one, it belongs there", indent="  ")
    if not choice.sure:
        console.say("  not certain")
    for value, found in one.values:
        usual = "  as a fresh system has it" if value == choice.usual else ""
        console.say("\n  " + console.style(value or f"a {choice.kind} of your own", "bold") + usual)
        if not found:
            console.say("    nothing has to be changed")
        for effect in found:
            _effect(effect, console)
    back = "cannot be taken back" if choice.undo == "none" else f"is taken back {UNDO[choice.undo]}"
    console.say(f"\n  it {back}")
    example = f"{_address(one)}={_example(one)}"
    console.say(f"  fairledger set FILE {console.style(example, 'good')}")


def _effect(one: Effect, console: Console) -> None:
    """One change, under a word for whom or what it concerns."""
    who, told = spoken(one)
    console.paragraph(told, indent=f"    {who:<13}", hang=" " * 19)


def chosen_of(draft: Subject) -> tuple[Chosen, ...]:
    """The choices that a draft or an answer file makes."""
    target = draft.target
    if target is None:
        return ()
    resolved = draft.draft
    intent = resolved.intent if resolved is not None else draft.intent
    return draft.family.chosen(intent, target, draft.facts)


def show_chosen(draft: Subject, console: Console) -> int:
    """Every choice of a draft: what it changes, where, when, and how it is taken back."""
    found = chosen_of(draft)
    if console.json:
        console.write_json({"tidy": [_chosen_json(one) for one in found]})
        return Status.DONE
    target = draft.target
    name = target.name if target is not None else "a release that nobody knows"
    lost = [one for one in found if one.undo == "none"]
    count = "one choice" if len(found) == 1 else f"{len(found)} choices"
    head = draft.draft.head.title if draft.draft is not None else ""
    console.say(console.style(head or draft.file, "bold") + console.style(f"  {draft.file}", "dim"))
    console.say(f"  for {name}: {count}" + (f", {len(lost)} not to be taken back" if lost else ""))
    idle = _without_effect(draft, found)
    if idle:
        told = f"nothing is changed for {', '.join(idle)} (fairledger check {draft.file} says why)"
        console.paragraph(told, indent="  ", hang="    ", style="warning")
    if any(one.undo == "usual" and _USUALLY.fullmatch(one.how) for one in found):
        told = (
            "where nothing else is said: by commands before the first start, and taken back to what a fresh system has"
        )
        console.paragraph(told, indent="  ", hang="    ", style="dim")
    order = list(TOPICS)
    last = ""
    for one in sorted(found, key=lambda each: order.index(each.topic)):
        if one.topic != last:
            last = one.topic
            console.say("\n" + console.style(last, "bold") + console.style(f"  {TOPICS[last]}", "dim"))
        _show_chosen(one, draft, console)
    if not found:
        console.say("\n  it makes none; " + (f"fairledger tidy list {target.id}" if target is not None else ""))
    elif len(lost) < len(found):
        console.say()
        console.paragraph(
            f"what takes them back is written with it: fairledger write {draft.file} --undo FILE.ps1", indent="  "
        )
    return Status.DONE


def _without_effect(draft: Subject, found: Sequence[Chosen]) -> list[str]:
    """The choices that a draft makes and that come to nothing on its target."""
    made = {one.path for one in found}
    sections = draft.draft.intent.sections if draft.draft is not None else {}
    rows = [(section, field, getattr(sections.get(section), field, None)) for section, field, _ in all_choices()]
    return [f"{section}.{field}" for section, field, said in rows if said is not None and (section, field) not in made]


def _show_chosen(one: Chosen, draft: Subject, console: Console) -> None:
    resolved = draft.draft
    where = ""
    if resolved is not None:
        names = {file: name for name, file in resolved.profiles}
        where = "  " + origin_told(resolved.intent.place(*one.place).origin, names)
    apps = one.effects[0].kind == "app"
    value = f"{len(one.effects)} apps go" if apps else one.value
    console.say(console.style(f"  {one.name} = {value}", "bold") + console.style(where, "dim"))
    console.paragraph(one.about, indent="    ", hang="    ", style="dim")
    if one.lost:
        console.paragraph(f"what is lost: {one.lost}", indent="    ", hang="      ", style="warning")
    if apps:
        console.paragraph(one.value, indent="    apps         ", hang=" " * 17)
    for effect in one.effects if not apps else ():
        _effect(effect, console)
    if one.undo == "usual" and _USUALLY.fullmatch(one.how):
        return
    style = "warning" if one.undo == "none" else "dim"
    back = "not taken back" if one.undo == "none" else f"taken back {UNDO[one.undo]}"
    console.paragraph(f"{one.how}; {back}", indent="    ", hang="      ", style=style)


def show_undo(undo: Undo, console: Console) -> None:
    """Where the script is that takes choices back, and what it cannot."""
    console.say(console.style(f"wrote {undo.path}", "bold"))
    told = "it takes the choices back, the last one first: run it as administrator, once as each user of the machine"
    console.paragraph(told, indent="  ", hang="    ")
    if undo.left:
        names = ", ".join(dict.fromkeys(one.name for one in undo.left))
        console.paragraph(f"it does not take back {names}", indent="  ", hang="    ", style="warning")


def _chosen_json(one: Chosen) -> dict[str, Any]:
    return {
        "choice": one.name,
        "topic": one.topic,
        "about": one.about,
        "usual": one.usual or None,
        "values": [{"value": one.value, "changes": [in_contract(each) for each in one.effects]}],
        "undo": one.undo,
        "how": one.how,
    }
