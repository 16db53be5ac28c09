"""Files against their media: what fires, what stays silent where nobody knows, and where it is told."""

from __future__ import annotations

import json

import pytest

from factories import check_answers, check_draft, medium, whole
from fairledger.media.facts import text_of
from fairledger.model.facts import Facts
from fairledger.model.holdings import AnswerFacts, BootFacts, HeldFacts, ImageFacts, MediumFacts, TreeFacts

HOME = ImageFacts(index=1, name="Windows 11 Home", edition="Home", installation="Client", languages=("en-GB",))
PRO = ImageFacts(index=4, name="Windows 11 Pro", edition="Pro", installation="Client", languages=("pt-PT",))
SETUP = ImageFacts(index=1, file="sources/boot.wim", name="Setup", installation="WindowsPE", languages=("fr-FR",))
DESKS = {"family": "windows", "targets": ("windows-11-24h2", "windows-11-25h2")}
GATE = "#version=RHEL9\ncdrom\n"


@pytest.fixture
def against(tmp_path):
    """Checks a draft or a kickstart file against facts; what rules of media have to say, as rule and message."""

    def checked(text: str, path=None, **facts):
        place = tmp_path / "medium.toml"
        own = {"family": "kickstart", "targets": ("el-9",)} if text.startswith("#version") else DESKS
        facts = facts if "family" in facts else {**own, **facts}
        place.write_text(text_of(MediumFacts(name="lmr.iso", **facts)))
        said = Facts(medium=str(path or place), route=None)
        if text.startswith("#version"):
            report = check_answers(text, "ks.cfg", target="el-9", facts=said)
        else:
            report = check_draft(whole(text), tmp_path / "desk.toml", facts=said)
        wanted = ("medium-", "image-not", "label-", "answers-", "key-not", "language-not")
        held = ("component-not", "feature-not", "package-not", "app-not", "repository-not")
        return [
            (one.rule, one.severity.value, one.message, one.hint)
            for one in report.findings
            if one.rule.startswith((*wanted, *held))
        ]

    return checked


def test_of_what_nobody_knows_nothing_is_said_but_that(against):
    draft = '[image]\nedition = "Pro"\nindex = 3\n[locale]\nlanguage = "de-DE"\n[features]\non = ["Nothing"]\n'
    assert [one[2] for one in against(draft, family=None)] == [
        "nobody knows what lmr.iso installs: what the file uses of it is not checked"
    ]
    assert against(draft) == []
    assert against(GATE + "%packages\n@nothing\nnothing\n%end\n") == [
        (
            "medium-unknown",
            "advice",
            "nobody knows which repositories, packages, groups and environments lmr.iso carries: what the file uses of "
            "it is not checked",
            "name the whole medium, or its facts",
        )
    ]
    half = HeldFacts(image=4, features=(), packages=("a",))
    (told,) = against('[image]\nedition = "Pro"\n[locale]\nlanguage = "pt-PT"\n', images=(HOME, PRO), held=(half,))
    assert told[2].startswith("nobody knows the components and apps of image 4 of lmr.iso")


def test_which_image_is_meant(against):
    def told(image, images=(HOME, PRO, SETUP)):
        return [one[2:] for one in against(f"[image]\n{image}\n", images=images) if one[0] == "image-not-on-medium"]

    assert told('edition = "Pro"') == told("index = 4") == told('edition = "Windows 11 Home"') == []
    assert told('edition = "Windows 11 Por"') == [
        ("lmr.iso has no edition or image called Windows 11 Por", "there are: 4 Windows 11 Pro, 1 Windows 11 Home")
    ]
    assert told("index = 2") == [("lmr.iso has no image 2", "there are: 1 Windows 11 Home, 4 Windows 11 Pro")]
    assert told('edition = "Pro"\nindex = 1') == [
        ("image 1 of lmr.iso is Windows 11 Home, not Pro", "leave the number out")
    ]
    assert told('edition = "Pro"\nindex = 4') == []
    # an image elsewhere is none of the medium's, and a list of which nobody knows the kinds tells nothing
    assert told('index = 9\nfile = "D:\\\\install.wim"') == []
    assert told("index = 9", images=(SETUP,)) == []


def test_the_language_is_that_of_the_image_which_is_installed(against):
    def told(image, language):
        found = against(f'[image]\n{image}\n[locale]\nlanguage = "{language}"\n', images=(HOME, PRO, SETUP))
        return {one[2] for one in found if one[0] == "language-not-on-medium"}

    assert told('edition = "Pro"', "pt-PT") == set()
    assert told('edition = "Pro"', "en-GB") == {"lmr.iso speaks pt-PT, and not en-GB"}
    assert told('edition = "Home"', "EN-gb") == set()


