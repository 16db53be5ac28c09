"""Drafts and profiles written from what is known: sections, direct answers, and comments where they belong."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from typing import Any

import tomlkit
from msgspec import Struct

from fairledger.catalog.catalog import Catalog
from fairledger.intent.fields import FieldType, defaults_of, fields_of
from fairledger.intent.intent import Intent
from fairledger.intent.part import Part
from fairledger.intent.sections import SECTION_NAMES, section
from fairledger.intent.walk import FieldPath, is_tables
from fairledger.model.sheet import NOTHING, REAL, TRUTH, VALUE_KEY, WHOLE, Block, Extra, Node
from fairledger.model.size import Size
from fairledger.model.target import Target
from fairledger.model.values import SecretRef, Template, escape_text
from fairledger.profiles.answers import NO_VALUE, OWN_VALUE

Lines = Iterator[str]
Notes = Callable[[int | None, str], list[str]]
"""Comments for the line of the old file from which something comes, each once; the text is the place for marks."""


class Form(Struct, frozen=True):
    """What the writer must know of a setting of a direct answer."""

    listed: bool = False
    """Items of a list: tables of an array."""
    ordinal: bool = False
    """Numbered by itself."""
    boolean: bool = False
    integer: bool = False


FormOf = Callable[[str, str], Form]
"""By component and path."""


def key(name: str) -> str:
    """A key as it is written, in quotes where it must be."""
    return tomlkit.key(name).as_string()


def text(value: str) -> str:
    """A string as it is written; scripts of several lines keep their lines."""
    if "\n" in value and "'''" not in value and value.isprintable() is False and _plain_lines(value):
        return f"'''\n{value}'''"
    if "\\" in value and "'" not in value and value.isprintable():
        return f"'{value}'"
    return tomlkit.string(value).as_string()


def _plain_lines(value: str) -> bool:
    return all(line.replace("\t", "").isprintable() for line in value.split("\n"))


def scalar(value: Any, *, plain: bool = False) -> str:
    """A value in TOML; ``plain`` text is taken as it is when it is read, so that nothing is escaped."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, int):
        return str(value)
    if isinstance(value, SecretRef):
        return _secret(value)
    if isinstance(value, Template | Size):
        return text(str(value))
    return text(value if plain else escape_text(str(value)))


def _secret(value: SecretRef) -> str:
    parts = ["ask = true" if one.kind == "ask" else f"{one.kind} = {scalar(one.name)}" for one in value.sources]
    if value.form != "plain":
        parts.append(f"form = {text(value.form)}")
    return "{ " + ", ".join(parts) + " }"


def sections_text(intent: Intent, notes: Notes) -> Lines:
    """The portable sections, in the order in which setup asks."""
    for name in SECTION_NAMES:
        value = intent.sections.get(name)
        if value is None:
            continue
        many = section(name).many
        for at, table in enumerate(value if many else (value,)):
            path = (name, at) if many else (name,)
            head = f"[[{name}]]" if many and len(value) > 1 else f"[{name}]"
            yield from _table(table, path, name, head, intent, notes)


def _table(table: Part, path: FieldPath, name: str, head: str, intent: Intent, notes: Notes) -> Lines:
    """A table with its own fields, then the tables inside it."""
    own = intent.places.get(path)
    yield from notes(own.place.origin.line if own else None, "")
    kinds = fields_of(type(table))
    own_lines: list[str] = []
    inner: list[tuple[FieldPath, str, str, Part]] = []
    for field, usual in defaults_of(type(table)).items():
        value = getattr(table, field)
        if value == usual or value in (None, ()):
            continue
        below = (*path, field)
        if isinstance(value, Part):
            inner.append((below, f"{name}.{field}", f"[{name}.{field}]", value))
        elif is_tables(value):
            inner += [((*below, at), f"{name}.{field}", f"[[{name}.{field}]]", one) for at, one in enumerate(value)]
        else:
            place = intent.places.get(below)
            own_lines += notes(place.place.origin.line if place else None, ".".join(str(step) for step in below))
            own_lines.append(f"{field} = {_field(value, kinds[field])}")
    if own_lines or not inner or head.startswith("[["):
        yield head
        yield from own_lines
        yield ""
    for below, inside, title, value in inner:
        yield from _table(value, below, inside, title, intent, notes)


def _field(value: Any, kind: FieldType) -> str:
    if isinstance(value, tuple):
        return "[" + ", ".join(_field(one, kind.item or kind) for one in value) + "]"
    return scalar(value, plain=Template not in kind.plain)


