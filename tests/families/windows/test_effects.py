"""Changes as lines: nothing in a value ends its word or its line, and what others write is read the same."""

from __future__ import annotations

import pytest
import tree_sitter_batch
from hypothesis import given
from hypothesis import strategies as st
from tests.families.windows.test_powershell import wrong
from tree_sitter import Language, Parser

from factories import DESK, draft, examples
from fairledger.catalog.meant import target_named
from fairledger.catalog.tidy import Effect
from fairledger.families.windows.effect_lines import line, logged
from fairledger.families.windows.effect_reading import read, read_powershell, words_of
from fairledger.families.windows.script_effects import rows_of, told

BATCH = Parser(Language(tree_sitter_batch.language()))
TEXTS = st.text(alphabet=st.characters(min_codepoint=32, max_codepoint=0x2FF, exclude_characters="\x7f"), max_size=40)
SHARP = st.text(alphabet="\"\\%^&|<>()! ='aB,;", max_size=14)
_SYSTEM = r"SOFTWARE\Microsoft\Windows\CurrentVersion\Policies\System"


def registry(data, kind="string", hive="machine", key="SOFTWARE\\Lark moor", name="Sky text") -> Effect:
    return Effect(kind="registry", hive=hive, key=key, name=name, type=kind, data=data)


@examples(300)
@given(text=st.one_of(TEXTS, SHARP), kind=st.sampled_from(["string", "expand"]))
def test_a_text_comes_out_as_it_went_in(text, kind):
    effect = registry(text, kind)
    assert read(str(line(effect))) == (effect,)
    assert read(str(logged(line(effect)))) == (effect,)
    assert read(str(line(effect, batch=True)), batch=True) == (effect,)


@examples(100)
@given(text=st.text(alphabet='"\\%^&|<>! aB', min_size=1, max_size=12))
def test_the_shell_sees_no_quote_that_opens_and_no_sign_of_its_own(text):
    told_ = str(line(registry(text))).partition(" /d ")[2].removesuffix(" /f")
    if told_.startswith('"'):
        inside = told_[1:-1]
        assert '"' not in inside
        assert "%" not in inside
        return
    at = 0
    while at < len(told_):
        assert told_[at] not in '"%&|<>', told_
        at += 2 if told_[at] == "^" else 1


def test_what_a_percent_sign_and_a_name_are_depends_on_their_place():
    assert str(line(registry("50%"))).count("%") == 1
    assert str(line(registry("50%"), batch=True)).count("%") == 2
    assert str(line(Effect(kind="command", command="echo %d of %OS%"), batch=True)) == "echo %%d of %OS%"
    unnamed = registry("x", name="")
    assert " /ve /t REG_SZ " in str(line(unnamed))
    assert read(str(line(unnamed))) == (unnamed,)
    alone = registry("", "key", name="")
    assert str(line(alone)) == 'reg add "HKLM\\SOFTWARE\\Lark moor" /f'
    assert [one.type for one in read(str(line(alone)))] == ["key"]


@pytest.mark.parametrize(("flags", "known"), [("-SkipNetworkProfileCheck -Force", 1), ("-Force", 0), ("", 0)])
def test_remote_commands_are_let_in_only_by_the_whole_of_it(flags, known):
    assert len(read_powershell(f"Enable-PSRemoting {flags}".strip())) == known


@pytest.mark.parametrize("text", ["a\nb", "a\rb", "\x00", "a\x7f"])
def test_what_no_line_can_carry_is_refused(text):
    with pytest.raises(ValueError, match="control character"):
        line(registry(text))


DWORD = registry(1, "dword", key=_SYSTEM, name="EnableX")
FIRST = registry(0, "dword", "first_user", _SYSTEM, "EnableX")


@pytest.mark.parametrize(
    ("text", "effect"),
    [
        (rf'REG.EXE ADD "HKEY_LOCAL_MACHINE\{_SYSTEM}" /f /v EnableX /d 0x1 /t REG_DWORD', DWORD),
        (rf'%SystemRoot%\System32\reg.exe add hklm\{_SYSTEM} /t reg_dword /v "EnableX" /d 1 /f /reg:64 >nul 2>&1', DWORD),
        (rf"@reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d 1 /f > nul", DWORD),
        (rf"cmd /c reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d 1 /f", DWORD),
        (r"sc config Fax start= disabled >>C:\x.log", Effect(kind="service", service="Fax", start="disabled")),
        (r'schtasks /change /tn "Larkmoor\Wind" /disable', Effect(kind="task", command=r"\Larkmoor\Wind", data="disable")),
        ("powercfg -h off", Effect(kind="command", command="powercfg.exe /hibernate off")),
        ('netsh advfirewall firewall set rule group="@x,-1" new enable=Yes', Effect(kind="firewall", key="@x,-1", data="true")),
        (r'powershell -NoProfile -Command "Set-Service -Name Fax -StartupType Manual"', Effect(kind="service", service="Fax", start="demand")),
    ],
)  # fmt: skip
def test_what_others_write_is_read_the_same(text, effect):
    found = read(text)
    assert [(one.seat, one.data, one.start) for one in found] == [(effect.seat, effect.data, effect.start)]


