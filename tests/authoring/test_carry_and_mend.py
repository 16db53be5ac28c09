"""Moves to other releases, and corrections, on small files."""

from __future__ import annotations

from pathlib import Path

import pytest

from fairledger.authoring.carry import carry
from fairledger.authoring.mend import mend
from fairledger.families.kickstart.family import Kickstart
from fairledger.model.errors import WrongUseError

HEAD = 'format = 1\n[draft]\ntarget = "{}"\n'


@pytest.fixture
def file(tmp_path):
    def write(text: str, name: str = "x.toml"):
        path = tmp_path / name
        path.parent.mkdir(exist_ok=True, parents=True)
        path.write_text(text)
        return path

    return write


@pytest.mark.parametrize(
    ("old", "new", "body", "gone", "there"),
    [
        (
            "el-7",
            "el-10",
            "[answers.setup.install]\n[answers.setup.text]\n",
            "answers.setup.install",
            "answers.setup.text",
        ),
        (
            "el-7",
            "el-9",
            '[answers.packages."%packages"]\n"--instLangs" = "en"\n',
            "--instLangs",
            '--inst-langs = "en"',
        ),
        ("el-8", "el-9", '[answers.setup.timezone]\ntimezone = "UTC"\n"--nontp" = true\n', "\0", 'timezone = "UTC"'),
        (
            "windows-11-24h2",
            "windows-10-22h2",
            "[bypass]\nmemory = true\nonline_account = true\n",
            "memory",
            "online_account",
        ),
        ("windows-10-22h2", "windows-11-25h2", '[image]\nedition = "Pro"\n', "\0", 'edition = "Pro"'),
    ],
)
def test_what_goes_and_what_stays(file, old, new, body, gone, there):
    path = file(HEAD.format(old) + body)
    done = carry(path, new)
    assert f'target = "{new}"' in done.text
    assert gone not in done.text
    assert there in done.text
    assert path.read_text() == HEAD.format(old) + body
    assert bool(done.taken_out or done.rewritten) == (gone != "\0")


def test_profiles_are_never_changed(file):
    profile = file(
        "format = 1\n[profile]\n[bypass]\nmemory = true\n[answers.setup.install]\n", "profiles/bypass/old.toml"
    )
    before = profile.read_text()
    path = file(HEAD.format("windows-11-24h2") + 'profiles = ["bypass/old"]\n')
    done = carry(path, "windows-10-22h2")
    assert [one.what for one in done.to_do] == ["bypass.memory", "setup:install"]
    assert profile.read_text() == before


def test_what_does_not_exist_there_is_refused(file):
    path = file(HEAD.format("windows-11-24h2"))
    for wish in ({"edition": "Prro"}, {"arch": "x86"}):
        with pytest.raises(WrongUseError):
            carry(path, "windows-11-25h2", **wish)
    with pytest.raises(WrongUseError):
        carry(path, "windows-13")
    assert 'arch = "arm64"' in carry(path, "windows-11-25h2", arch="arm64").text


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("#version=RHEL9\nclearpart --all\n%post\necho x\n", "#version=RHEL9\nclearpart --all\n%post\necho x\n%end\n"),
        (
            "#version=RHEL9\nnetwork --bootproto=DHCP --device=eno1 # first\n",
            "network --bootproto=dhcp --device=eno1 # first\n",
        ),
        ("#version=RHEL9\nlang en_GB.UTF-8\n", "#version=RHEL9\nlang en_GB.UTF-8\n"),
    ],
)
def test_lists_of_commands_are_mended(file, before, after):
    path = file(before, "x.ks")
    done = mend(path)
    assert path.read_text().endswith(after)
    assert bool(done.done) == (before != path.read_text())
    assert mend(path).done == ()


def test_a_drafts_own_answers_are_mended_and_comments_stay(file):
    body = '# the pages\n[answers.oobeSystem.Microsoft-Windows-Shell-Setup.OOBE]\nHideEULAPage = "TRUE" # hidden\n'
    path = file(HEAD.format("windows-11-24h2") + body)
    done = mend(path)
    assert done.done == ("OOBE/HideEULAPage = true",)
    text = path.read_text()
    assert "HideEULAPage = true" in text
    assert "# the pages" in text
    assert any(line.startswith("-HideEULAPage") for line in done.difference)
    broken = file("format = 1\n[draft]\n", "broken.toml")
    assert mend(broken).done == ()


def test_a_section_gets_its_end_where_it_ends(file):
    path = file("#version=RHEL9\n%packages\n@core\n\n%post\necho a\n%end\nreboot\n", "x.ks")
    done = mend(path)
    assert (done.done, done.left) == (("%end for %packages in line 2",), ())
    assert path.read_text() == "#version=RHEL9\n%packages\n@core\n%end\n\n%post\necho a\n%end\nreboot\n"


def test_a_correction_that_mends_nothing_is_taken_back(file, monkeypatch):
    path = file("#version=RHEL9\nlang en_GB.UTF-8\n%post\necho a\n", "x.ks")
    text = path.read_text()
    monkeypatch.setattr(Kickstart, "mended", lambda self, text, sheet, findings: (f"{text}%end\n%end\n", "two ends"))
    done = mend(path)
    assert (done.done, done.left) == ((), ("two ends",))
    assert path.read_text() == text


def test_a_shown_correction_holds_no_secret(file):
    text = (
        '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="oobeSystem"><component '
        'name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" '
        'language="neutral" versionScope="nonSxS"><AutoLogon><Enabled>TRUE</Enabled><Password><Value>Heron&amp;4</Value>'
        "<PlainText>true</PlainText></Password></AutoLogon></component></settings></unattend>"
    )
    path = file(text, "x.xml")
    shown = "\n".join(mend(path, target="windows-11-24h2").difference)
    assert "<Enabled>true" in shown
    assert "Heron" not in shown
    assert "Heron&amp;4" in path.read_text()
    path = file("#version=RHEL9\nnetwork --bootproto=DHCP --essid=l --wpakey=Heron-4-moor\n", "x.ks")
    shown = "\n".join(mend(path).difference)
    assert "--bootproto=dhcp" in shown
    assert "Heron" not in shown


@pytest.mark.parametrize(
    ("zone", "right"),
    [
        ("Atlantic/Azores", "Azores Standard Time"),
        ("Azores Standard Time", "Azores Standard Time"),
        ("Atlantic/Azoren", "Atlantic/Azoren"),
    ],
)
def test_a_time_zone_gets_the_name_that_setup_knows(file, zone, right):
    good = (Path(__file__).parents[1] / "checks" / "files" / "desk.xml").read_text(encoding="utf-8")
    path = file(good.replace("Azores Standard Time", zone), "x.xml")
    assert mend(path, target="windows-11-24h2").done == ((f"TimeZone = {right}",) if zone != right else ())
    assert path.read_text(encoding="utf-8") == good.replace("Azores Standard Time", right)