def arch_text(kinds: Collection[tuple[str, ...]], usual: str, target: Target) -> list[str]:
    """The line of a draft's head that says for which machines it is, where that is not the usual one."""
    several = next(iter(kinds)) if len(kinds) == 1 else ()
    if len(several) > 1 and not set(several) - set(target.architectures):
        return [f"arch = [{', '.join(text(one) for one in several)}]"]
    return [f"arch = {text(usual)}"] if usual and usual != target.architectures[0] else []


def form_by(catalog: Catalog) -> FormOf:
    """What a catalog says of settings."""

    def form_of(component: str, path: str) -> Form:
        known = catalog.anywhere(component)
        setting = known.setting(path) if known else None
        if setting is None:
            return Form()
        return Form(
            listed=setting.kind == "list" and not setting.repeats,
            ordinal=setting.ordinal,
            boolean=setting.kind == "boolean",
            integer=setting.kind == "integer",
        )

    return form_of


def answers_text(blocks: Iterable[Block], form_of: FormOf, repeats: Mapping[str, bool], notes: Notes) -> Lines:
    """Direct answers by pass and component."""
    blocks = list(blocks)
    often = Counter((one.pass_, one.component, one.variant) for one in blocks)
    for block in blocks:
        named = block.component + (f"[#{block.use}]" if block.use else "")
        named += f"@{block.variant}" if block.variant else ""
        name = f"answers.{key(block.pass_)}.{key(named)}"
        several = repeats.get(block.component) or often[block.pass_, block.component, block.variant] > 1
        listed = several and not block.use
        head = f"[[{name}]]" if listed else f"[{name}]"
        yield from notes(block.origin.line, "")
        if block.children or listed:
            yield from _nodes(block.children, block.component, "", name, head, form_of, notes)
        else:
            yield head
            yield ""


def _nodes(
    nodes: tuple[Node, ...], component: str, path: str, name: str, head: str, form_of: FormOf, notes: Notes
) -> Lines:
    leaves = [node for node in nodes if not node.children or node.value is not None]
    if head.startswith("[[") or leaves:
        yield head
    seen: set[str] = set()
    of_name: dict[str, list[Node]] = {}
    for node in leaves:
        of_name.setdefault(node.name, []).append(node)
    named = Counter(node.name for node in nodes)
    for node in leaves:
        below = f"{path}/{node.name}".lstrip("/")
        form = form_of(component, below)
        alike = of_name[node.name]
        if node.name in seen or form.ordinal:
            continue
        seen.add(node.name)
        yield from notes(node.origin.line, f"{component}/{below}")
        if node.value is None:
            yield f"{key(node.name)} = {{}}"
            continue
        values = [_marked(one, form) for one in alike]
        yield f"{key(node.name)} = " + (values[0] if len(values) == 1 else "[" + ", ".join(values) + "]")
    if leaves or head.startswith("[["):
        yield ""
    for node in nodes:
        if not node.children or node.value is not None:
            continue
        below = f"{path}/{node.name}".lstrip("/")
        inside = f"{name}.{key(node.name)}"
        many = form_of(component, below).listed or named[node.name] > 1
        yield from notes(node.origin.line, "")
        title = f"[[{inside}]]" if many else f"[{inside}]"
        yield from _nodes(node.children, component, below, inside, title, form_of, notes)


def _marked(node: Node, form: Form) -> str:
    """A value, with its attributes if it has any that say something."""
    marks = [one for one in node.children if one.name != VALUE_KEY]
    own = _typed(node) if node.kind else _answer(node.value, form)
    if not marks:
        return own
    rows = [f"{key(one.name)} = {_typed(one) if one.kind else scalar(one.value)}" for one in node.children]
    return "{ " + ", ".join([f"{key(OWN_VALUE)} = {own}", *rows]) + " }"


def _typed(node: Node) -> str:
    """A value whose kind counts."""
    if node.kind == NOTHING:
        return f"{{ {key(NO_VALUE)} = true }}"
    plain = node.kind in (WHOLE, REAL, TRUTH) and isinstance(node.value, str)
    return str(node.value) if plain else scalar(node.value)


def _answer(value: Any, form: Form) -> str:
    if isinstance(value, str) and form.boolean and value in ("true", "false"):
        return value
    if isinstance(value, str) and form.integer and value.isascii() and value.isdecimal() and len(value) < 10:
        return value if value == str(int(value)) else scalar(value)
    return scalar(value)


def extras_text(extras: Iterable[Extra]) -> Lines:
    """What has no other form, as it stood there."""
    for one in extras:
        yield "[[extra]]"
        yield f"place = {text(one.place)}"
        yield f"text = {text(one.text)}"
        yield ""
