"""Promises about the source tree: import directions, a silent core, sizes, a light start."""

from __future__ import annotations

import ast
import re
import subprocess
import sys
import tomllib
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

import fairledger
from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.passes import pass_names
from fairledger.catalog.questions import all_pages, terms_of
from fairledger.catalog.targets import all_targets
from fairledger.families.registry import FAMILIES
from fairledger.intent.fields import fields_of
from fairledger.intent.sections import sections
from fairledger.intent.walk import fields_below

ROOT = Path(fairledger.__file__).parent
ROOMS = (
    "model", "storage", "catalog", "media", "intent", "profiles", "families", "subject", "events", "checks", "authoring",
    "exchange", "delivery", "fleet", "rehearsal", "ledger", "cli",
)  # fmt: skip
"""Each may import itself and those before it; some are still to come."""
MODULES = sorted(ROOT.rglob("*.py"))


def room_of(path: Path) -> str:
    parts = path.relative_to(ROOT).parts
    if parts[0] == "families" and path.stem == "rules":
        return "checks"  # a family's rules of pure syntax
    return parts[0] if len(parts) > 1 else ""


def imports_of(tree: ast.AST) -> list[str]:
    found = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            found += [one.name for one in node.names]
        elif isinstance(node, ast.ImportFrom) and node.module:
            found += [node.module, *(f"{node.module}.{one.name}" for one in node.names)]
    return found


@pytest.mark.parametrize("path", MODULES, ids=lambda path: path.relative_to(ROOT).as_posix())
def test_module_keeps_the_rules_of_its_room(path):
    room = room_of(path)
    tree = ast.parse(path.read_text(encoding="utf-8"))
    for name in imports_of(tree):
        parts = name.split(".")
        if parts[0] == "fairledger" and len(parts) > 1 and parts[1] in ROOMS and room:
            assert ROOMS.index(parts[1]) <= ROOMS.index(room), f"{room} imports {name}"
        own = path.relative_to(ROOT).parts[:2]
        assert parts[1:2] != ["families"] or parts[-1] != "rules", "nothing imports a family's rules: they are found"
        if parts[:2] == ["fairledger", "families"] and len(parts) > 2 and own[0] != "families":
            assert parts[2] in ("build", "casting", "interface", "reference", "registry", "stamps"), (
                f"{room} knows the family {name}"
            )
        if room not in ("cli", ""):
            assert parts[0] not in ("argparse", "rich"), f"the core imports {name}"
    if room not in ("cli", ""):
        calls = [node.func for node in ast.walk(tree) if isinstance(node, ast.Call)]
        named = {one.id for one in calls if isinstance(one, ast.Name)}
        assert not named & {"print", "exit"}
        assert not any(isinstance(one, ast.Attribute) and ast.unparse(one) == "sys.exit" for one in calls)
    if room not in ("catalog", "families"):
        texts = [
            node.value for node in ast.walk(tree) if isinstance(node, ast.Constant) and isinstance(node.value, str)
        ]
        for target in all_targets():
            plain = [
                text for text in texts if re.search(rf"\b{re.escape(target.id)}\b", text) and "[draft]" not in text
            ]
            assert not plain, f"a release is named: {plain}"


def test_modules_import_each_other_in_no_circle():
    names = {".".join(("fairledger", *path.relative_to(ROOT).with_suffix("").parts)): path for path in MODULES}
    graph = {name: set(imports_of(ast.parse(path.read_text("utf-8")))) & set(names) for name, path in names.items()}
    TopologicalSorter(graph).prepare()  # for types alone, too: such a circle cannot be read from its beginning


@pytest.mark.parametrize("path", MODULES, ids=lambda path: path.relative_to(ROOT).as_posix())
def test_sizes_stay_in_mind(path):
    text = path.read_text(encoding="utf-8")
    assert len(text.splitlines()) <= 400
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.FunctionDef):
            assert node.end_lineno - node.lineno < 50, node.name


LOOKS = {"is_file", "is_dir", "exists", "glob", "rglob", "iterdir", "resolve", "stat", "listdir", "scandir"}


@pytest.mark.parametrize("path", MODULES, ids=lambda path: path.relative_to(ROOT).as_posix())
def test_only_the_storage_room_looks_what_is_there(path):
    """A folder without rights, a name too long and a link to itself are met in one place."""
    calls = [node.func for node in ast.walk(ast.parse(path.read_text("utf-8"))) if isinstance(node, ast.Call)]
    looks = {one.attr for one in calls if isinstance(one, ast.Attribute)} & LOOKS
    assert room_of(path) == "storage" or not looks


