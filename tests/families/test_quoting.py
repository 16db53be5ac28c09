"""Values that are filled into commands come out of the shell as they went in, or are refused."""

from __future__ import annotations

import shutil
import subprocess

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import examples
from fairledger.families.quoting import CMD, LINE, OTHER, POWERSHELL, SH, in_line, quoted_for
from fairledger.model.values import concat, escaped, parse_text

NASTY = st.text(st.sampled_from("ab \t\n'\"\\$`;&|<>(){}[]*?!#%~^-=,@/:é\u2019\u201c"), max_size=12)
AROUND = {
    "printf '%s' @": "",
    "printf '%s' 'x@y'": "xy",
    'printf "%s" "x@y"': "xy",
    "# it's\nprintf '%s' x@": "x",
    "cat <<'E'\n$x\nE\nprintf '%s' \"@\"": "$x\n",
    "cat <<'E'\nx@y\nE": "xy\n",
    "cat <<E\nx@y\nE": "xy\n",
    "a='b c'\nprintf '%s' \"\\\"@\"": '"',
}


@pytest.mark.skipif(shutil.which("sh") is None, reason="no shell")
@pytest.mark.parametrize("script", AROUND)
@examples(60)
@given(value=NASTY)
def test_a_shell_gives_back_what_was_filled_in(script, value):
    template = quoted_for(parse_text(script.replace("@", "${n}")), SH)
    try:
        filled = template.fill({"n": value})
    except ValueError:
        assert "\n" in value
        return
    done = subprocess.run(["sh", "-c", filled], capture_output=True, check=False)
    assert (done.returncode, done.stderr) == (0, b"")
    begin, end = (script.partition("@")[0][-1] == "x") * "x", (script.partition("@")[2][:1] == "y" and "y") or ""
    assert f"{begin}{value}{end}" in done.stdout.decode()


@pytest.mark.parametrize(
    ("shell", "script", "value", "made"),
    [
        (POWERSHELL, "Set-Item a @", "it's; reboot", "Set-Item a 'it''s; reboot'"),
        (POWERSHELL, "Set-Item a '@'", "it\u2019s", "Set-Item a 'it\u2019\u2019s'"),
        (POWERSHELL, 'Set-Item a "x @"', '$(reboot)"', 'Set-Item a "x `$(reboot)`""'),
        (POWERSHELL, "Set-Item a C:\\@", "a b", None),
        (POWERSHELL, "Set-Item a C:\\@", "moor-3", "Set-Item a C:\\moor-3"),
        (POWERSHELL, 'a "$(b @)"', "x y", None),
        (POWERSHELL, "@'\n@\n'@", "$a'b", "@'\n$a'b\n'@"),
        (CMD, "echo on\necho @", "a & b", 'echo on\necho "a & b"'),
        (CMD, 'echo "x @"', 'a" & reboot', None),
        (CMD, 'echo "x @"', "50%", None),
        (LINE, "wind.exe /n:@", "a b", None),
        (LINE, "wind.exe @", "-rf", None),
        (LINE, 'wind.exe "@"', "a b", 'wind.exe "a b"'),
        (LINE, 'wind.exe "@"', "a\\", None),
        (OTHER, "print('@')", "a'b", None),
        (OTHER, "print('@')", "moor", "print('moor')"),
        (POWERSHELL, "@'\n@\n'@", "'@; reboot", None),
        (POWERSHELL, 'a "x``@"', "$(b)", 'a "x```$(b)"'),
        (POWERSHELL, 'a "x`@"', "$(b)", None),
        (POWERSHELL, 'cmd /c "echo @"', "& reboot", None),
        (LINE, 'cmd /c "echo @"', "& reboot", None),
        (LINE, 'powershell -Command "echo @"', "; reboot", None),
        (SH, "echo \\@", "; reboot", None),
        (SH, "echo $'@'", "x\\'; reboot", None),
        (SH, "bash -c 'echo @'", "; reboot", None),
        (SH, "echo \"<<'E'\"\necho @", "; reboot", "echo \"<<'E'\"\necho '; reboot'"),
        (SH, "# <<'E'\necho @", "; reboot", "# <<'E'\necho '; reboot'"),
        (SH, "cat <<E\n$(echo @)\nE", "; reboot", None),
        (SH, "cat <<'E'\n@\nreboot\nE", "E", None),
        (SH, "cat <<'E'\nx\nE\necho @", "a b", "cat <<'E'\nx\nE\necho 'a b'"),
        (SH, "echo $(date @)", "a b", None),
        (SH, "echo # @", "a\nreboot", None),
    ],
)
def test_each_shell_has_its_quotes(shell, script, value, made):
    template = quoted_for(
        parse_text(script.replace("@", "${n}", 1) if script[0] != "@" else script.replace("\n@", "\n${n}")),
        shell,
    )
    if made is None:
        with pytest.raises(ValueError, match=r"cannot carry|ends the text"):
            template.fill({"n": value})
    else:
        assert template.fill({"n": value}) == made


@pytest.mark.parametrize(
    ("line", "value", "made"),
    [
        ("dism.exe /FeatureName:${v} /All", "TelnetClient", "dism.exe /FeatureName:TelnetClient /All"),
        ("dism.exe /FeatureName:${v} /All", "a /Source:b", None),
        ("dism.exe /FeatureName:${v} /All", 'a" & b', None),
        ("dism.exe /FeatureName:${v} /All", "%PATH%", None),
        ("dism.exe /Name:${v} /All", "Open.Server~~~~0.0.1.0", "dism.exe /Name:Open.Server~~~~0.0.1.0 /All"),
        ('cmd.exe /c "for %d in (C D) do @dism.exe /Name:${v}"', "a & b", None),
        ('tool "${v}"', "a b", 'tool "a b"'),
        ('tool "${v}"', 'a" b', None),
    ],
)
def test_what_is_filled_into_a_line_of_our_own_is_one_word_of_it(line, value, made):
    template = in_line(parse_text(line))
    if made is None:
        with pytest.raises(ValueError, match="the command cannot carry it"):
            template.fill({"v": value})
    else:
        assert template.fill({"v": value}) == made


def test_a_quoted_value_of_a_line_is_no_second_line():
    line = in_line(concat("a '", escaped(parse_text("${v}"), "powershell"), "'"))
    assert line.fill({"v": "x'y"}) == "a 'x''y'"
    with pytest.raises(ValueError, match="control character"):
        line.fill({"v": "x\ny"})
