"""What ``about`` prints."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.passes import passes_of
from fairledger.catalog.setting import Component, Setting
from fairledger.cli import status
from fairledger.cli.console import Console
from fairledger.model.kinds import KINDS, choices_of
from fairledger.model.target import SetupPass


def example_of(component: Component, setting: Setting, catalog: Catalog) -> str:
    """An assignment that can be pasted after ``fairledger set FILE``: the shortest address that is clear."""
    names = setting.path.split("/")
    steps = []
    for at, name in enumerate(names):
        here = component.setting("/".join(names[: at + 1]))
        item = ""
        if here is not None and here.kind == "list" and not here.repeats:
            key = component.setting(f"{here.path}/{here.key}")
            item = f"[{key.example}]" if key and key.example and key.name != names[-1] else "[+]"
        steps.append(name + item)
    start = next(
        (at for at in range(len(names) - 1, -1, -1) if len(catalog.with_tail("/".join(names[at:]))) == 1),
        None,
    )
    if component.repeats or names[-1].startswith("-"):
        start, steps = 0, [component.name + ("[+]" if component.repeats else ""), *steps]
    listed = [at for at, step in enumerate(steps) if step.endswith("]")]
    if start is not None and listed:
        start = min(start, listed[0])
    address = "/".join(steps[start:]) if start is not None else "/".join([component.name, *steps])
    allowed = choices_of(setting.kind, setting)
    value = setting.example or (allowed[0] if allowed else KINDS[setting.kind].example)
    quote = "'" if '"' in value else '"'
    return f"{address}={quote}{value}{quote}" if any(char in value for char in ' {}"\\;$()*') else f"{address}={value}"


def explain_settings(found: Sequence[tuple[Component, Setting]], catalog: Catalog, console: Console) -> None:
    """One setting at length, or several at a glance."""
    if console.json:
        console.write_json({"settings": [_as_json(component, setting, catalog) for component, setting in found]})
        return
    if len(found) == 1:
        _explain(*found[0], catalog, console)
        return
    console.say(f"{len(found)} settings are called that:\n")
    for component, setting in found:
        console.say(console.style(f"{component.name}/{setting.path}", "bold"))
        told = f"{', '.join(component.passes_of(setting))}. {setting.about}"
        console.paragraph(told, indent="  ")
    console.say("\nName one in full to see everything about it.")


def _as_json(component: Component, setting: Setting, catalog: Catalog) -> dict[str, Any]:
    return {
        "component": component.name,
        "path": setting.path,
        "passes": component.passes_of(setting),
        "usual_pass": component.usual_pass_of(setting),
        "kind": setting.kind,
        "values": choices_of(setting.kind, setting),
        "about": setting.about,
        "sure": setting.sure,
        "example": example_of(component, setting, catalog),
    }


def _explain(component: Component, setting: Setting, catalog: Catalog, console: Console) -> None:
    console.say(console.style(setting.path, "bold") + f"  of {component.name}")
    console.paragraph(setting.about or component.about, indent="  ")
    console.say()
    kind = KINDS[setting.kind]
    rows: list[tuple[str, str]] = [("kind", f"{setting.kind}: {kind.says}" if kind.says != setting.kind else kind.says)]
    meanings = [f"{value}: {meaning}" if meaning else value for value, meaning in setting.choices]
    if meanings and all(not meaning for _, meaning in setting.choices):
        meanings = [", ".join(meanings)]
    rows += [("choices" if at == 0 else "", one) for at, one in enumerate(meanings)]
    if setting.min is not None or setting.max is not None:
        low = str(setting.min) if setting.min is not None else "any"
        rows.append(("range", f"{low} to {setting.max}" if setting.max is not None else f"{low} or more"))
    if setting.max_length:
        rows.append(("length", f"at most {setting.max_length} characters"))
    if setting.default:
        rows.append(("if unsaid", setting.default))
    if setting.kind == "list":
        rows.append(("items", f"told apart by {setting.key.lstrip('@')}" if setting.key else "told apart by place"))
    usual = component.usual_pass_of(setting)
    when = {one.name: one.when for one in passes_of(catalog.family)}
    passes = component.passes_of(setting)
    for at, name in enumerate(sorted(passes, key=lambda one: one != usual)):
        told = f"{name}{' (usual)' if name == usual and len(passes) > 1 else ''}: {when.get(name, '')}"
        rows.append(("passes" if at == 0 else "", told))
    inside = component.below(setting.path) if setting.kind in ("group", "list") else ()
    beside = [one.name for one in component.below(setting.parent) if one.path != setting.path and setting.parent]
    if inside:
        rows.append(("inside", ", ".join(one.name for one in inside)))
    elif beside:
        rows.append(("beside it", ", ".join(beside)))
    if setting.required:
        rows.append(("needed", f"{setting.parent.rsplit('/', 1)[-1]} is no use without it"))
    if not setting.sure:
        rows.append(("unsure", "the catalog is not certain of this; findings about it are warnings at most"))
    for label, text in rows:
        console.paragraph(text, indent=f"  {label:<10} ", hang=" " * 13)
    if setting.kind not in ("group", "list"):
        console.say("\n  fairledger set FILE " + console.style(example_of(component, setting, catalog), "good"))


def explain_component(component: Component, catalog: Catalog, console: Console) -> int:
    """A component and its settings, a line each."""
    if console.json:
        console.write_json({"settings": [_as_json(component, setting, catalog) for setting in component.settings]})
        return status.DONE
    console.say(console.style(component.name, "bold"))
    console.paragraph(component.about, indent="  ")
    told = "all its settings are here" if component.complete else "it has further settings that are not described here"
    console.paragraph(f"passes: {', '.join(component.passes)}; {told}", indent="  ")
    console.say()
    from rich.table import Table

    table = Table(box=None, show_header=False, padding=(0, 2, 0, 0))
    table.add_column(no_wrap=True)
    table.add_column(style="dim")
    table.add_column(ratio=1)
    for setting in component.settings:
        depth = setting.path.count("/")
        table.add_row("  " * (depth + 1) + setting.name, setting.kind, setting.about)
    console.table(table)
    return status.DONE


def explain_pass(one: SetupPass, catalog: Catalog, console: Console) -> int:
    """A pass: when it runs, what belongs there, which components may stand in it."""
    known = [catalog.component(name) for name in catalog.names()]
    here = [component for component in known if component is not None and one.name in component.passes]
    if console.json:
        console.write_json({"pass": one.name, "when": one.when, "components": [component.name for component in here]})
        return status.DONE
    console.say(console.style(one.name, "bold"))
    console.paragraph(f"runs {one.when}", indent="  ")
    console.paragraph(f"here belong: {one.belongs}", indent="  ")
    console.say()
    for component in here:
        console.paragraph(f"{component.name}: {component.about}", indent="  ", hang="      ")
    return status.DONE