@pytest.mark.parametrize(
    "text",
    [
        rf"reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d 1 /f & format C:",
        rf"reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d 1 /f || exit 1",
        rf"if exist C:\x reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d 1 /f",
        rf"reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d one /f",
        rf"reg add HKLM\{_SYSTEM} /v EnableX /t REG_QWORD /d 1 /f",
        rf"reg add HKLM\{_SYSTEM} /v EnableX /s , /t REG_MULTI_SZ /d 1,2 /f",
        rf"reg add HKU\S-1-5-18\{_SYSTEM} /v EnableX /t REG_DWORD /d 1 /f",
        rf"reg delete HKLM\{_SYSTEM} /v EnableX /f",
        rf"reg add \\lmr-desk-01\HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d 1 /f",
        "sc config Fax start= disabled obj= LocalSystem",
        rf"reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d 1",
        rf"reg add HKLM\{_SYSTEM} /v EnableX /v Other /t REG_DWORD /d 1 /f",
        rf"reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d 4294967296 /f",
        rf"reg add HKLM\{_SYSTEM} /f /v EnableX ^",
        "sc start Fax",
        "powershell -EncodedCommand AAAA",
    ],
)
def test_what_does_more_or_other_is_not_read(text):
    assert read(text) == ()


@pytest.mark.parametrize(
    ("text", "effects"),
    [
        (rf"Set-ItemProperty -Path 'HKLM:\{_SYSTEM}' -Name 'EnableX' -Value 1 -Type DWord -Force", [DWORD]),
        (rf'New-ItemProperty -Path "HKCU:\{_SYSTEM}" -Name EnableX -PropertyType DWord -Value 0 | Out-Null', [FIRST]),
        (rf"Set-ItemProperty -Path Registry::HKEY_LOCAL_MACHINE\{_SYSTEM} -Name EnableX -Value 1", [DWORD]),
        ("Set-Service Fax -StartupType Disabled", [Effect(kind="service", service="Fax", start="disabled")]),
        (
            "Get-AppxProvisionedPackage -Online | Where-Object {$_.DisplayName -eq 'Microsoft.BingNews'} | "
            "Remove-AppxProvisionedPackage -Online",
            [Effect(kind="app", package="Microsoft.BingNews")],
        ),
        ("Get-AppxPackage -AllUsers *Clipchamp* | Remove-AppxPackage", [Effect(kind="app", package="Clipchamp", when="sign-in")]),
        (r"Disable-ScheduledTask -TaskPath '\Larkmoor\' -TaskName Wind", [Effect(kind="task", command=r"\Larkmoor\Wind", data="disable")]),
        ("Set-ItemProperty -Path 'HKLM:\\X\\Y' -Name A -Value $v", []),
        ("Get-Service | Stop-Service", []),
        (rf"reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d 1 /f", [DWORD]),
        (rf"reg add HKLM\{_SYSTEM} /v EnableX /t REG_DWORD /d $x /f", []),
        ("sc config Fax start= disabled", []),
        ("Set-Service -Name Fax -StartupType Disabled -WhatIf", []),
        ("Set-Service Fax -StartupType Disabled; Remove-Item C:\\", []),
        ("Set-Service Fax Wind -StartupType Disabled", []),
        (rf"New-ItemProperty -Path 'HKLM:\{_SYSTEM}' -Name A -PropertyType QWord -Value 1", []),
        ("iex (Get-Content x)", []),
    ],
)  # fmt: skip
def test_statements_of_powershell_are_read(text, effects):
    found = read_powershell(text)
    assert [(one.seat, one.data, one.when) for one in found] == [
        (one.seat, one.data, "sign-in" if one.hive == "first_user" else one.when) for one in effects
    ]


