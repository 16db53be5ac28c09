"""A JSON Schema for the drafts and profiles of one target, for editors that complete and check TOML."""

from __future__ import annotations

import inspect
import re
from typing import Any

import msgspec
from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.passes import passes_of
from fairledger.catalog.setting import Component, Setting
from fairledger.intent.fields import FieldType, fields_of
from fairledger.intent.meanings import meanings_of
from fairledger.intent.part import Part
from fairledger.intent.sections import sections
from fairledger.model.kinds import KINDS, choices_of
from fairledger.model.size import WRITTEN, Size
from fairledger.model.values import SecretRef, Template
from fairledger.profiles.decode import SECRET_SOURCES
from fairledger.profiles.document import FORMAT, DraftHead, ProfileHead, VariantHead

Schema = dict[str, Any]

_PLACEHOLDER = {"$ref": "#/$defs/placeholder"}
_SECRET = {"$ref": "#/$defs/secret"}
_MARKED = {"$ref": "#/$defs/marked"}
_MARKED_SECRET = {"$ref": "#/$defs/marked-secret"}
_ATTRIBUTES: Schema = {"^@(?!value$)": {"type": "string"}}
_DROP = "Addresses of what is taken out of the layers below."
_VARIANT = "Named sets of overrides, chosen with --variant."
_SILENCE = {"rule": "Its id.", "because": "Why it need not be heard.", "at": "Part of an address; everywhere without."}
_EXTRA = {"place": "Where it stood.", "text": "What an adopted file held, as it was."}
_BY_RULES = ("hostname", "address", "date", "path", "command")
"""Kinds whose form is looked at by rules of their own."""


def schema(catalog: Catalog) -> Schema:
    """The schema. Strict about names: what the catalog or the sections do not know is refused."""
    target = catalog.target
    assert target is not None
    head = _struct(DraftHead)
    head["properties"]["target"] = {"const": target.id, "description": target.name}
    one: Schema = {"enum": list(target.architectures)}
    several: Schema = {"type": "array", "items": one, "minItems": 1}
    head["properties"]["arch"] = {"anyOf": [one, several]} if target.several else one
    properties: Schema = {
        "format": {"const": FORMAT, "description": "Version of the file form."},
        "draft": head,
        "profile": _struct(ProfileHead),
    }
    layer: Schema = {"drop": {"type": "array", "items": {"type": "string", "minLength": 1}, "description": _DROP}}
    for section in sections():
        table = _struct(section.table)
        layer[section.name] = _one_or_many(table) if section.many else table
    layer["answers"] = _answers(catalog)
    properties.update(layer)
    within = {name: {"$ref": f"#/properties/{name}"} for name in layer}
    variant = {"type": "object", "properties": {"draft": _struct(VariantHead), **within}, "additionalProperties": False}
    properties["silence"] = _one_or_many(_texts(_SILENCE, ("rule", "because")))
    texts = {"type": "string", "description": "What is usually filled in for the placeholder of this name."}
    properties["values"] = {"type": "object", "additionalProperties": texts}
    properties["extra"] = _one_or_many(_texts(_EXTRA, ("place", "text")))
    properties["variant"] = {"type": "object", "additionalProperties": variant, "description": _VARIANT}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Drafts and profiles for {target.name}",
        "type": "object",
        "properties": properties,
        "required": ["format"],
        "oneOf": [{"required": ["draft"]}, {"required": ["profile"]}],
        "additionalProperties": False,
        "$defs": _shared(),
    }


def _shared() -> Schema:
    """What many fields and settings may hold."""
    attributes = {"type": "object", "patternProperties": _ATTRIBUTES, "additionalProperties": False}
    return {
        "placeholder": {"type": "string", "pattern": r"\$\{[A-Za-z_][A-Za-z0-9_]*\}"},
        "secret": _secret(),
        "marked-secret": {
            "description": "Where a secret is to be had, with attributes beside it.",
            **attributes,
            "properties": {one: {} for one in (*SECRET_SOURCES, "form")},
            "anyOf": [{"required": [one]} for one in SECRET_SOURCES],
        },
        "marked": {
            "description": "A value with attributes beside it.",
            **attributes,
            "properties": {"@value": {"type": ["string", "integer", "boolean", "object"]}},
            "required": ["@value"],
        },
    }


def _secret() -> Schema:
    sources = {name: {"type": "string", "minLength": 1} for name in SECRET_SOURCES if name != "ask"}
    return {
        "description": "Where a secret is to be had; a literal is taken with a warning.",
        "anyOf": [
            {"type": "string"},
            {
                "type": "object",
                "properties": {**sources, "ask": {"type": "boolean"}, "form": {"enum": ["plain", "hash"]}},
                "anyOf": [*({"required": [name]} for name in sources), {"required": ["ask"]}],
                "additionalProperties": False,
            },
        ],
    }


def _struct(table: type[Part]) -> Schema:
    told = meanings_of(table)
    properties = {}
    for name, kind in fields_of(table).items():
        properties[name] = _field(kind)
        if name in told:
            properties[name]["description"] = told[name]
    required = [field.name for field in msgspec.structs.fields(table) if field.required]
    out: Schema = {"type": "object", "properties": properties, "additionalProperties": False}
    if table.__doc__:
        out["description"] = inspect.cleandoc(table.__doc__).split("\n")[0]
    return {**out, "required": required} if required else out


