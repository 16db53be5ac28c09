"""An easier day at the terminal: help, completion, manual pages, and what is said of a wrong line."""

from __future__ import annotations

import json
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from factories import DESK


@pytest.mark.parametrize(
    ("line", "told", "usage"),
    [
        ("write a.toml --outt x", "did you mean --out?", "fairledger write"),
        ("rule x --variant y", "--variant is no option of fairledger rule, but of fairledger ", "fairledger rule"),
        ("profile list --fill a=b", "--fill is no option of fairledger profile list", "fairledger profile list"),
        ("chek a.toml", "'chek' is no command; did you mean check?", "fairledger"),
        ("profile lst", "'lst' is no action; did you mean list?", "fairledger profile"),
        ("find windows-11", "WORD is missing", "fairledger find"),
        ("check a.toml --format xml", "'xml' is no --format; known are text, json", "fairledger check"),
    ],
)
def test_a_wrong_line_has_the_nearest_word_and_the_commands_own_usage(program, line, told, usage):
    done = program(*line.split(), status=2)
    first, second, *_ = done.stderr.splitlines()
    assert told in first
    assert second.startswith(f"usage: {usage} ")
    assert done.stdout == ""


@pytest.mark.parametrize(
    ("line", "status", "told"),
    [
        ("find windws-11 key", 2, "there is no target 'windws-11'"),
        ("check gone.toml", 3, "there is no such file"),
        ("start a.toml --target windows-11", 4, "the file exists already"),
        ("show broken.toml", 1, "there is no section 'lokale'"),
        ("show a.toml --nothing", 2, "there is no option --nothing"),
    ],
)
def test_what_fails_is_told_to_machines_in_one_shape(program, line, status, told):
    program.file("a.toml", f'format = 1\n[draft]\ntarget = "{DESK}"\n')
    program.file("broken.toml", f'format = 1\n[draft]\ntarget = "{DESK}"\n[lokale]\nlanguage = "en-GB"\n')
    done = program(*line.split(), "--format", "json", status=status)
    failed = json.loads(done.stdout)
    assert (failed["command"], failed["status"]) == (line.split()[0], status)
    (row,) = failed["failed"]
    assert told in row["message"]
    assert set(row) == {"message", "file", "line", "remedy", "rule", "choices"}
    assert told in done.stderr


def completed(program, line: str) -> list[str]:
    """What a shell that asks as bash does is offered."""
    target = program.folder / "offered"
    asked = {"_ARGCOMPLETE": "1", "_ARGCOMPLETE_IFS": "\n", "_ARGCOMPLETE_STDOUT_FILENAME": str(target)}
    asked |= {"COMP_LINE": line, "COMP_POINT": str(len(line)), "COMP_TYPE": "9"}
    command = [sys.executable, "-m", "fairledger"]
    subprocess.run(command, cwd=program.folder, env={**program.environment, **asked}, check=True, timeout=60)
    return [one.strip() for one in target.read_text().split("\n")]


@pytest.mark.parametrize(
    ("typed", "offered"),
    [
        ("find windows-server-202", {"windows-server-2022", "windows-server-2025"}),
        ("profile add a.toml bypass/old", {"bypass/older-hardware"}),
        ("profile add a.toml disk/o", {"disk/own"}),
        ("rule disk-wip", {"disk-wiped", "disk-wiped-and-empty"}),
        ("set a.toml bypass.net", {"bypass.network="}),
        ("set a.toml OOBE/HideEU", {"OOBE/HideEULAPage="}),
        ("help addr", {"addresses"}),
        ("write a.toml --rou", {"--route"}),
    ],
)
def test_a_shell_is_offered_what_may_come_next(program, typed, offered):
    program.file("a.toml", f'format = 1\n[draft]\ntarget = "{DESK}"\n')
    program.file("profiles/disk/own.toml", 'format = 1\n[profile]\ntitle = "Own"\n')
    assert set(completed(program, f"fairledger {typed}")) == offered


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish", "powershell"])
def test_each_shell_gets_what_it_reads(program, shell):
    text = program("completion", shell).stdout
    assert "fairledger" in text
    if shell == "bash":
        subprocess.run(["bash", "-n"], input=text, text=True, check=True)


