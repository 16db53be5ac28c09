"""Promises about the source tree: import directions, a silent core, sizes, a light start."""

from __future__ import annotations

import ast
import re
import subprocess
import sys
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

import fairledger
from fairledger.catalog.targets import all_targets

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
            assert parts[2] in ("build", "casting", "interface", "registry"), f"{room} knows the family {name}"
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
