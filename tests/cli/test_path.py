"""The user's path, driven as the installed program in an empty folder."""

from __future__ import annotations

import json
import os
import stat
import sys

import pytest

from factories import DESK

PROFILES = ("locale/en-gb", "disk/uefi-one-disk", "account/first-admin", "bypass/older-hardware")
SECRET = "Dunlin-4-tarn"


@pytest.fixture
def desk(program):
    chosen = [part for name in PROFILES for part in ("--profile", name)]
    program("start", "desk.toml", "--target", DESK, "--edition", "Pro", *chosen)
    return program


def test_from_an_empty_folder_to_a_checked_answer_file(desk):
    done = desk(
        "set",
        "desk.toml",
        "TimeZone=UTC",
        "OOBE/HideEULAPage=true",
        "specialize:Microsoft-Windows-Shell-Setup/RegisteredOwner=Larkmoor",
    )
    assert "overrides what [locale] brought" in done.stdout
    shown = desk("show", "desk.toml").stdout
    assert "desk.toml:" in shown
    assert "(secret: env ADMIN_PASSWORD" in shown
    assert "not ready" not in desk("check", "desk.toml").stdout
    written = desk("write", "desk.toml", "--route", "stick", "--out", "out", ADMIN_PASSWORD=SECRET)
    assert "top folder of the stick" in written.stdout
    assert "protects nothing" in " ".join(written.stdout.split())
    path = desk.folder / "out" / "autounattend.xml"
    data = path.read_bytes()
    assert SECRET.encode() not in data
    if os.name == "posix":
        assert stat.S_IMODE(path.stat().st_mode) == 0o600
    assert "no errors" in desk("check", "out/autounattend.xml").stdout
    refused = desk("write", "desk.toml", "--route", "stick", "--out", "out", status=4, ADMIN_PASSWORD="other")
    assert "--replace" in refused.stderr
    assert path.read_bytes() == data
    desk("write", "desk.toml", "--route", "stick", "--out", "out", "--replace", ADMIN_PASSWORD=SECRET)
    assert path.read_bytes() == data, "the same draft gives the same bytes"
    for route, name, typed in (
        ("disc", "autounattend.xml", "nothing to type"),
        ("share", "unattend.xml", "setup.exe"),
        ("generalise", "unattend.xml", "sysprep.exe /generalize"),
        ("plain", "unattend.xml", "nothing"),
    ):
        told = desk("write", "desk.toml", "--route", route, "--out", f"out-{route}", ADMIN_PASSWORD=SECRET).stdout
        assert (desk.folder / f"out-{route}" / name).exists()
        assert typed in told
    assert "did you mean stick" in desk("write", "desk.toml", "--route", "stik", status=2).stderr


def test_a_secret_that_is_not_to_be_had_is_refused_and_never_shown(desk):
    done = desk("write", "--route", "plain", "desk.toml", status=4)
    assert "set the environment variable ADMIN_PASSWORD" in done.stderr
    assert not (desk.folder / "out").exists()
    desk("set", "desk.toml", f"account[keeper].password={SECRET}")
    for command in (
        ("show", "desk.toml"),
        ("show", "desk.toml", "--format", "json"),
        ("check", "desk.toml"),
        ("check", "desk.toml", "--format", "json"),
        ("write", "--route", "plain", "desk.toml", "--out", "o"),
    ):
        done = desk(*command)
        assert SECRET not in done.stdout + done.stderr, command
    assert "secret-in-draft" in desk("check", "desk.toml").stdout


