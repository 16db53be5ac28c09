"""The documentation cannot rot: its commands are run, its drafts are read, its tables are compared with the program."""

from __future__ import annotations

import re
import shlex
import sys
from pathlib import Path

import msgspec
import pytest

from factories import DESK, check_draft
from fairledger.catalog.setting import Component, Setting
from fairledger.cli import parser as grammar
from fairledger.cli.commands.demo import examples_folder
from fairledger.cli.parser import COMMANDS, full_parser
from fairledger.families.interface import Family
from fairledger.families.reference import reference
from fairledger.families.windows.bypass import ways
from fairledger.intent.sections import SECTION_NAMES
from fairledger.model.kinds import KINDS

ROOT = Path(__file__).parents[1]
README = (ROOT / "README.md").read_text(encoding="utf-8")
PAGES = ROOT / "src" / "fairledger" / "cli" / "pages"
DOCS = {
    path.name: path.read_text(encoding="utf-8") for folder in (ROOT / "docs", PAGES) for path in folder.glob("*.md")
}


def commands_of(text: str) -> list[list[str]]:
    """The command lines of a text's indented blocks, continued lines joined, comments cut."""
    joined = re.sub(r" *\\\n +", " ", text)
    lines = re.findall(r"^ {4}fairledger (.*)$", joined, re.MULTILINE)
    return [shlex.split(line, comments=True) for line in lines]


def test_the_readmes_way_works(program):
    program.file("ks.cfg", "network --device=eno1 --ip=192.0.2.30 --netmask=255.255.255.0\n")
    played = []
    for command in commands_of(README):
        if command[:2] == ["secret", "hash"]:
            continue
        program(*command, ADMIN_PASSWORD="Heron-4")
        played.append(command[0])
    played = [one for one in played if one not in ("adopt", "compare", "carry", "explain", "questions", "rule")]
    assert {
        "targets",
        "find",
        "values",
        "about",
        "start",
        "profile",
        "set",
        "show",
        "tidy",
        "check",
        "write",
        "export",
        "roster",
        "medium",
        "routes",
        "deliver",
    } == set(played)


def test_the_readmes_draft_has_no_error(tmp_path):
    block = README.partition("## A draft\n\n")[2].partition("\n\nSecrets are")[0]
    text = "\n".join(line.removeprefix("    ") for line in block.splitlines())
    findings = check_draft(text, tmp_path / "desk.toml").findings
    assert [finding for finding in findings if finding.severity == "error"] == []


def test_every_bypass_is_described_with_its_builds():
    page = DOCS["drafts-and-profiles.md"]
    rows = [line for line in page.splitlines() if line.startswith("| `")]
    for name, way in ways().items():
        assert any(f"`{name}`" in row and way.since in row for row in rows), name
        assert way.note


def test_every_kind_and_key_of_the_catalog_is_described():
    page = DOCS["catalog.md"]
    for kind in KINDS:
        assert kind in page
    told = {"path", "name", "about", "words", "settings", "passes", "complete", "architectures"}
    for field in msgspec.structs.fields(Setting) + msgspec.structs.fields(Component):
        assert field.name in told or f"`{field.name}" in page or f"`{field.name} =" in page, field.name


def test_the_addresses_of_the_page_are_addresses(program):
    program("start", "desk.toml", "--target", DESK)
    program("set", "desk.toml", "account[observer].groups=Users", "Disk[0]/WillWipeDisk=true")
    found = re.findall(r"(?:^|\s{2,})(\S+=(?:\"[^\"]*\"|\S+))", DOCS["addresses.md"])
    assert len(found) >= 4
    own = [one for one in found if "'" not in one and not one.startswith("network[eno1]/")]
    program("set", "desk.toml", *[one.replace('"', "") for one in own])


def test_every_member_of_a_family_is_named_with_what_holds_without_it():
    rows = re.findall(r"^\| `(\w+)` \| .+ \| (.+) \|$", DOCS["adding-a-family.md"], re.MULTILINE)
    members = {name for name in vars(Family) if not name.startswith("_")} | {"name"}
    assert {name for name, _ in rows} == members
    must = {name for name, instead in rows if instead == "it must"}
    assert must == Family.__abstractmethods__ | {"name"}