def _field(kind: FieldType) -> Schema:
    """What a field takes."""
    if kind.item is not None:
        return _one_or_many(_field(kind.item), tables=kind.item.table is not None)
    ways: list[Schema] = []
    if kind.words:
        ways.append({"type": "object", "additionalProperties": {"type": "string", "minLength": 1}})
    if kind.table is not None:
        ways.append(_struct(kind.table))
    if SecretRef in kind.plain:
        ways.append(_SECRET)
    if kind.choices:
        ways.append({"enum": list(kind.choices)})
    if bool in kind.plain:
        ways.append({"type": "boolean"})
    if int in kind.plain:
        ways.append({"type": "integer", "minimum": 0, "maximum": 2**31 - 1})
    if Size in kind.plain:
        ways.append({"type": "string", "pattern": f"^{WRITTEN}$"})
    if str in kind.plain:
        ways.append({"type": "string"})
    elif Template in kind.plain:
        ways.append(_PLACEHOLDER)
    return dict(ways[0]) if len(ways) == 1 else {"anyOf": ways}


def _one_or_many(one: Schema, *, tables: bool = True) -> Schema:
    many = {"type": "array", "items": one}
    return {"anyOf": [many, one]} if tables else many


def _answers(catalog: Catalog) -> Schema:
    components = catalog.components()
    assert catalog.target is not None
    variants = "|".join(catalog.target.architectures)
    passes: Schema = {}
    for one in passes_of(catalog.family):
        fitting = [component for component in components if one.name in component.passes]
        here = {component.name: _component(component, one.name) for component in fitting}
        if here:
            way = f"#/properties/answers/properties/{one.name}/properties"
            listed = {f"^{re.escape(name)}@({variants})$": {"$ref": f"{way}/{name}"} for name in here}
            passes[one.name] = {
                "type": "object",
                "description": f"{one.when[:1].upper()}{one.when[1:]}.",
                "properties": here,
                "patternProperties": listed,
                "additionalProperties": False,
            }
    return {
        "type": "object",
        "description": "Settings of the target by pass and component; the last word.",
        "properties": passes,
        "additionalProperties": False,
    }


def _component(component: Component, pass_: str) -> Schema:
    table = _settings(component, pass_, "")
    table["description"] = component.about
    return _one_or_many(table) if component.repeats else table


def _settings(component: Component, pass_: str, path: str) -> Schema:
    """The table of what stands directly inside a path."""
    here = [one for one in component.below(path) if pass_ in component.passes_of(one)]
    properties = {}
    for one in here:
        properties[one.name] = _setting(component, pass_, one)
        if one.about:
            properties[one.name]["description"] = one.about
    table: Schema = {"type": "object", "properties": properties, "additionalProperties": False}
    # items and groups may bear attributes, such as those that tell items apart
    return {**table, "patternProperties": _ATTRIBUTES} if path else table


def _setting(component: Component, pass_: str, setting: Setting) -> Schema:
    if setting.kind in ("group", "list") and not setting.repeats:
        table = _settings(component, pass_, setting.path)
        whole = _one_or_many(table) if setting.kind == "list" else table
        return {"anyOf": [whole, _value(replace(setting, kind=setting.also))]} if setting.also else whole
    value = _value(setting)
    ways = [*value.get("anyOf", [value]), _MARKED]
    value = {"anyOf": [*ways, _MARKED_SECRET] if setting.secret else ways}
    return {"anyOf": [value, {"type": "array", "items": value}]} if setting.repeats else value


def _value(setting: Setting) -> Schema:
    if setting.secret:
        return dict(_SECRET)
    if setting.form == "flag":
        return {"enum": [True, False, "true", "false", ""]}
    allowed = choices_of(setting.kind, setting)
    ways: list[Schema] = [{"type": "string", "const": ""}] if setting.empty else []
    if allowed:
        spelled: list[Any] = [*allowed, *(int(one) for one in allowed if one.isdecimal() and str(int(one)) == one)]
        spelled += [one == "true" for one in allowed if one in ("true", "false")]
        ways.append({"enum": spelled})
    elif setting.kind == "integer":
        limits = {"minimum": setting.min, "maximum": setting.max}
        number = {"type": "integer", **{name: limit for name, limit in limits.items() if limit is not None}}
        ways += [number, {"type": "string", "pattern": r"^\s*[+-]?\d+\s*$"}]
    else:
        return _text(setting, ways)
    return {"anyOf": [*ways, _PLACEHOLDER]}


def _text(setting: Setting, ways: list[Schema]) -> Schema:
    """Text, or a number or truth value that is written as it stands."""
    form = "" if setting.kind in _BY_RULES else setting.pattern or KINDS[setting.kind].form
    if setting.form in ("body", "rest"):
        form = ""
    text: Schema = {"type": "string"}
    if setting.max_length is not None and setting.kind not in _BY_RULES:
        text["maxLength"] = setting.max_length
    if not form:
        return {"anyOf": [*ways, text, {"type": ["integer", "boolean"]}]}
    text["pattern"] = f"^(?:{form})$"
    return {"anyOf": [*ways, text, {"type": "integer"}, _PLACEHOLDER]}


def _texts(told: dict[str, str], needed: tuple[str, ...]) -> Schema:
    """A table of texts that are not empty."""
    properties = {name: {"type": "string", "minLength": 1, "description": about} for name, about in told.items()}
    return {"type": "object", "properties": properties, "required": list(needed), "additionalProperties": False}
