"""What ``about`` prints."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.example import example_of
from fairledger.catalog.passes import passes_of
from fairledger.catalog.setting import Component, Setting
from fairledger.catalog.targets import name_of, order_of
from fairledger.cli.against import OnMedium
from fairledger.cli.console import Console, cell
from fairledger.cli.status import Status
from fairledger.model.kinds import KINDS, choices_of
from fairledger.model.target import SetupPass

_LABEL = 11


def explain_settings(
    found: Sequence[tuple[Component, Setting]], catalog: Catalog, console: Console, medium: OnMedium | None = None
) -> None:
    """One setting at length, or several at a glance."""
    if console.json:
        rows = [_as_json(component, setting, catalog, medium) for component, setting in found]
        console.write_json({"settings": rows})
        return
    if len(found) == 1:
        _explain(*found[0], catalog, console, medium)
        return
    console.say(f"{len(found)} settings are called that:\n")
    for component, setting in found:
        console.say(console.style(f"{component.name}/{setting.path}", "bold"))
        told = f"{', '.join(component.passes_of(setting))}. {setting.about}"
        console.paragraph(told, indent="  ")
    console.say("\nName one in full to see everything about it.")


def _as_json(component: Component, setting: Setting, catalog: Catalog, medium: OnMedium | None) -> dict[str, Any]:
    told = {} if medium is None else {"on_medium": medium.has(component.name)}
    return {
        **told,
        "component": component.name,
        "path": setting.path,
        "passes": component.passes_of(setting),
        "usual_pass": component.usual_pass_of(setting),
        "kind": setting.kind,
        "values": choices_of(setting.kind, setting),
        "about": setting.about,
        "since": setting.since or component.since,
        "until": setting.until or component.until,
        "deprecated": setting.deprecated or component.deprecated,
        "needs": setting.needs,
        "excludes": setting.excludes,
        "related": setting.related,
        "policy": setting.policy or component.policy,
        "sure": setting.sure and component.sure,
        "example": example_of(component, setting, catalog),
    }


def _medium_rows(component: Component, medium: OnMedium | None) -> Iterator[tuple[str, str]]:
    if medium is not None:
        yield "medium", medium.told(component.name)


def _explain(
    component: Component, setting: Setting, catalog: Catalog, console: Console, medium: OnMedium | None
) -> None:
    console.say(console.style(setting.path, "bold") + f"  of {component.name}")
    console.paragraph(setting.about or component.about, indent="  ")
    console.say()
    told = (
        *_value_rows(setting),
        *_pass_rows(component, setting, catalog),
        *_doubt_rows(component),
        *_release_rows(component, setting, catalog),
        *_neighbour_rows(component, setting),
        *_medium_rows(component, medium),
    )
    last = ""
    for label, text in told:
        shown = label if label != last else ""
        console.paragraph(text, indent=f"  {shown:<{_LABEL}} ", hang=" " * (_LABEL + 3))
        last = label
    console.say("\n  fairledger set FILE " + console.style(example_of(component, setting, catalog), "good"))


def _value_rows(setting: Setting) -> Iterator[tuple[str, str]]:
    """What may be written."""
    kind = KINDS[setting.kind]
    yield "kind", f"{setting.kind}: {kind.says}" if kind.says != setting.kind else kind.says
    if all(not meaning for _, meaning in setting.choices) and setting.choices:
        yield "choices", ", ".join(value for value, _ in setting.choices)
    else:
        for value, meaning in setting.choices:
            yield "choices", f"{value}: {meaning}" if meaning else value
    if setting.min is not None or setting.max is not None:
        low = str(setting.min) if setting.min is not None else "any"
        yield "range", f"{low} to {setting.max}" if setting.max is not None else f"{low} or more"
    if setting.max_length:
        yield "length", f"at most {setting.max_length} characters"
    if setting.default:
        yield "if unsaid", setting.default
    if setting.kind == "list":
        yield "items", f"told apart by {setting.key.lstrip('@')}" if setting.key else "told apart by place"
    if setting.required and setting.parent:
        yield "needed", f"{setting.parent.rsplit('/', 1)[-1]} is no use without it"


def _pass_rows(component: Component, setting: Setting, catalog: Catalog) -> Iterator[tuple[str, str]]:
    """Where it may stand, and when that runs."""
    usual = component.usual_pass_of(setting)
    when = {one.name: one.when for one in passes_of(catalog.family)}
    passes = component.passes_of(setting)
    for name in sorted(passes, key=lambda one: one != usual):
        yield "passes", f"{name}{' (usual)' if name == usual and len(passes) > 1 else ''}: {when.get(name, '')}"


def _doubt_rows(component: Component) -> Iterator[tuple[str, str]]:
    """What is not certain of its passes."""
    if not component.sure_passes:
        yield "unsure", "it may do in other passes as well; findings about its pass are warnings"


def _release_rows(component: Component, setting: Setting, catalog: Catalog) -> Iterator[tuple[str, str]]:
    """Which releases have it."""
    line = catalog.target.line if catalog.target else ""
    for word, own, shared in (
        ("since", setting.since, component.since),
        ("until", setting.until, component.until),
        ("out of date since", setting.deprecated, component.deprecated),
    ):
        names = [name for name in own or shared if not line or name in order_of(line)]
        if names:
            yield "releases", f"{word} {' and '.join(name_of(name) for name in names)}"
    if setting.instead or component.instead:
        yield "instead", f"use {setting.instead or component.instead}"
    if not (setting.sure and component.sure):
        yield "unsure", "the catalog is not certain of this; findings about it are warnings at most"


def _neighbour_rows(component: Component, setting: Setting) -> Iterator[tuple[str, str]]:
    """What belongs together with it, and what does not."""
    if setting.needs:
        yield "needs", ", ".join(one.replace("|", " or ") for one in setting.needs)
    if setting.excludes:
        yield "excludes", ", ".join(setting.excludes)
    if setting.refers:
        yield "names", f"one of {setting.refers} in the same file"
    if setting.related:
        yield "see also", ", ".join(setting.related)
    if setting.kind in ("group", "list"):
        yield "inside", ", ".join(one.name for one in component.below(setting.path)) or "values"
    elif setting.parent:
        beside = [one.name for one in component.below(setting.parent) if one.path != setting.path]
        if beside:
            yield "beside it", ", ".join(beside)
    if setting.policy or component.policy:
        yield "policy", setting.policy or component.policy


def explain_component(component: Component, catalog: Catalog, console: Console, medium: OnMedium | None = None) -> int:
    """A component and its settings, a line each."""
    if console.json:
        rows = [_as_json(component, setting, catalog, medium) for setting in component.settings]
        console.write_json({"settings": rows})
        return Status.DONE
    console.say(console.style(component.name, "bold"))
    console.paragraph(component.about, indent="  ")
    told = "all its settings are here" if component.complete else "it may have settings that are not described here"
    console.paragraph(f"passes: {', '.join(component.passes)}; {told}", indent="  ")
    if component.section_like:
        end = f"with a line {component.ends}" if component.ends else "where the next section begins, or with the file"
        console.paragraph(f"ends: {end}", indent="  ")
    for label, text in _release_rows(component, Setting(path="", kind="group"), catalog):
        console.paragraph(f"{label}: {text}", indent="  ")
    if component.policy:
        console.paragraph(f"policy: {component.policy}", indent="  ")
    for label, text in _medium_rows(component, medium):
        console.paragraph(f"{label}: {text}", indent="  ")
    console.say()
    from rich.table import Table

    table = Table(box=None, show_header=False, padding=(0, 2, 0, 0))
    table.add_column(no_wrap=True)
    table.add_column(style="dim")
    table.add_column(ratio=1)
    for setting in component.settings:
        depth = setting.path.count("/")
        table.add_row(*map(cell, ("  " * (depth + 1) + setting.name, setting.kind, setting.about)))
    console.table(table)
    return Status.DONE


def explain_end(name: str, ended: Sequence[Component], catalog: Catalog, console: Console) -> int:
    """A line that ends sections: which ones; it is no setting."""
    told = "Ends a section. It is written and read by itself, and is never set."
    if not ended and catalog.target is not None:
        told = f"{catalog.target.name} has no {name}: a section ends where the next one begins, or with the file."
    if console.json:
        console.write_json({"end": name, "about": told, "components": [one.name for one in ended]})
        return Status.DONE
    console.say(console.style(name, "bold"))
    console.paragraph(told, indent="  ")
    here = {(one.opened_by + " " + one.name).strip(): one for one in ended}
    bare = sorted(set(catalog.names()) - {one.name for one in ended})
    if not ended:
        return Status.DONE
    console.paragraph(", ".join(here), indent=f"  {'ends':<{_LABEL}} ", hang=" " * (_LABEL + 3))
    without = [one for one in bare if (known := catalog.component(one)) is not None and known.section_like]
    if without:
        console.paragraph(", ".join(without), indent=f"  {'not':<{_LABEL}} ", hang=" " * (_LABEL + 3))
    return Status.DONE


def explain_pass(one: SetupPass, catalog: Catalog, console: Console) -> int:
    """A pass: when it runs, what belongs there, how it is reached, which components may stand in it."""
    here = [component for component in catalog.components() if one.name in component.passes]
    if console.json:
        listed = [component.name for component in here]
        whole = {"pass": one.name, "when": one.when, "belongs": one.belongs, "reached": one.reached}
        console.write_json({**whole, "components": listed})
        return Status.DONE
    console.say(console.style(one.name, "bold"))
    for label, text in (("runs", one.when), ("reached if", one.reached), ("for", one.belongs)):
        console.paragraph(text, indent=f"  {label:<{_LABEL}} ", hang=" " * (_LABEL + 3))
    console.say(f"\n  {len(here)} components may stand in it:")
    usual = sorted(here, key=lambda one_of: one.name not in (one_of.usual_pass or one_of.passes[0]))
    for component in usual:
        console.paragraph(component.about, indent=f"    {component.name}  ", hang="        ")
    return Status.DONE