def test_help_loads_next_to_nothing():
    code = (
        "import sys; from fairledger.cli import main\n"
        "try: main.main(['--help'])\nexcept SystemExit: pass\n"
        "print(len(sys.modules), [name for name in ('msgspec', 'lxml', 'rich', 'tomlkit') if name in sys.modules])"
    )
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    number, heavy = told.splitlines()[-1].split(" ", 1)
    assert heavy == "[]"
    assert int(number) < 130


def names_of_catalogs() -> set[str]:
    """What only a family's catalog calls so: the fields, choices and sections of drafts are everybody's."""
    names: set[str] = set()
    for family in FAMILIES:
        names |= {*pass_names(family)}
        for component in catalog_of(family, None).components():
            names |= {
                component.name,
                *(one.path for one in component.settings),
                *(one.name for one in component.settings),
            }
    names -= {"profile"}  # a kind of file of our own
    for section in sections():
        names -= {section.name}
        for field in fields_below(section.table, section.name):
            names -= {*field.names, *fields_of(field.table)[field.names[-1]].choices}
    return names


def spoken(tree: ast.Module) -> list[str]:
    """The texts of a module but for its documentation and the examples and words of its rules."""
    kept = ("fires", "silent", "says", "source", "given")
    told = [node.value for node in ast.walk(tree) if isinstance(node, ast.keyword) and node.arg in kept]
    told += [node for node in ast.walk(tree) if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)]
    silent = {id(inner) for one in told for inner in ast.walk(one)}
    used = {node.id for node in ast.walk(tree) if isinstance(node, ast.Name) and id(node) not in silent and
            isinstance(node.ctx, ast.Load)}  # fmt: skip
    for node in tree.body:
        # a text that only examples are made of
        if isinstance(node, ast.Assign) and not {one.id for one in node.targets if isinstance(one, ast.Name)} & used:
            silent |= {id(inner) for inner in ast.walk(node)}
    texts = [node for node in ast.walk(tree) if isinstance(node, ast.Constant) and id(node) not in silent]
    return [node.value for node in texts if isinstance(node.value, str)]


def test_no_rule_and_no_story_names_a_setting_of_one_family():
    names = names_of_catalogs()
    tails = {path[at:] for path in names for at in range(len(path)) if at and path[at - 1] == "/" and "/" in path[at:]}
    found = []
    for room in ("checks", "exchange", "events", "delivery", "authoring"):
        for path in sorted((ROOT / room).rglob("*.py")):
            for text in spoken(ast.parse(path.read_text(encoding="utf-8"))):
                option = re.fullmatch(r"--[a-z-]+=?|%[a-z]{3,}", text)
                if text in names or text in tails or option or "Microsoft-" in text:
                    found.append(f"{path.name}: {text}")
    assert not found


def test_values_are_seen_through_seats_which_note_who_sees_an_open_one():
    past = re.compile(r"\.node\.(?:value|text|get|children)\b|\.block\.children|\.seats\.sheet\b")
    for path in MODULES:
        if room_of(path) == "checks" or path.parent.parent.name == "families":
            lines = path.read_text(encoding="utf-8").split("\n")
            assert not [line for line in lines if past.search(line)], path


def test_every_trait_is_in_the_table_used_and_asked_for():
    table = tomllib.loads((ROOT / "catalog" / "data" / "traits.toml").read_text(encoding="utf-8"))
    known = [component for family in FAMILIES for component in catalog_of(family, None).components()]
    used = {
        "settings": {trait for component in known for one in component.settings for trait in one.traits},
        "values": {trait for component in known for one in component.settings for trait in one.says.values()},
        "components": {trait for component in known for trait in component.traits},
    }
    assert {kind: set(traits) for kind, traits in table.items()} == used
    texts = {text for path in MODULES for text in spoken(ast.parse(path.read_text(encoding="utf-8")))}
    texts |= {
        term.trait
        for page in all_pages()
        for one in (*page.answered, *page.hidden, *page.doubtful, *page.needs, *page.again)
        for term in terms_of(one, "kickstart")
    }
    assert not {trait for traits in table.values() for trait in traits} - texts