def test_the_page_on_one_value_names_what_is_there():
    named = re.findall(r"`([a-z_]+(?:/[a-z_]+)+\.py)` `(\w+)`", DOCS["one-value.md"])
    assert len(named) >= 12
    for module, name in named:
        text = (ROOT / "src" / "fairledger" / module).read_text(encoding="utf-8")
        assert re.search(rf"^(def|class) {name}\b", text, re.MULTILINE), f"{module}: {name}"


def test_pictures_and_pages_that_are_named_exist():
    for name, text in {"README.md": README, **{f"docs/{name}": text for name, text in DOCS.items()}}.items():
        for link in re.findall(r"\]\(([^)#]+)\)", text):
            assert (ROOT / name).parent.joinpath(link).exists(), f"{name}: {link}"
    assert len(list((ROOT / "docs" / "screenshots").iterdir())) < 20


def test_the_source_trees_page_knows_every_room_and_command():
    page = DOCS["source-tree.md"]
    for folder in (ROOT / "src" / "fairledger").iterdir():
        if folder.is_dir() and (folder / "__init__.py").exists():
            assert f"{folder.name}/" in page
    modules = {path.stem for path in (ROOT / "src/fairledger/cli/commands").glob("*.py")} - {"__init__"}
    assert modules == set(COMMANDS)


@pytest.mark.parametrize("path", sorted(examples_folder().glob("stations/*.toml")), ids=lambda path: path.stem)
def test_the_examples_have_no_error(path):
    findings = check_draft(path.read_text(encoding="utf-8"), path).findings
    assert [finding for finding in findings if finding.severity == "error"] == []


def test_sections_are_listed_once_and_in_the_order_in_which_setup_asks():
    assert len(set(SECTION_NAMES)) == len(SECTION_NAMES)
    for before, after in (
        ("locale", "licence"),
        ("licence", "disk"),
        ("disk", "volume"),
        ("identity", "account"),
        ("command", "finish"),
    ):
        assert SECTION_NAMES.index(before) < SECTION_NAMES.index(after)


def test_the_pages_of_the_sections_are_current_and_leave_no_field_out():
    sys.path.insert(0, str(ROOT / "tools"))
    import section_pages

    pages = section_pages.pages()
    whole = "".join(pages.values())
    for name, text in pages.items():
        assert (section_pages.PAGES / name).read_text(encoding="utf-8") == text, f"{name}: run make pages"
    for name in SECTION_NAMES:
        for path, *_ in section_pages._fields(name):
            last = path.rpartition(".")[2]
            assert f"| `{path.partition('.')[2]}` |" in pages[f"{name}.md"] or f".{last}` |" in whole, path


def test_the_reference_of_portable_fields_is_current_and_says_something_of_each():
    sys.path.insert(0, str(ROOT / "tools"))
    import portable_reference

    assert portable_reference.build() == portable_reference.INDEX.read_bytes(), "run make index"
    for field in reference().values():
        assert field.about, f"{field.path}: nobody says what it means"
        assert field.example, f"{field.path}: no example"


def test_every_example_of_a_help_is_a_line_that_the_program_takes():
    parser = full_parser()
    for name in COMMANDS:
        lines = [line for line in grammar.module(name).EXAMPLES if line.startswith("fairledger ")]
        assert grammar.module(name).EXAMPLES, name
        for line in lines:
            words = shlex.split(re.split(r"\s(?:<|>|\||#)\s?", line)[0])[1:]
            assert parser.parse_args(words).command == name, line


def test_help_shows_pages_and_commands_in_the_terminal(program):
    assert "account[observer].groups=Users" in program("help", "addresses").stdout
    assert program("help", "write").stdout == program("write", "--help").stdout
    listed = program("help").stdout
    for path in PAGES.glob("*.md"):
        assert f"  {path.stem} " in listed
    wrong = program("help", "adresses", status=2).stderr
    assert "did you mean addresses?" in wrong