def test_the_manual_has_a_page_for_each_command():
    sys.path.insert(0, str(Path(__file__).parents[2] / "tools"))
    from manual_pages import pages

    made = pages()
    assert {"fairledger.1", "fairledger-check.1", "fairledger-completion.1"} <= set(made)
    assert made == pages()
    for name, text in made.items():
        assert text.startswith((".TH FAIRLEDGER ", '.TH "FAIRLEDGER\\-')), name
        assert ".SH EXAMPLES" in text
    if shutil.which("groff"):
        page = subprocess.run(
            ["groff", "-man", "-Tutf8", "-ww"],
            input=made["fairledger-set.1"],
            text=True,
            capture_output=True,
            check=True,
        )
        assert page.stderr == ""
        assert "LMR-DESK-01" in page.stdout


def test_the_version_tells_the_catalogs_day(program):
    assert program("--version").stdout.startswith("fairledger 0.")
    assert "catalog of 20" in program("--version").stdout


def test_show_and_write_say_what_to_use_for_an_answer_file(program):
    program.file("a.xml", '<unattend xmlns="urn:schemas-microsoft-com:unattend"/>')
    for command in ("show", "write"):
        told = program(command, "a.xml", status=2).stderr
        assert "explain" in told
        assert "adopt" in told


def test_tables_break_no_word_in_eighty_columns(program):
    words = {"windows-11-25h2", "Europe/Budapest", "aarch64", "supported", "windows-server-2012-r2"}
    lines = ["targets --all", "values time-zone gmt+1", "find windows-11 time zone", "about el9 network", "rule disks"]
    whole = " ".join(program(*line.split(), COLUMNS="80").stdout for line in lines)
    assert words <= set(whole.replace(",", " ").split())
    for line in lines:
        for row in program(*line.split(), COLUMNS="80").stdout.splitlines():
            assert len(row.rstrip()) <= 80 or " " not in row.strip(), row


def test_paths_are_told_as_the_system_writes_them(program):
    """A folder with a blank and letters of another alphabet."""
    name = str(Path("Stationen Süd") / "pult.toml")
    program.file(name, f'format = 1\n[draft]\ntarget = "{DESK}"\n')
    assert program("check", name).stdout.startswith(name)


def test_a_page_is_found_by_its_words_and_an_action_by_its_command(program):
    assert "refused for safety" in program("help", "exit", "statuses").stdout
    assert program("help", "profile", "add").stdout == program("profile", "add", "--help").stdout


def test_a_draft_for_another_release_names_that_releases_schema(program):
    program("start", "a.toml", "--target", "windows-11")
    program("set", "a.toml", "draft.target=windows-11-24h2")
    program("carry", "a.toml", "--to", "windows-server-2025", "--out", "b.toml")
    heads = [(program.folder / name).read_text().splitlines()[0] for name in ("a.toml", "b.toml")]
    assert heads == ["#:schema ./windows-11-24h2.schema.json", "#:schema ./windows-server-2025.schema.json"]


def test_a_variant_is_set_and_taken_back_at_the_terminal(program):
    program("start", "a.toml", "--target", "windows-11", "--profile", "disk/uefi-one-disk")
    before = (program.folder / "a.toml").read_text()
    program("set", "a.toml", "--variant", "ask", "disk.fate=ask", "draft.firmware=bios")
    asked = program.json("show", "a.toml", "--variant", "ask")["answers"]
    assert not any(one["setting"].endswith("WillWipeDisk") for one in asked)
    assert any(one["setting"].endswith("WillWipeDisk") for one in program.json("show", "a.toml")["answers"])
    assert (program.folder / "a.toml").read_text().startswith(before.rstrip())
    program("unset", "a.toml", "--variant", "ask", "draft.firmware")
    assert 'firmware = "bios"' not in (program.folder / "a.toml").read_text()
    assert "cannot name a variant" in program("set", "a.toml", "--variant", "A B", "disk.fate=ask", status=2).stderr
    assert "has no variant" in program("unset", "a.toml", "--variant", "asq", "disk.fate", status=2).stderr


def test_pages_fit_a_narrow_terminal(program):
    """Lines to be typed are not folded there."""
    for path in (Path(__file__).parents[2] / "src/fairledger/cli/pages").glob("*.md"):
        lines = [line for line in path.read_text(encoding="utf-8").splitlines() if line.startswith("    ")]
        assert [line for line in lines if len(line) > 80] == [], path.stem
        shown = program("help", path.stem, COLUMNS="80").stdout
        assert all(line.strip() in shown for line in lines), path.stem
