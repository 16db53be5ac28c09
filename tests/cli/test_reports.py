"""What people read: order, width, places, and what is kept out."""

from __future__ import annotations

import json

import pytest

from factories import DESK, whole
from fairledger.checks.engine import told_once
from fairledger.model.finding import Finding, Severity

HEAD = f'format = 1\n[draft]\ntarget = "{DESK}"\nfirmware = "uefi"\n'
MIXED = HEAD + (
    '[image]\nedition = "Pro"\n'
    '[locale]\nlanguage = "en-UK"\n[licence]\naccept = true\n[account]\nlocal = [{ name = "observer" }]\n'
    '[account.sign_in]\naccount = "observer"\n[disk]\nfate = "wipe"\n'
    'partition = [{ role = "firmware", size = "300 MiB" }, { role = "reserved", size = "16 MiB" }, { role = "system", size = "rest" }]\n'
)


def test_findings_come_worst_first_with_line_remedy_and_verdict(program):
    program.file("desk.toml", MIXED)
    lines = program("check", "desk.toml", status=1).stdout.splitlines()
    heads = [line.split()[0] for line in lines[3:-2] if line.startswith("  ") and line[2:3].isalpha()]
    assert heads == ["error", "warning", "advice", *["open"] * 5]
    assert lines[0] == "desk.toml  Windows 11, version 24H2"
    told = (
        "1 error, 1 warning, 1 piece of advice: not ready for use; leaves 5 questions open, and nobody knows of 1 more"
    )
    assert " ".join("\n".join(lines[-2:]).split()) == " ".join("\n".join(lines[1:3]).split()) == told
    assert all(lines[at - 1] == "" for at, line in enumerate(lines) if line.startswith(("  error", "  warning")))
    assert '        8 | language = "en-UK"' in lines
    assert any(line.strip().startswith("-> did you mean") for line in lines)
    assert any(line.endswith("[language-unknown]") for line in lines)


def test_a_mistake_is_told_once_and_a_milder_word_takes_no_error_away(program):
    program.file("desk.toml", MIXED.replace('"en-UK"', '"en-GB"\nkeyboards = ["swiss"]'))
    (told,) = json.loads(program("check", "desk.toml", "--format", "json", status=1).stdout)["files"]
    assert [one["rule"] for one in told["findings"] if one["rule"] in ("keyboard-unknown", "value-wrong")] == [
        "keyboard-unknown"
    ]
    mild = Finding("keyboard-unknown", Severity.WARNING, "odd", file="a", line=1, column=1)
    wrong = Finding("value-wrong", Severity.ERROR, "bad", file="a", line=1, column=1)
    assert told_once((mild, wrong)) == (wrong, mild)


@pytest.mark.parametrize(("limit", "status"), [("error", 1), ("warning", 1), ("advice", 1)])
def test_the_caller_decides_which_severity_fails(program, limit, status):
    program.file("desk.toml", MIXED)
    program("check", "desk.toml", "--fail-on", limit, status=status)
    program.file("good.toml", MIXED.replace("en-UK", "en-GB").replace("count = 1", ""))
    program("check", "good.toml", "--fail-on", limit, status=0 if limit == "error" else 1)


@pytest.mark.parametrize("width", [60, 100, 160])
def test_lines_keep_to_the_width(program, width):
    program.file("desk.toml", MIXED)
    for command in (("show", "desk.toml"), ("targets",), ("about", DESK, "Microsoft-Windows-Shell-Setup")):
        for line in program(*command, COLUMNS=str(width)).stdout.splitlines():
            assert len(line) <= max(width, 100), line


def test_show_says_what_an_answer_overrode(program):
    program.file("profiles/locale/site.toml", 'format = 1\n[profile]\n[locale]\ntime_zone = "Europe/Lisbon"\n')
    text = whole('[locale]\nregion = "PT"\n').replace("firmware", 'profiles = ["locale/site"]\nfirmware')
    program.file("desk.toml", text + '[answers.specialize.Microsoft-Windows-Shell-Setup]\nTimeZone = "UTC"\n')
    assert "desk.toml:9 over locale/site:4" in program("show", "desk.toml", "--origin").stdout
    assert "over" not in program("show", "desk.toml").stdout
    value = json.loads(program("show", "desk.toml", "--format", "json").stdout)
    zone = next(one for one in value["answers"] if one["setting"] == "TimeZone")
    assert (zone["pass"], zone["value"], zone["line"]) == ("specialize", "UTC", 9)
    assert zone["overrode"][0].endswith("site.toml:4")


def test_profiles_are_checked_by_themselves(program):
    program.file("p.toml", 'format = 1\n[profile]\ntitle = "x"\n[disk]\nfate = "erase"\n')
    done = program("check", "p.toml", status=1)
    assert "a profile" in done.stdout
    assert "line 5: disk" in done.stdout
    program.file("p.toml", 'format = 1\n[profile]\ntitle = "x"\n[disk]\nfate = "wipe"\n')
    assert "nothing found" in program("check", "p.toml").stdout


def test_strange_names_are_shown_escaped(program):
    program.file("desk.toml", HEAD + '[identity]\nname = "LMR\u202e-01"\n')
    done = program("check", "desk.toml", status=1)
    assert "\\u202e" in done.stdout
    assert "\u202e" not in done.stdout


def test_the_program_explains_itself(program):
    told = program("--help").stdout
    for command in ("targets", "about", "start", "set", "show", "check", "write", "secret", "export", "demo"):
        assert f"  {command} " in told
        assert program(command, "--help").stdout.startswith("usage: fairledger " + command)
    assert program("--version").stdout.startswith("fairledger ")
    assert "did you mean check?" in program("chek", status=2).stderr
    assert "usage" in program(status=2).stdout
