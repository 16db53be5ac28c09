"""Example assignments: what can be pasted after ``fairledger set FILE``."""

from __future__ import annotations

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.setting import Component, Setting
from fairledger.model.kinds import KINDS, choices_of

_QUOTED = frozenset(' {}"\\;$()*<>&|@')


def example_of(component: Component, setting: Setting, catalog: Catalog) -> str:
    """An assignment by the shortest address that is clear. Of a group or list, that of the first value inside."""
    if not setting.path and component.alone:
        return component.name
    setting = _first_value(component, setting)
    if not setting.path:
        return component.name
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
    address = "/".join(steps[start:]) if start is not None else "/".join([_short(component, catalog), *steps])
    allowed = choices_of(setting.kind, setting)
    value = setting.example or (allowed[0] if allowed else _by_name(setting) or KINDS[setting.kind].example) or "..."
    quote = "'" if '"' in value else '"'
    safe = f"{address}={quote}{value}{quote}" if _QUOTED & set(value) else f"{address}={value}"
    return f"'{safe}'" if quote == '"' and "@" in address and '"' not in safe else safe


def _by_name(setting: Setting) -> str:
    """A value that fits a text's name; empty where that tells nothing."""
    name = setting.name.casefold()
    words = {"url": "https://www.larkmoor.example/", "mail": "keeper@larkmoor.example", "phone": "+44 20 7946 0123"}
    words |= {"domain": "larkmoor.example", "username": "keeper", "account": "keeper"}
    return next((value for word, value in words.items() if word in name), "") if setting.kind == "text" else ""


def _short(component: Component, catalog: Catalog) -> str:
    """The component's name, or an end of it that no other has."""
    parts = component.name.split("-")
    if component.name.count("-") < 2:
        return component.name
    ends = ("-".join(parts[at:]) for at in range(len(parts) - 1, 0, -1))
    return next((end for end in ends if (found := catalog.named(end)) and found.name == component.name), component.name)


def _first_value(component: Component, setting: Setting) -> Setting:
    """The setting itself, or the first one inside that takes a value, required ones first."""
    while setting.kind in ("group", "list") and not setting.repeats:
        inside = [one for one in component.below(setting.path) if one.path and not one.ordinal]
        if not inside:
            break
        wanted = [one for one in inside if one.required] or inside
        setting = wanted[0]
    return setting