@examples(200)
@given(text=st.one_of(TEXTS, SHARP), batch=st.booleans())
def test_reading_never_fails(text, batch):
    for begun in ("", "reg add ", "powershell -Command ", 'cmd /c "', "netsh ", "sc config "):
        read(begun + text, batch=batch)
        read_powershell(text)
        rows_of(begun + text, "cmd")


def test_what_may_never_run_is_not_understood():
    script = """@echo off
sc config Fax start= disabled
if exist C:\\x (
  sc config Spooler start= disabled
)
sc config Wind start= demand & echo done
goto end
sc config Rain start= disabled
"""
    rows = rows_of(script, "cmd")
    assert [(row.number, [one.service for one in row.effects]) for row in rows] == [
        (2, ["Fax"]), (3, []), (4, []), (5, []), (6, []), (7, []), (8, []),
    ]  # fmt: skip
    said, unknown = told(script, "cmd", target_named(DESK), sign_in=False)
    assert (said, unknown) == (("services.disabled: Fax",), 6)
    assert rows_of("if ($x) {\n Set-Service Fax -StartupType Disabled\n}\n", "powershell")[1].effects == ()


@pytest.mark.parametrize(
    ("script", "kind", "unknown"),
    [
        ("echo done & format C:\nsc config Fax start= disabled", "cmd", 1),
        ("echo x > C:\\boot.ini\nsc config Fax start= disabled", "cmd", 1),
        ("rem sc config Wind start= disabled & format\nsc config Fax start= disabled", "cmd", 0),
        ("if exist C:\\x goto end\nsc config Fax start= disabled\n:end", "cmd", 3),
        ("reg add HKLM\\X /v A ^\n /t REG_DWORD /d 1 /f\nsc config Fax start= disabled", "cmd", 3),
        ("Write-Host wind; Remove-Item C:\\\nSet-Service Fax -StartupType Disabled", "powershell", 1),
        ("$x = @'\nSet-Service Fax -StartupType Disabled\n'@", "powershell", 3),
        ("<#\nSet-Service Wind -StartupType Disabled\n#>\nSet-Service Fax -StartupType Disabled", "powershell", 0),
        ("if ($x) { return }\nSet-Service Fax -StartupType Disabled", "powershell", 2),
        ("function Tidy\n{\nSet-Service Fax -StartupType Disabled\n}", "powershell", 4),
    ],
)
def test_lines_that_only_look_as_if_they_ran_are_not_told(script, kind, unknown):
    said, left = told(script, kind, target_named(DESK), sign_in=False)
    assert left == unknown
    assert said == (("services.disabled: Fax",) if unknown < 2 else ())


def test_a_person_of_ones_own_is_not_the_system():
    body = r"reg add HKCU\Software\Microsoft\Windows\CurrentVersion\Search /v SearchboxTaskbarMode /t REG_DWORD /d 0 /f"
    asked = [told(body, "line", target_named(DESK), sign_in=late)[0][0] for late in (True, False)]
    assert asked[0].startswith("desktop.search_box = hide (")
    assert asked[1].startswith("whoever runs it: HKCU")


ALL = """
[desktop]
file_extensions = "show"
wallpaper = '''C:\\it's "x" & 100%\\sky.png'''
[protection]
notice_text = '''<text>'''
memory_integrity = "on"
[services]
disabled = ["Fax"]
[apps]
others = "remove"
[remote]
desktop = "on"
"""


@pytest.mark.parametrize("text", ["for observers & keepers", 'it\'s "closed" %PATH% ^<', "a" * 300 + "é' (x)"])
def test_scripts_are_well_formed_for_parsers_that_are_not_ours(text):
    subject = draft(ALL.replace("<text>", text))
    assert subject.findings == ()
    (beside,) = subject.sheet.companions
    intent, target = subject.draft.intent, subject.target
    for script in (str(beside.body), subject.family.taken_back(intent, target, ".cmd")):
        # what this parser makes of "for /f" and of carets in words is its own affair: those lines are looked at apart
        plain = [one for one in script.split("\n") if not one.startswith("for /f") and "^" not in one]
        assert wrong("\n".join(plain), BATCH) == []
    undo = subject.family.taken_back(intent, target, ".ps1")
    assert wrong(undo) == []
    assert "%%" not in undo
    removing = next(one for one in str(beside.body).split("\n") if one.startswith("powershell.exe"))
    assert wrong(words_of(removing)[-1]) == []
    assert "Microsoft.WindowsStore'" not in removing
