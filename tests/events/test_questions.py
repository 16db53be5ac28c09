"""What installers ask: each page with what answers it, and nothing called answered of which nobody knows."""

from __future__ import annotations

import pytest

from factories import check_answers, draft
from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.passes import pass_names
from fairledger.catalog.questions import all_pages, all_questions, terms_of
from fairledger.catalog.routes import routes_of
from fairledger.catalog.targets import all_targets
from fairledger.events.questions import hands_free, questions
from fairledger.model.kinds import choices_of

FAMILY = {one.line: one.family for one in all_targets()}


def states(fragment: str) -> dict[tuple[str, str], bool | None]:
    return {(one.page.question, one.page.pass_): one.answered for one in questions(draft(fragment))}


@pytest.mark.parametrize("page", all_pages(), ids=lambda page: f"{page.question}-{page.lines[0]}")
def test_every_condition_speaks_of_what_there_is(page):
    assert page.question in all_questions()
    families = {FAMILY[line] for line in page.lines}
    assert len(families) == 1
    family = families.pop()
    assert page.pass_ in pass_names(family)
    assert {*page.since, *page.until} <= {one.id for one in all_targets() if one.line in page.lines}
    for text in (*page.answered, *page.hidden, *page.again, *page.doubtful, *page.needs):
        for term in terms_of(text, family):
            assert not term.pass_ or term.pass_ in pass_names(family), text
            found = [catalog_of(family, one) for one in all_targets() if one.line in page.lines]
            known = [one for each in found if (one := each.component(term.component)) is not None]
            assert term.trait or known, text
            settings = [one for each in known if term.path and (one := each.setting(term.path)) is not None]
            assert not term.path or settings, text
            for value in term.values:
                assert value in choices_of(settings[0].kind, settings[0]), text


@pytest.mark.parametrize(
    ("target", "asked"),
    [
        ("windows-11-24h2", "setup-language key edition terms disk region start-terms start-network account privacy"),
        ("windows-7", "setup-language key edition terms disk start-terms time-zone place name account privacy"),
        ("windows-server-2025", "setup-language edition terms disk start-terms administrator"),
        ("el-9", "language keyboard source software disk root end"),
        ("esxi-8", "terms disk root end"),
    ],
)
def test_of_an_empty_draft_every_page_is_told(target, asked):
    found = states(f'[draft]\ntarget = "{target}"\n')
    assert " ".join(question for (question, _), state in found.items() if state is False) == asked
    assert True not in found.values()


ROOT = '[draft]\ntarget = "el-9"\n[answers.setup.{}]\n'


@pytest.mark.parametrize(
    ("fragment", "question", "answered"),
    [
        ("[licence]\naccept = true\n", "terms", True),
        ('[answers.windowsPE.Microsoft-Windows-Setup.UserData]\nAcceptEula = "false"\n', "terms", False),
        ('[answers.windowsPE.Microsoft-Windows-Setup.UserData.ProductKey]\nWillShowUI = "OnError"\n', "key", None),
        (
            "[answers.windowsPE.Microsoft-Windows-Setup.UserData.ProductKey]\n"
            'Key = "BCDFG-HJKMP-QRTVW-XY234-67892"\nWillShowUI = "Always"\n',
            "key",
            False,
        ),
        ('[licence]\nkey = "BCDFG-HJKMP-QRTVW-XY234-67892"\n', "edition", True),
        ('[locale]\nlanguage = "en-GB"\n', "region", True),
        ('[locale]\nsetup_language = "en-GB"\n', "region", False),
        ('[join]\ndomain = "larkmoor.example"\n', "account", None),
        ('[account]\nlocal = [{ name = "observer" }]\n', "account", True),
        (ROOT.format("rootpw") + '"--lock" = true\n', "root", True),
        (ROOT.format("user") + '"--name" = "a"\n"--groups" = "users,wheel"\n', "root", True),
        (ROOT.format("user") + '"--name" = "a"\n"--groups" = "users"\n', "root", False),
        (ROOT.format("liveimg") + '"--url" = "http://192.0.2.1/i"\n', "software", True),
        (ROOT.format("url") + '"--url" = "http://192.0.2.1/i"\n', "network", False),
        (ROOT.format("'%include'") + 'file = "more.ks"\n', "disk", None),
        (ROOT.format("cdrom"), "source", True),
    ],
)
def test_what_answers_a_page_and_what_does_not(fragment, question, answered):
    found = [one for one in questions(draft(fragment), question) if one.page.pass_ in ("windowsPE", "oobeSystem")]
    found = found or list(questions(draft(fragment), question))
    assert [one.answered for one in found] == [answered]
    assert (found[0].by is not None) == (
        answered is True or (answered is None and question != "region") or "Always" in fragment
    )


def test_a_route_that_leaves_passes_out_leaves_their_questions_out():
    of_route = states('[draft]\ntarget = "windows-11-24h2"\nroute = "generalise"\n')
    assert {pass_ for _, pass_ in of_route} == {"oobeSystem"}
    route = next(one for one in routes_of(draft("").target) if one.name == "generalise")
    assert {*route.passes} < {*pass_names("windows")}


def test_a_file_that_says_nothing_for_setup_or_its_release_is_not_vouched_for():
    only = '[answers.oobeSystem.Microsoft-Windows-Shell-Setup.OOBE]\nHideEULAPage = "true"\n'
    assert states(only)["disk", "windowsPE"] is None
    assert hands_free(()) is None
    assert hands_free(tuple(questions(draft(only)))) is False
    audit = '<unattend xmlns="urn:schemas-microsoft-com:unattend"></unattend>'
    assert not [one for one in check_answers(audit, "x.xml", questions=True).findings if "asks" in one.message]


def test_a_file_of_one_byte_leaves_everything_open(program):
    program.file("ks.cfg", "\n#\n")
    told = program("check", "ks.cfg", "--target", "el-9").stdout
    assert told.rstrip().endswith("leaves 7 questions open")
    assert program("check", "ks.cfg", "--target", "el-9", "--fail-on", "question", status=1).stdout == told
    listed = program("questions", "ks.cfg", "--target", "el-9", "--format", "json").stdout
    assert '"hands_free": false' in listed
    program.file("pw.cfg", "rootpw --plaintext Dunlin-4-tarn\n")
    listed = program("questions", "pw.cfg", "--target", "el-9", "--format", "json").stdout
    assert "Dunlin" not in listed + program("questions", "pw.cfg", "--target", "el-9").stdout


def test_of_many_files_what_nobody_knows_is_added_up(program):
    only = (
        '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="specialize"><component '
        'name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" publicKeyToken="31bf3856ad364e35" '
        'language="neutral" versionScope="nonSxS"><TimeZone>UTC</TimeZone></component></settings></unattend>'
    )
    for name in ("a.xml", "b.xml"):
        program.file(name, only)
    for name in ("c.xml", "d.xml"):
        program.file(
            name, '<unattend xmlns="urn:schemas-microsoft-com:unattend"><settings pass="oobeSystem"/></unattend>'
        )
    assert "leaves 20 questions open" in program("check", "c.xml", "d.xml", "--target", "windows-11-24h2").stdout
    alone = program("check", "a.xml", "--target", "windows-11-24h2").stdout
    both = program("check", "a.xml", "b.xml", "--target", "windows-11-24h2").stdout
    told = " ".join(alone.split()).rpartition("nobody knows of ")[2].split()[0]
    assert int(told) > 0
    assert " ".join(both.split()).endswith(f"nobody knows of {2 * int(told)} more")