def test_other_systems_and_machines(against):
    def told(text, **facts):
        return [one[:3] for one in against(text, **facts) if one[0] in ("medium-release", "medium-architecture")]

    desk = '[draft]\ntarget = "windows-11-24h2"\narch = ["amd64", "arm64"]\n'
    assert told(desk, family="windows", targets=("windows-11-25h2", "windows-11-24h2"), arch="arm64") == []
    assert told(desk, arch="x86") == [
        ("medium-architecture", "error", "lmr.iso is for x86, and the file for amd64, arm64")
    ]
    assert told(desk, family="windows", targets=("windows-11-23h2",), build="22631.1")[0][1] == "warning"
    assert told(desk, family="windows", targets=("windows-server-2025",))[0][1] == "error"
    assert told(desk, family="windows", release="a release of Windows", build="99999")[0][1:] == (
        "warning",
        "lmr.iso installs a release of Windows, build 99999, and the file is for Windows 11, version 24H2",
    )
    assert told(GATE, family="windows", targets=("windows-11-24h2",)) == [
        ("medium-release", "error", "lmr.iso installs Windows 11, version 24H2, which reads no file of this kind")
    ]
    assert told(GATE, family="kickstart", targets=("el-9",), arch="aarch64") == []  # nobody says for which machine


def test_labels_count_to_the_letter(against):
    drive = "#version=RHEL9\nharddrive --partition=LABEL={0} --dir=/\n"
    facts = {"label": "LMR-GATE", "tree": TreeFacts(repositories=())}
    assert against(drive.format("LMR-GATE"), **facts) == []
    assert against(drive.format("lmr-gate"), **facts)[0][:2] == ("label-not-the-mediums", "error")
    assert against(drive.format("OTHER"), **facts)[0][:2] == ("label-not-the-mediums", "warning")
    assert against(drive.format("OTHER"), tree=TreeFacts()) == []
    menu = BootFacts(file="grub.cfg", title="Install", labels=("LMR-GATE", "LMR GATE"))
    (told,) = against("#version=RHEL9\nurl --url=http://192.0.2.9/el9\n", entries=(menu,), **facts)
    assert told[2:] == (
        "lmr.iso is labelled LMR-GATE, and its entry Install looks for LMR GATE",
        "correct grub.cfg, or the label",
    )


def test_packages_are_looked_for_only_where_they_come_from_the_medium_alone(against):
    tree = TreeFacts(
        repositories=("BaseOS",), packages=("vim-enhanced", "glibc"), groups=("core",), environments=("min",)
    )
    wanted = "%packages\n@^max\n@core\n@other\nvim-*\nglibc.i686\n/usr/bin/x\nperl(Foo)\ngauges\n-old\n%end\n"
    told = {one[2] for one in against(GATE + wanted, tree=tree)}
    assert told == {
        "lmr.iso carries no max among its environments",
        "lmr.iso carries no gauges among its packages",
        "lmr.iso carries no other among its groups",
    }
    assert against(GATE + "repo --name=x --baseurl=http://192.0.2.9/x\n" + wanted, tree=tree) == []
    assert against("#version=RHEL9\nurl --url=http://192.0.2.9/el9\n" + wanted, tree=tree) == []
    mild = against(GATE + wanted.replace("%packages", "%packages --ignoremissing"), tree=tree)
    assert {one[1] for one in mild} == {"warning"}
    local = "repo --name=a --baseurl=file:///run/install/repo/{0}\n"
    assert against(GATE + local.format("BaseOS"), tree=tree) == []
    assert against(GATE + local.format("CRB"), tree=tree)[0][2:] == (
        "lmr.iso has no repository in CRB",
        "there are: BaseOS",
    )


@pytest.mark.parametrize(
    ("route", "first", "severity"),
    [
        (None, True, "warning"),
        ("disc", True, "warning"),
        ("stick", True, "advice"),
        ("share", True, None),
        ("generalise", True, None),
        (None, None, "advice"),
        (None, False, None),
    ],
)
def test_an_answer_file_on_the_medium_is_told_where_it_may_be_taken(against, route, first, severity):
    said = f'route = "{route}"\n' if route else ""
    found = against(
        f'[draft]\ntarget = "windows-11-24h2"\n{said}', answers=(AnswerFacts(path="Autounattend.xml", first=first),)
    )
    assert [one[1] for one in found if one[0] == "answers-on-medium"] == ([severity] if severity else [])


def test_a_roster_holds_each_row_against_the_medium(program):
    facts = medium("media/desk.toml")
    head = f'format = 1\n[draft]\ntarget = "windows-11-24h2"\nmedium = "{facts}"\n'
    program.file(
        "desk.toml", head + '[image]\nedition = "${edition}"\n[licence]\naccept = true\n[identity]\nname = "${n}"\n'
    )
    program.file("desks.csv", "edition,n\nPro,LMR-1\nEducation,LMR-2\nHome,LMR-3\n")
    told = json.loads(program("roster", "check", "desk.toml", "desks.csv", "--format", "json", status=1).stdout)
    found = [
        (one["row"], one["rule"])
        for one in told["findings"]
        if one["rule"] in ("image-not-on-medium", "medium-unknown")
    ]
    assert (2, "image-not-on-medium") in found
    assert not [rule for row, rule in found if row == 1]
    assert (3, "medium-unknown") in found  # nobody looked into the image of that edition


def test_a_file_that_is_written_is_held_against_the_medium_too(program):
    program.file("desk.toml", whole('[image]\nedition = "Education"\n[licence]\naccept = true\n'))
    told = program(
        "write", "--route", "plain", "desk.toml", "--medium", str(medium("media/desk.toml")), status=1
    ).stdout
    assert "has no edition or image called Education" in told
    assert not (program.folder / "out").exists()
    program("write", "--route", "plain", "desk.toml", "--out", "other")