def test_set_refuses_everything_or_nothing(desk):
    before = (desk.folder / "desk.toml").read_bytes()
    for bad, told in (
        ("OOBE/HideEULAPage=yes", "allowed are true, false"),
        ("windowsPE:TimeZone=UTC", "it may stand in"),
        ("TimeZon=UTC", "did you mean TimeZone"),
        ("UILanguage=en-GB", "windowsPE:Microsoft-Windows-International-Core-WinPE/SetupUILanguage/UILanguage"),
        ("disk.fate=erase", "wipe"),
        ("nonsense", "ADDRESS=VALUE"),
    ):
        done = desk("set", "desk.toml", "RegisteredOwner=Larkmoor", bad, status=2)
        assert told in done.stderr
        assert (desk.folder / "desk.toml").read_bytes() == before
    desk("set", "desk.toml", "RegisteredOwner=Larkmoor", "identity.name=LMR-${n}")
    assert "is not filled" in desk("write", "--route", "plain", "desk.toml", status=1, ADMIN_PASSWORD="x").stdout
    assert (
        "asks for the value m"
        in desk("write", "--route", "plain", "desk.toml", "--fill", "m=1", status=1, ADMIN_PASSWORD="x").stdout
    )
    done = desk(
        "write", "--route", "plain", "desk.toml", "--fill", "n=too-long-for-a-name", status=1, ADMIN_PASSWORD="x"
    )
    assert "at most 15" in " ".join(done.stdout.split())
    desk("write", "--route", "plain", "desk.toml", "--fill", "n=7", ADMIN_PASSWORD="x")
    desk("unset", "desk.toml", "RegisteredOwner", "identity.name")
    assert (desk.folder / "desk.toml").read_bytes() == before
    assert "locale/en-gb.toml" in desk("unset", "desk.toml", "TimeZone", status=2).stderr


def test_values_cannot_break_out_of_a_command(desk):
    desk("set", "desk.toml", "account[${who}].expires=2027-06-30")
    name = "o'h\"; Stop-Computer; '"
    done = desk("write", "--route", "plain", "desk.toml", "--fill", f"who={name}", status=1, ADMIN_PASSWORD="x")
    assert "the account name" in done.stdout
    desk("write", "--route", "plain", "desk.toml", "--fill", "who=o'h", ADMIN_PASSWORD="x")
    assert "-Name 'o''h' -AccountExpires" in (desk.folder / "out" / "unattend.xml").read_text()


def test_json_goes_to_standard_output_alone(desk):
    for command in (
        ("targets",),
        ("about", DESK, "TimeZone"),
        ("show", "desk.toml"),
        ("check", "desk.toml"),
        ("set", "desk.toml", "TimeZone=UTC"),
        ("unset", "desk.toml", "TimeZone"),
        ("write", "--route", "plain", "desk.toml"),
    ):
        done = desk(*command, "--format", "json", ADMIN_PASSWORD="x")
        assert isinstance(json.loads(done.stdout), dict)
        assert done.stderr == ""
    value = json.loads(desk("check", "desk.toml", "--format", "json", "--fail-on", "advice", status=1).stdout)
    assert value["files"][0]["target"] == DESK
    assert value["advice"] == 1


def test_about_explains_settings_components_and_passes(program):
    told = program("about", DESK, "TimeZone").stdout
    for part in ("installer's own name", "specialize (usual)", 'fairledger set FILE TimeZone="GMT Standard Time"'):
        assert part in told
    assert "3 settings are called that" in program("about", DESK, "UILanguage").stdout
    assert "WillWipeDisk" in program("about", DESK, "Microsoft-Windows-Setup").stdout
    assert "before any account exists" in program("about", DESK, "specialize").stdout
    assert "did you mean TimeZone" in program("about", DESK, "TimeZon", status=2).stderr
    assert "did you mean windows-11-24h2" in program("about", "windows-11-24h1", "TimeZone", status=2).stderr


def test_start_refuses_what_does_not_exist(program):
    for arguments, told in (
        (("--target", "windows-12"), "there is no target"),
        (("--target", DESK, "--edition", "Prof"), "did you mean Pro"),
        (("--target", DESK, "--profile", "locale/en-bg"), "did you mean locale/en-gb"),
        (("--target", DESK, "--profile", "../../etc/passwd"), "a profile is named kind/title"),
        (("--target", DESK, "--arch", "x86"), "known are amd64, arm64"),
    ):
        assert told in program("start", "desk.toml", *arguments, status=2).stderr
        assert not (program.folder / "desk.toml").exists()
    program("start", "desk.toml", "--target", DESK)
    assert "--replace" in program("start", "desk.toml", "--target", DESK, status=4).stderr


@pytest.mark.parametrize("width", [100, 160])
def test_the_demo_plays_and_leaves_its_files(program, width):
    done = program("demo", "--out", "played", COLUMNS=str(width))
    assert "a disk" not in done.stderr
    assert max(len(line) for line in done.stdout.splitlines() if not line.startswith("$")) <= width + 60
    assert (program.folder / "played" / "stations" / "out" / "autounattend.xml").exists()
    assert "Dunlin" not in done.stdout + done.stderr
    assert "exists already" in program("demo", "--out", "played", status=4).stderr


