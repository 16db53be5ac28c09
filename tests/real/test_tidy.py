"""Choices as Windows would carry them out: wine runs their lines in order, and its registry is read back, then undone.

What wine lacks is replaced by recorders; loading a hive fails there, so that its place is made before.
"""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import pytest
from msgspec.structs import replace
from tests.real.test_wine import System, pytestmark  # noqa: F401 - the same condition

from factories import DESK, draft
from fairledger.catalog.seats import Seat
from fairledger.catalog.tidy import ANY, HIVES, Effect, choices_of
from fairledger.families.windows.effect_lines import ROOTS

EXAMPLES = Path(__file__).parents[2] / "docs/profiles/examples"
SECTIONS = ("privacy", "desktop", "power", "protection", "updates", "remote", "input")
LACKING = ("sc", "schtasks", "powercfg", "netsh", "powershell", "dism")
NASTY = 'It\'s "100% %PATH%" & <calm> | ^up^ !now! (é) \\"x\\" \\'
RECORDER = '#!/bin/sh\nprintf \'%s\\n\' "$(basename "$0") $*" >> "$(dirname "$0")/../../../calls.txt"\n'
BRANCHES = (r"HKLM\SOFTWARE", r"HKLM\SYSTEM", "HKCU", r"HKU\fair-ledger", r"HKU\.DEFAULT")
Values = dict[tuple[str, str], str]


@pytest.fixture(scope="module")
def system(tmp_path_factory):
    made = System(tmp_path_factory.mktemp("tidy"))
    for name in LACKING:
        for folder in ("system32", "system32/WindowsPowerShell/v1.0"):
            path = made.drive / f"windows/{folder}/{name}.exe"
            if path.parent.is_dir() and (path.exists() or folder == "system32"):
                path.unlink(missing_ok=True)
                path.write_text(
                    RECORDER.replace("../../../", "../../../" if folder == "system32" else "../../../../../")
                )
                path.chmod(0o755)
    # a hive of its own is not kept when the last program ends: one that waits keeps it
    null = subprocess.DEVNULL
    waits = subprocess.Popen(["wine", "cmd"], env=made.env, stdin=subprocess.PIPE, stdout=null, stderr=null)
    # what the first program starts holds its output open: it must not be one that is read
    subprocess.run(["wine", "cmd", "/c", "exit"], env=made.env, stdout=null, stderr=null, check=False, timeout=100)
    made.run("reg", "add", r"HKU\fair-ledger\Software", "/f")
    made.run(
        "reg",
        "add",
        r"HKLM\SYSTEM\CurrentControlSet\Services\Larkmoor Wind",
        "/v",
        "Start",
        "/t",
        "REG_DWORD",
        "/d",
        "3",
        "/f",
    )
    yield made
    waits.communicate(b"exit\r\n", timeout=60)


def registry(system) -> Values:
    """Every value, in the words of wine's own export: key and name in small letters."""
    found: Values = {}
    for at, branch in enumerate(BRANCHES):
        system.run("reg", "export", branch, rf"C:\{at}.reg", "/y")
        text = (system.drive / f"{at}.reg").read_text("utf-16").replace("\\\r\n  ", "").replace("\\\n  ", "")
        key = ""
        for line in text.splitlines():
            if line.startswith("["):
                key = line[1:-1].lower()
            match = re.fullmatch(r'(@|"(?:[^"\\]|\\.)*")=(.*)', line, re.DOTALL)
            if match and "wow6432node" not in key:  # the same once more, as 32-bit programs see it
                name = "" if match[1] == "@" else match[1][1:-1].replace('\\"', '"').replace("\\\\", "\\")
                found[key, name.lower()] = match[2]
    return found


LONG = {"HKLM": "hkey_local_machine", "HKCU": "hkey_current_user", "HKU": "hkey_users"}


def seat_of(effect) -> tuple[str, str]:
    top, _, rest = rf"{ROOTS[effect.hive]}\{effect.key}".lower().partition("\\")
    return f"{LONG[top.upper()]}\\{rest}", effect.name.lower()


def as_exported(effect) -> str:
    if effect.type == "dword":
        return f"dword:{effect.data:08x}"
    if effect.type == "binary":
        return "hex:" + ",".join(re.findall("..", effect.data))
    return '"' + str(effect.data).replace("\\", "\\\\").replace('"', '\\"') + '"'


