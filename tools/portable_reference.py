"""Builds the reference of portable fields: from the sections, their words, and the examples of their pages."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from msgspec import NODEFAULT

from fairledger.authoring.portable import portable_steps
from fairledger.catalog.packaged import lined
from fairledger.catalog.targets import all_targets
from fairledger.catalog.tidy import choices_of, effects, tidy
from fairledger.families.build import canonical, translate
from fairledger.families.reference import INDEX, FieldTold
from fairledger.intent import words as words_of
from fairledger.intent.fields import defaults_of
from fairledger.intent.intent import Intent
from fairledger.intent.meanings import meanings_of
from fairledger.intent.part import Part, labels_of
from fairledger.intent.sections import SECTION_NAMES, section, sections
from fairledger.intent.walk import Field, FieldPath, changed, fields_below, names_of, said
from fairledger.model.errors import CatalogError
from fairledger.model.sheet import Node, Sheet
from fairledger.model.target import Target
from fairledger.model.values import SecretRef
from fairledger.profiles.document import read_document
from fairledger.profiles.library import Library
from fairledger.profiles.resolve import Resolved, resolve

__all__ = ["INDEX", "build", "examples"]
PAGES = Path(__file__).parent.parent / "docs" / "profiles"
_ORDINAL = "Order"
_MOST_MADE = 8
_SCRIPT = "beside the file"
_TOGETHER = ("volume",)
"""Sections whose items mean nothing alone."""
_LINES = ("client", "server", "el", "fedora", "esxi")


def build() -> bytes:
    """The packaged form. Raises `CatalogError` for words of a field that does not exist."""
    texts = [text for name in SECTION_NAMES for text in examples(name)]
    drafts = {target.id: [_resolved(text, target) for text in texts] for target in all_targets()}
    held = {target.id: set().union(*(_kept(one) for one in drafts[target.id])) for target in all_targets()}
    newest = [[one for one in all_targets() if one.line == line and one.sure][-1] for line in _LINES]
    known = words_of.authored()
    rows = []
    for field in (one for part in sections() for one in fields_below(part.table, part.name)):
        path = ".".join(field.names)
        told = known.pop(path, None) or known.get(".".join(field.names[-2:]), {})
        choice = choices_of(field.names[0]).get(field.names[-1])
        if path.startswith("volume.partition.") and not any(path in one for one in held.values()):
            continue  # shared with disks, which have a use for it
        rows.append(
            FieldTold(
                path=path,
                accepts=field.kind.says(),
                values=("true", "false") if bool in field.kind.plain else field.kind.choices,
                about=meanings_of(field.table).get(field.names[-1], "") or told.get("about", ""),
                words=" ".join(filter(None, (told.get("words", ""), choice.words if choice is not None else ""))),
                example=told.get("example") or _example(field, [one for each in newest for one in drafts[each.id]]),
                held=tuple(one.id for one in all_targets() if path in held[one.id]),
                made={
                    each.id: made for each in newest if (made := _made(field, drafts[each.id], told.get("shown", "")))
                },
            )
        )
    left = [path for path in known if path.count(".") > 1 and path not in {row.path for row in rows}]
    if left:
        raise CatalogError(f"words for fields that do not exist: {', '.join(left)}", file=str(words_of.WORDS))
    return lined(rows)


def examples(name: str) -> list[str]:
    """The examples of a section; each may speak of others too."""
    return (PAGES / "examples" / f"{name}.toml").read_text(encoding="utf-8").split("\n# or\n\n")


def _resolved(text: str, target: Target) -> Resolved:
    draft = f'format = 1\n[draft]\ntarget = "{target.id}"\ndisk_size = "500 GB"\n{text}'
    return resolve(read_document(draft, "example.toml", tolerant=True), Library(PAGES))


def _kept(draft: Resolved) -> set[str]:
    """The fields of an example that its target has a use for."""
    kept = canonical(draft.intent, draft.target, draft.facts)
    found = {".".join(names_of(path)) for name, value in kept.sections.items() for path in said(value, (name,))}
    for name, value in draft.intent.sections.items():  # some families say choices by other sections
        for field, choice in choices_of(name).items():
            word = getattr(value, field) if name in tidy().groups else None
            if word is not None and effects(choice, word, draft.target):
                found.add(f"{name}.{field}")
    return found


def _paths(field: Field, draft: Resolved) -> list[FieldPath]:
    value = draft.intent.sections.get(field.names[0])
    return [path for path in said(value, field.names[:1]) if names_of(path) == field.names] if value else []


def _made(field: Field, drafts: list[Resolved], shown: str) -> tuple[str, ...]:
    """The answers that are there, or are otherwise, because of a field, in the example that shows it in few words."""
    found: list[list[str]] = []
    for draft in [_resolved(shown, drafts[0].target)] if shown else drafts:
        for intent in _parts(field, draft.intent) if _paths(field, draft) else ():
            whole = _answers(translate(intent, draft.target, draft.facts)[0])
            without = Counter(_answers(translate(_without(field, intent), draft.target, draft.facts)[0]))
            made = [one for one in dict.fromkeys(whole) if whole.count(one) > without[one]]
            if made:
                found.append(made)
    plain = sorted(found, key=lambda made: (any(_SCRIPT in one for one in made), sum(map(len, made))))
    return tuple(plain[0][:_MOST_MADE]) if plain else ()


def _parts(field: Field, intent: Intent) -> Iterator[Intent]:
    """The intent; or each item alone of a section that is a list."""
    name = field.names[0]
    if not section(name).many or name in _TOGETHER:
        yield intent
        return
    for one in intent.sections[name]:
        yield Intent({**intent.sections, name: (one,)}, intent.places, intent.own)


def _without(field: Field, intent: Intent) -> Intent:
    """The intent in which a field says nothing, or something else where it has to say something."""
    usual = defaults_of(field.table)[field.names[-1]]

    def change(path: FieldPath, value: Any) -> Any:
        if names_of(path) != field.names:
            return value
        if usual is not NODEFAULT:
            return usual
        return f"{value}-other" if isinstance(value, str) and not field.kind.choices else value

    parts = {name: changed(value, change, (name,)) for name, value in intent.sections.items()}
    return Intent(parts, intent.places, intent.own)


def _answers(sheet: Sheet) -> list[str]:
    out = []
    for block in sheet.blocks:
        if not block.children:
            out.append(f"{block.pass_}: {block.component}")
        for node in block.children:
            out += [f"{block.pass_}: {block.component}/{one}" for one in _below(node)]
    return [*out, *(f"beside the file: {one.name}" for one in sheet.companions)]


def _below(node: Node) -> Iterator[str]:
    if node.value is not None and node.name != _ORDINAL:
        value = "(secret)" if isinstance(node.value, SecretRef) else str(node.value).replace("\n", " ")
        yield f"{node.name} = {value}" if value else node.name
    for child in node.children:
        yield from (f"{node.name}/{one}" for one in _below(child))


def _example(field: Field, drafts: list[Resolved]) -> str:
    """An assignment, to an item that has a name where there is one."""
    found = list(_assignments(field, drafts))
    return next((one for one in found if "[+]" not in one), found[0] if found else "")


def _assignments(field: Field, drafts: list[Resolved]) -> Iterator[str]:
    """The field in the examples, as it is typed."""
    for draft in drafts:
        for path in _paths(field, draft):
            value = draft.intent.at(path)
            if isinstance(value, str) and "\n" in value:
                continue
            address = _address(path, draft.intent)
            portable_steps(address)
            yield f"{address}={_typed(value)}"


def _address(path: FieldPath, intent: Intent) -> str:
    """A path with what its items are called; directly after the section where its items may be named there."""
    here: Any = intent.sections[str(path[0])]
    out, names = str(path[0]), path[1:]
    if section(out).items and len(names) > 1 and names[0] == section(out).items:
        here, names = getattr(here, str(names[0])), names[1:]
    for step in names:
        if isinstance(step, int):
            label = labels_of(here)[step]
            alone = len(here) == 1 and out == "disk"
            out += "" if alone else "[+]" if label.startswith("#") else f"[{label}]"
            here = here[step]
        else:
            out, here = f"{out}.{step}", getattr(here, step)
    return out


def _typed(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, SecretRef):
        return '{ env = "NAME", ask = true }'
    if isinstance(value, tuple):
        return ",".join(_typed(one) for one in value if not isinstance(one, Part))
    return str(value)


def main() -> None:
    """Writes it."""
    INDEX.write_bytes(build())


if __name__ == "__main__":
    main()
