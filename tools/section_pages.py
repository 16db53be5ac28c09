"""Writes the pages of the portable sections: examples, fields, and what each installer can hold of them."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from fairledger.catalog.targets import all_targets
from fairledger.catalog.tidy import choices_of, effects, tidy
from fairledger.families.build import canonical
from fairledger.intent.fields import fields_of
from fairledger.intent.meanings import about_of, meanings_of
from fairledger.intent.part import Part
from fairledger.intent.sections import SECTION_NAMES, section
from fairledger.intent.walk import names_of, said
from fairledger.model.target import Target
from fairledger.profiles.document import read_document
from fairledger.profiles.library import Library
from fairledger.profiles.resolve import resolve

ROOT = Path(__file__).parent.parent
PAGES = ROOT / "docs" / "profiles"
COLUMNS = (
    ("Windows", ("client", "server")),
    ("Enterprise Linux, Fedora", ("el", "fedora")),
    ("hypervisor", ("esxi", "esx")),
)


MEANT = {
    "apps.keep": "It comes out as the list of apps that go.",
    "apps.others": "As above.",
    "account.create": "`ask` leaves the accounts out, so that the installer asks.",
    "command.name": "It does not reach the answer file.",
    "disk.extend": "Counts when drafts are resolved.",
    "file.on_medium": "It is where the file lies beside the answer file, which does not hold it.",
    "own.choice": "It is described in a file of the folder `tidy/` beside the draft, in the form of those that ship.",
    "own.value": "What it changes stands there.",
    "privacy.every": "Counts when drafts are resolved.",
}
"""Fields that no answer file holds by themselves."""


def main() -> None:
    """Writes every page, and the table of contents."""
    for name, text in pages().items():
        (PAGES / name).write_text(text, encoding="utf-8")


def pages() -> dict[str, str]:
    """The pages by file name."""
    told = {name: examples(name) for name in SECTION_NAMES}
    held = {head: _held(lines, told) for head, lines in COLUMNS}
    out = {}
    rows = ["# The portable sections", "", "In the order in which setup asks.", ""]
    for name in SECTION_NAMES:
        out[f"{name}.md"] = _page(name, told[name], held)
        about = about_of(name).partition("\n")[0]
        rows.append(f"- [`{name}`]({name}.md): {about}")
    out["README.md"] = "\n".join(rows) + "\n"
    return out


def examples(name: str) -> list[str]:
    """The examples of a section; each may speak of others too."""
    return (PAGES / "examples" / f"{name}.toml").read_text(encoding="utf-8").split("\n# or\n\n")


def _held(lines: tuple[str, ...], told: dict[str, list[str]]) -> dict[str, set[str]]:
    """The ids of the targets that keep a field, by the field's path."""
    found: dict[str, set[str]] = {}
    for target in (one for one in all_targets() if one.line in lines):
        for text in (one for part in told.values() for one in part):
            for path in _kept(text, target):
                found.setdefault(path, set()).add(target.id)
    return found


def _kept(text: str, target: Target) -> set[str]:
    draft = f'format = 1\n[draft]\ntarget = "{target.id}"\ndisk_size = "500 GB"\n{text}'
    resolved = resolve(read_document(draft, "example.toml", tolerant=True), Library(PAGES))
    kept = canonical(resolved.intent, target, resolved.facts)
    found = {".".join(names_of(path)) for name, value in kept.sections.items() for path in said(value, (name,))}
    for name, value in resolved.intent.sections.items():  # some families say choices by other sections
        for field, choice in choices_of(name).items():
            word = getattr(value, field) if name in tidy().groups else None
            if word is not None and effects(choice, word, target):
                found.add(f"{name}.{field}")
    return found


def _page(name: str, texts: list[str], held: dict[str, dict[str, set[str]]]) -> str:
    head = about_of(name)
    out = [f"# `{name}`", "", head[:1].upper() + head[1:], ""]
    for text in texts:
        out += ["```toml", text.strip(), "```", ""]
    out += ["| field | accepts | meaning | " + " | ".join(title for title, _ in COLUMNS) + " |"]
    out += ["| --- " * (3 + len(COLUMNS)) + "|"]
    table = section(name).table
    for path, kind, about in _fields(table, name):
        cells = [_cell(held[title].get(path, set()), lines) for title, lines in COLUMNS]
        if cells == ["no"] * len(COLUMNS) and path not in MEANT:
            continue  # shared with another section, which has a use for it
        if path in MEANT:
            cells = ["-"] * len(COLUMNS)
        told = f"{about} {MEANT.get(path, '')}".strip()
        out.append(f"| `{path.partition('.')[2]}` | {kind} | {told} | " + " | ".join(cells) + " |")
    out += ["", "*no* means that `check` says so, with what to do instead. Written by `tools/section_pages.py`."]
    return "\n".join(out) + "\n"


def _cell(found: set[str], lines: tuple[str, ...]) -> str:
    """Which releases of some lines keep a field, so that a new release changes nothing where nothing changes."""
    told = [_in_line(line, found) for line in lines]
    if len(set(told)) == 1:
        return told[0]
    return "; ".join(f"{line}: {one}" for line, one in zip(lines, told, strict=True) if one != "no")


def _in_line(line: str, found: set[str]) -> str:
    own = [one.id for one in all_targets() if one.line == line]
    kept = [one for one in own if one in found]
    if len(kept) in (0, len(own)):
        return "yes" if kept else "no"
    if kept == own[-len(kept) :]:
        return f"from {kept[0]} on"
    return f"until {kept[-1]}" if kept == own[: len(kept)] else "only " + ", ".join(kept)


def _fields(table: type[Part], path: str) -> Iterator[tuple[str, str, str]]:
    """Path, what is accepted, and meaning of every field, those of inner tables behind their own."""
    meanings = {field: told.replace("``", "`") for field, told in meanings_of(table).items()}
    for field, kind in fields_of(table).items():
        inner = kind.inner
        here = f"{path}.{field}"
        if inner is None or path.count(".") > 2:
            yield here, kind.says(), meanings.get(field, "")
        else:
            yield from _fields(inner, here)


if __name__ == "__main__":
    main()
