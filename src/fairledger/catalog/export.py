"""The catalog of a target in a form for other programs."""

from __future__ import annotations

from typing import Any

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.setting import Component, Setting
from fairledger.model.kinds import choices_of


def as_json(catalog: Catalog) -> dict[str, Any]:
    """Every component that the catalog's target has, with its settings, groups and lists included."""
    target = catalog.target
    assert target is not None
    return {"target": target.id, "components": [_component(one) for one in catalog.components()]}


def _component(one: Component) -> dict[str, Any]:
    return {
        "name": one.name,
        "passes": one.passes,
        "complete": one.complete,
        "settings": [_setting(one, setting) for setting in one.settings],
    }


def _setting(component: Component, setting: Setting) -> dict[str, Any]:
    return {
        "path": setting.path,
        "kind": setting.kind,
        "passes": component.passes_of(setting),
        "usual_pass": component.usual_pass_of(setting),
        "values": choices_of(setting.kind, setting),
        "min": setting.min,
        "max": setting.max,
        "max_length": setting.max_length,
        "key": setting.key or None,
        "repeats": setting.repeats or setting.kind == "list",
        "required": setting.required,
        "since": setting.since,
        "until": setting.until,
        "deprecated": setting.deprecated,
        "sure": setting.sure and component.sure,
        "about": setting.about,
    }