def run_as_setup_does(system, seats: list[Seat]) -> None:
    """Every line in order, each handed to one shell, as ``cmd.exe /c`` takes it from setup."""
    inner = []
    for seat in seats:
        line = str(seat.value)
        match = re.fullmatch(r'cmd\.exe /c "(.*)"', line)
        assert match, line
        inner.append(match[1])
    path = system.drive / "lines.txt"
    path.write_bytes("\r\n".join((*inner, "exit", "")).encode("cp437"))  # as a prompt has it
    with path.open("rb") as lines:
        subprocess.run(["wine", "cmd"], env=system.env, stdin=lines, capture_output=True, check=False, timeout=500)


def test_the_machine_has_what_is_shown_and_is_as_before_once_it_is_taken_back(system):
    text = "".join((EXAMPLES / f"{name}.toml").read_text() for name in SECTIONS)
    text = re.sub(r'notice_text = ".*"', f"notice_text = '''{NASTY}'''", text)
    fragment = f'[draft]\ntarget = "{DESK}"\n{text}[services]\nmanual = ["Larkmoor Wind"]\n[apps]\nremove = ["news"]\n'
    subject = draft(fragment)
    intent = subject.draft.intent
    chosen = subject.family.chosen(intent, subject.target, subject.facts)
    before = registry(system)
    commands = [one for one in subject.seats if one.setting is not None and one.setting.kind == "command"]
    assert len(commands) > 120
    for one in subject.sheet.companions:
        path = system.medium / one.name
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(str(one.body).replace("\n", "\r\n").encode())
    for _ in range(2):  # once more changes nothing, and keeps the records
        run_as_setup_does(system, commands)
    after = registry(system)
    wanted = [effect for one in chosen for effect in one.effects if effect.kind == "registry"]
    assert len(wanted) > 90
    for effect in wanted:
        if effect.type != "key":
            assert after.get(seat_of(effect)) == as_exported(effect), effect
    touched = {seat_of(one) for one in wanted}
    ours = r"hkey_local_machine\software\fair-ledger"
    assert {at for at in after if after[at] != before.get(at)} - touched <= {
        at for at in after if at[0].startswith(ours)
    }
    calls = (system.drive.parent / "calls.txt").read_text()
    assert "sc.exe config Larkmoor Wind start= demand" in calls
    assert "powercfg.exe /change monitor-timeout-ac 15" in calls
    assert "Microsoft.BingNews" in calls

    # the service's start is recorded; a machine whose service was changed gets it back
    system.run(
        "reg",
        "add",
        r"HKLM\SYSTEM\CurrentControlSet\Services\Larkmoor Wind",
        "/v",
        "Start",
        "/t",
        "REG_DWORD",
        "/d",
        "4",
        "/f",
    )
    undo = subject.family.taken_back(intent, subject.target, ".cmd")
    (system.drive / "undo.cmd").write_bytes(undo.replace("\n", "\r\n").encode())
    system.run("cmd", "/c", r"C:\undo.cmd")
    undone = registry(system)
    kept = {seat_of(one) for each in chosen if each.undo == "none" for one in each.effects if one.kind == "registry"}
    usual = {
        seat_of(one): told
        for section, name in (each.path for each in chosen)
        for one, told in usual_of(section, name, subject.target, getattr(intent.sections.get(section), name, None))
    }
    for at in before.keys() | undone.keys():
        if at in kept or at[0].startswith(ours):
            continue
        expected = usual.get(at, before.get(at))
        assert undone.get(at) == expected, at


def usual_of(section, name, target, value):
    """What a fresh system has at each value that a choice changes, as the catalog says; None where nothing is."""
    choice = choices_of(section).get(name)
    for change in choice.changes(target) if choice is not None and choice.undo == "usual" else ():
        row = change.registry or change
        word = str(value)
        hives = [(hive, getattr(row, hive)) for hive in HIVES]
        for hive, key in (*hives, ("first_user", row.new_users)):  # whoever takes it back is one of the users
            if key and {word, ANY} & {*row.data}:
                there = Effect(kind="registry", hive=hive, key=key, name=row.name)
                kind = row.type or ("dword" if isinstance(row.usual, int) else "string")
                yield there, None if row.usual is None else as_exported(replace(there, type=kind, data=row.usual))