BAD = {
    "missing": (None, 3, "no such file"),
    "folder": ("folder", 3, "no answer file"),
    "not utf-8": (b"<unattend>\xff\xfe\xfd", 3, "not UTF-8"),
    "deep": (b"<a>" * 5000, 3, "deeper than 200"),
    "empty": (b"", 1, "empty"),
    "entities": (b"<!DOCTYPE a [<!ENTITY b 'c'>]><a>&b;</a>", 1, "document type is refused"),
    "broken": (b"<a><b></a>", 1, "<b> was opened in line 1"),
    "junk": (bytes(range(128, 256)) * 9, 3, "not UTF-8"),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_answer_files_get_one_clear_line(program, name):
    content, status, told = BAD[name]
    if content == "folder":
        (program.folder / "bad.xml").mkdir()
    elif content is not None:
        program.file("bad.xml", content)
    done = program("check", "bad.xml", status=status)
    assert told in done.stdout + done.stderr
    assert len(done.stderr.splitlines()) == (1 if status == 3 else 0)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("format = 1\n[draft\n", "desk.toml:2: the TOML text is malformed"),
        (
            'format = 1\n[draft]\ntarget = "windows-11-24h2"\n[locale]\nlanguag = "x"\n',
            "desk.toml:5: locale has no field",
        ),
        ('format = 1\n[draft]\ntarget = "windows-11-24h2"\nprofiles = ["../x"]\n', "desk.toml:4: there is no profile"),
        ("format = 1\n[profile]\n", "a profile, not a draft"),
    ],
)
def test_bad_drafts_are_told_by_line_and_stay_untouched(program, text, told):
    path = program.file("desk.toml", text)
    status = 2 if "[profile]" in text else 1
    for command in (("show",), ("write",)):
        assert told in program(*command, "desk.toml", status=status).stderr
    assert path.read_text() == text


def test_a_file_over_the_limit_is_refused_unread(program):
    path = program.folder / "large.xml"
    with path.open("wb") as file:
        file.truncate(64 * 1024 * 1024 + 1)
    assert "larger than 64 MiB" in program("check", "large.xml", status=3).stderr


def test_one_bad_file_does_not_hide_the_others(program):
    program.file("a.xml", "<a><b></a>")
    done = program("check", "missing.xml", "a.xml", status=3)
    assert "missing.xml" in done.stderr
    assert "a.xml" in done.stdout


def typed_at_a_terminal(desk, *answers: str, ends: str = ""):
    """Writes the desk's file at a terminal, where each question for the password gets the next answer."""
    import pexpect

    arguments = ["-m", "fairledger", "write", "--route", "plain", "desk.toml"]
    child = pexpect.spawn(sys.executable, arguments, cwd=desk.folder, env=desk.environment, encoding="utf-8")
    for answer in answers:
        child.expect("the password of keeper.*: ")
        child.sendline(answer)
    if ends:
        child.expect(ends)
    child.expect(pexpect.EOF)
    child.close()
    return child


@pytest.mark.skipif(sys.platform == "win32", reason="needs a pseudo-terminal")
def test_a_question_at_the_terminal_is_asked_twice_and_shows_no_echo(desk):
    child = typed_at_a_terminal(desk, SECRET, SECRET)
    assert child.exitstatus == 0
    assert SECRET not in child.before


@pytest.mark.skipif(sys.platform == "win32", reason="needs a pseudo-terminal")
def test_a_password_that_is_typed_in_two_ways_is_refused(desk):
    told = "the two answers for the password of keeper differ"
    assert typed_at_a_terminal(desk, SECRET, SECRET + "x", ends=told).exitstatus == 4


def test_a_mistake_of_the_program_is_one_sentence_without_values(monkeypatch, capsys, tmp_path):
    from fairledger.cli import main
    from fairledger.cli.commands import targets

    def broken(_options, _console):
        raise RuntimeError(SECRET)

    monkeypatch.setattr(targets, "run", broken)
    monkeypatch.setenv("TMPDIR", str(tmp_path))
    assert main.main(["targets"]) == 5
    told = capsys.readouterr().err
    assert told.startswith("fairledger: a mistake of the program itself (RuntimeError); details are in ")
    assert SECRET not in told + "".join(path.read_text() for path in tmp_path.glob("fairledger-*"))
    monkeypatch.setattr(targets, "run", lambda _options, _console: (_ for _ in ()).throw(KeyboardInterrupt))
    assert main.main(["targets"]) == 130
