"""What the target's catalog says about components, settings, passes and values."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fairledger.catalog.passes import pass_names
from fairledger.catalog.seats import Seat
from fairledger.catalog.setting import Component, Setting
from fairledger.catalog.targets import reached
from fairledger.checks.claims import CATALOG, PRACTICE, WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View, judge
from fairledger.model.finding import Severity
from fairledger.model.kinds import choices_of, complaint
from fairledger.model.sheet import is_mark
from fairledger.model.showing import quoted, visible
from fairledger.model.suggest import did_you_mean

_OWNER = '[answers.specialize.Microsoft-Windows-Shell-Setup]\nRegisteredOwner = "Larkmoor"\n'
_OOBE = "[answers.oobeSystem.Microsoft-Windows-Shell-Setup.OOBE]\n"


@rule(
    "component-unknown",
    Severity.WARNING,
    "The target has no component of that name, or the catalog does not know it; setup ignores what it does not know.",
    source=CATALOG,
    fires='[answers.specialize.Microsoft-Windows-Shel-Setup]\nRegisteredOwner = "Larkmoor"\n',
    silent=_OWNER,
)
def component_unknown(view: View) -> Iterator[Hit]:
    """Blocks whose component no release of the family has."""
    for root in view.seats.roots:
        if view.catalog.anywhere(root.block.component) is None:
            name = root.block.component
            hint = did_you_mean(name, view.catalog.names(), alike=0.85)
            refused = "did you mean" in hint or view.limits.unknown_commands_refused
            told = f"there is no component {visible(name)}"
            if not refused:
                told = f"the component {visible(name)} is not in the catalog, so that its settings are not checked"
                hint = "check its name and settings by hand"
            yield at(root, told, hint or "take it out", Severity.ERROR if refused else None)


@rule(
    "setting-unknown",
    Severity.ERROR,
    "The component has no setting of that name: setup refuses the file, or ignores the setting.",
    source=CATALOG,
    fires='[answers.specialize.Microsoft-Windows-Shell-Setup]\nRegisterdOwner = "Larkmoor"\n',
    silent=_OWNER,
)
def setting_unknown(view: View) -> Iterator[Hit]:
    """Settings that no release of the component has; only the outermost is told."""
    for seat in view.seats.unknown:
        known = view.catalog.anywhere(seat.block.component)
        if known is None or known.setting(seat.path) is not None or seat.is_mark:
            continue
        above = seat.parent
        if above is None or (above.path and known.setting(above.path) is None):
            continue
        names = [one.name for one in known.below(above.path)]
        elsewhere = [one.path for one in known.settings if one.name == seat.node.name]
        hint = did_you_mean(seat.node.name, names)
        if elsewhere and "did you mean" not in hint:
            hint = f"it belongs to {elsewhere[0]}"
        sure = known.complete or "did you mean" in hint or bool(elsewhere)
        where = above.path or known.name
        yield at(
            seat,
            f"{where} has no setting {visible(seat.node.name)}",
            hint,
            Severity.ERROR if sure else Severity.WARNING,
        )


@rule(
    "setting-of-other-release",
    Severity.ERROR,
    "Another release knows the component or setting, this target does not.",
    source=CATALOG,
    fires="#version=RHEL9\ninstall\n",
    silent=_OWNER,
)
def setting_of_other_release(view: View) -> Iterator[Hit]:
    """What exists in the family, but not for the target."""
    if view.target is None:
        return
    for root in view.seats.roots:
        whole = view.catalog.anywhere(root.block.component)
        if whole is not None and root.component is None:
            sure = whole.sure and view.target.sure and view.limits.unknown_commands_refused
            severity = Severity.ERROR if sure else Severity.WARNING  # elsewhere unknown components are passed over
            hint = _span(whole.since, whole.until, whole.instead)
            yield at(root, f"{view.target.name} has no component {whole.name}", hint, severity)
    for seat in view.seats.unknown:
        whole = view.catalog.anywhere(seat.block.component)
        setting = whole.setting(seat.path) if whole else None
        if setting is not None and seat.component is not None:
            severity = Severity.ERROR if setting.sure and view.target.sure else Severity.WARNING
            hint = _span(setting.since, setting.until, setting.instead)
            told = f"{view.target.name} has no {setting.path}"
            if setting.passed_over:
                told, severity = f"{told}, and passes over it", Severity.ADVICE
            yield at(seat, told, hint, severity)


def _span(since: tuple[str, ...], until: tuple[str, ...], instead: str) -> str:
    if instead:
        return f"use {instead}"
    parts = [f"since {', '.join(since)}"] if since else []
    parts += [f"until {', '.join(until)}"] if until else []
    return "it exists " + " and ".join(parts) if parts else "it belongs to another line of releases; take it out"


@rule(
    "setting-deprecated",
    Severity.WARNING,
    "The release still reads the setting but calls it out of date.",
    source=CATALOG,
    fires=f"{_OOBE}SkipMachineOOBE = true\n",
    silent=f"{_OOBE}HideEULAPage = true\n",
)
def setting_deprecated(view: View) -> Iterator[Hit]:
    """Settings that the target calls out of date."""
    for root in view.seats.roots:
        known = root.component
        if known and view.target and reached(view.target, known.deprecated):
            yield at(root, f"{known.name} is out of date", f"use {known.instead}" if known.instead else known.about)
    for seat in view.where(_deprecated):
        setting = seat.setting
        if setting and view.target and reached(view.target, setting.deprecated):
            hint = f"use {setting.instead}" if setting.instead else setting.about
            yield at(seat, f"{setting.path} is out of date", hint)


def _deprecated(setting: Setting) -> object:
    return setting.deprecated


@rule(
    "pass-wrong",
    Severity.ERROR,
    "A setting counts only in its passes; elsewhere setup ignores it or refuses the file.",
    source=CATALOG,
    fires='[answers.oobeSystem.Microsoft-Windows-Shell-Setup]\nComputerName = "LMR-DESK-01"\n',
    silent='[answers.specialize.Microsoft-Windows-Shell-Setup]\nComputerName = "LMR-DESK-01"\n',
)
def pass_wrong(view: View) -> Iterator[Hit]:
    """Components and settings in passes where they do not count."""
    known_passes = pass_names(view.family.name)
    for root in view.seats.roots:
        known, pass_ = root.component, root.block.pass_
        if pass_ not in known_passes:
            if not view.file:
                yield at(root, f"there is no pass {visible(pass_)}", did_you_mean(pass_, known_passes))
        elif known is not None and pass_ not in known.passes:
            hint = f"move it to {' or '.join(known.passes)}"
            severity = None if known.sure and known.sure_passes else Severity.WARNING
            yield at(root, f"{known.name} does not count in the pass {pass_}", hint, severity)
    told: set[int] = set()
    for seat in view.where(_has_passes):
        setting, pass_ = seat.setting, seat.block.pass_
        if setting is None or pass_ in setting.passes:
            continue
        known = seat.component
        if known is None or pass_ not in known.passes:
            continue
        if not any(id(node) in told for node in seat.way):  # what is inside goes with it
            told.add(id(seat.node))
            hint = f"move it to {' or '.join(setting.passes)}"
            message = f"{setting.path} does not count in the pass {pass_}"
            yield at(seat, message, hint, None if setting.sure and known.sure_passes else Severity.WARNING)


def _has_passes(setting: Setting) -> object:
    return setting.passes


@rule(
    "value-wrong",
    Severity.ERROR,
    "The value is not of the setting's kind, not among its choices, or out of its range.",
    source=CATALOG,
    fires=f'{_OOBE}HideEULAPage = "yes"\n',
    silent=f"{_OOBE}HideEULAPage = true\n",
    by_itself=True,
)
def value_wrong(view: View) -> Iterator[Hit]:
    """Values that the catalog does not allow. Placeholders and secrets are skipped."""
    for seat, wrong in view.judged(_complaint):
        setting, text = seat.setting, seat.text
        if setting is not None and text is not None:
            told = "the value" if setting.secret else f"{quoted(text[:60])}"
            hint = did_you_mean(text.strip(), choices_of(setting.kind, setting)) if not setting.secret else ""
            if setting.kind == "locale" and not hint and not setting.secret:
                from fairledger.catalog.lists import LANGUAGES, by_meaning  # only where something is wrong

                meant = [one.windows for one in by_meaning(LANGUAGES, text.partition(".")[0])]
                hint = f"did you mean {' or '.join(meant)}?" if meant else ""
            hint = hint or (f"write it as in {setting.example}" if setting.example and not setting.secret else "")
            severity = None if setting.sure else Severity.WARNING
            yield at(seat, f"{told} cannot stand in {setting.path}: {wrong}", hint, severity)


@judge
def _complaint(setting: Setting | None, text: str) -> str:
    if setting is None or (text == "" and setting.empty):
        return ""
    if setting.form == "flag":
        return "" if text in ("true", "false") else "it stands alone and takes no value"
    if setting.kind == "list" and setting.repeats and setting.pattern:
        return "" if re.fullmatch(setting.pattern, text.strip()) else "it has another form"
    if setting.kind in ("hostname", "key", "list") or setting.form in ("body", "rest"):
        return ""  # rules of their own
    return complaint(setting.kind, text, setting)


@rule(
    "value-missing",
    Severity.ERROR,
    "A setting that takes a value has none, or holds settings instead.",
    source=CATALOG,
    fires='[answers.specialize.Microsoft-Windows-Shell-Setup.RegisteredOwner]\nName = "Larkmoor"\n',
    silent=_OWNER,
)
def value_missing(view: View) -> Iterator[Hit]:
    """Settings with children where a value belongs, and options of commands behind which none stands."""
    for seat in view.where(_is_option):
        if seat.text == "":
            yield at(seat, f"{seat.name} takes a value, and has none", "write one behind it, or take it out")
    for seat in view.kept.once("values with settings", lambda: [one for one in view.seats.parents if _holds(one)]):
        yield at(seat, f"{seat.path} takes a value, not settings", "write the value alone")


def _holds(seat: Seat) -> bool:
    """Whether settings stand where a value belongs."""
    known = seat.setting is not None and seat.setting.kind not in ("group", "list")
    return known and any(not child.is_mark for child in seat.children)


def _is_option(setting: Setting) -> object:
    return setting.name.startswith("-") and not setting.form and not setting.empty


@rule(
    "component-empty",
    Severity.WARNING,
    "A component without settings does nothing; it is usually a leftover.",
    source=PRACTICE,
    fires="[answers.specialize.Microsoft-Windows-Deployment]\n",
    silent=_OWNER,
)
def component_empty(view: View) -> Iterator[Hit]:
    """Components, groups and list items with nothing in them."""
    for root in view.seats.roots:
        if not root.children and not (root.component and root.component.alone):
            yield at(root, f"{root.block.component} is empty", "take it out, or answer one of its settings")
    for seat in view.where(_holds_others):
        if not seat.children and not (seat.text or "").strip():
            yield at(seat, f"{seat.path} is empty", "take it out, or answer one of its settings")


def _holds_others(setting: Setting) -> object:
    return setting.kind in ("group", "list") and not setting.repeats


@rule(
    "part-missing",
    Severity.ERROR,
    "A list item or group lacks a part without which setup cannot use it.",
    source=CATALOG,
    fires=(
        "[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]\n"
        'Description = "note the station"\n'
    ),
    silent=(
        "[[answers.specialize.Microsoft-Windows-Deployment.RunSynchronous.RunSynchronousCommand]]\n"
        'Path = "cmd /c echo station"\n'
    ),
)
def part_missing(view: View) -> Iterator[Hit]:
    """Required parts that are not there, or hold nothing."""
    for root in view.seats.roots:
        if root.component is not None:
            yield from _parts_missing(root, root.component)
    for setting, seats in view.seats.by_setting:
        known = seats[0].component
        if known is None or setting.kind not in ("group", "list"):
            continue
        parts = known.required(setting.path)
        named = setting.key[1:] if setting.kind == "list" and is_mark(setting.key) else ""
        for seat in seats if parts or named else ():
            if not seat.children:
                continue
            there = {child.name: child for child in reversed(seat.children)}
            for part in parts:
                if _lacks(there.get(part.name), part):
                    severity = None if part.sure and setting.sure else Severity.WARNING
                    yield at(seat, f"{seat.shown} has no {part.name}", _ask(part), severity)
            if named and seat.child(setting.key) is None:
                yield at(seat, f"{seat.shown} has no {named}", f"give each item a {named} of its own")


def _parts_missing(root: Seat, known: Component) -> Iterator[Hit]:
    there = {child.name for child in root.children}
    for need in known.needs:
        if there.isdisjoint(need.split("|")):
            told = need.replace("|", " or ")
            yield at(root, f"{known.name} has no {told}", f"add {told}", None if known.sure else Severity.WARNING)
    for part in known.required(""):
        if _lacks(root.child(part.name), part):
            yield at(root, f"{known.name} has no {part.name}", _ask(part), None if part.sure else Severity.WARNING)


def _lacks(child: Seat | None, part: Setting) -> bool:
    if child is None:
        return True
    return child.text is not None and not child.text.strip() and not child.children and not part.empty


def _ask(part: Setting) -> str:
    return f"add it: {part.about[:1].lower()}{part.about[1:].rstrip('.')}" if part.about else "add it"


@rule(
    "architecture",
    Severity.ERROR,
    "A component for another architecture than the machine's is ignored.",
    source=f"{WINDOWS}, processorArchitecture of a component",
    fires='[answers.specialize."Microsoft-Windows-Shell-Setup@x86"]\nRegisteredOwner = "Larkmoor"\n',
    silent=_OWNER,
)
def architecture(view: View) -> Iterator[Hit]:
    """Architectures that the target does not have, or that only part of the file is for."""
    rows = [(root, name) for root in view.seats.roots for name in (root.block.variant, *root.block.also) if name]
    variants = {name for _, name in rows} - set(view.limits.side_architectures)
    allowed = view.target.architectures if view.target else ()
    whole = {
        variant: {(root.block.pass_, root.block.component) for root, name in rows if name == variant}
        for variant in variants
    }
    most = max((len(seats) for seats in whole.values()), default=0)
    for root, variant in rows:
        if variant in view.limits.side_architectures and allowed:
            continue  # the older half of a system for two kinds of programs
        if allowed and variant not in allowed:
            hint = did_you_mean(variant, allowed)
            several = len(variants) > 1 and len(whole[variant]) > 1
            told = f"the target does not exist for {visible(variant)}"
            yield at(root, told, hint, Severity.ADVICE if several else None)
        elif len(variants) > 1 and len(whole[variant]) * 2 <= most:
            told = f"this component is for {visible(variant)}, most of the file is for another architecture"
            yield at(root, told, "use one architecture throughout", Severity.WARNING)
