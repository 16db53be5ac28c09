"""Writes the pages of the portable sections: examples, fields, and what each installer can hold of them."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from portable_reference import examples

from fairledger.catalog.targets import all_targets
from fairledger.families.reference import reference
from fairledger.intent.meanings import about_of
from fairledger.intent.sections import SECTION_NAMES

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
    out = {}
    rows = ["# The portable sections", "", "In the order in which setup asks.", ""]
    for name in SECTION_NAMES:
        out[f"{name}.md"] = _page(name, examples(name))
        about = about_of(name).partition("\n")[0]
        rows.append(f"- [`{name}`]({name}.md): {about}")
    out["README.md"] = "\n".join(rows) + "\n"
    return out


def _page(name: str, texts: list[str]) -> str:
    head = about_of(name)
    out = [f"# `{name}`", "", head[:1].upper() + head[1:], ""]
    for text in texts:
        out += ["```toml", text.strip(), "```", ""]
    out += ["| field | accepts | meaning | " + " | ".join(title for title, _ in COLUMNS) + " |"]
    out += ["| --- " * (3 + len(COLUMNS)) + "|"]
    for path, kind, about, held in _fields(name):
        cells = [_cell(held, lines) for _, lines in COLUMNS]
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


def _fields(name: str) -> Iterator[tuple[str, str, str, set[str]]]:
    """Path, what is accepted, meaning and targets of every field, those of inner tables behind their own."""
    for path, one in reference().items():
        if path.startswith(f"{name}."):
            yield path, one.accepts, one.about.replace("``", "`"), set(one.held)


if __name__ == "__main__":
    main()
