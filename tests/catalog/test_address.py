"""Setting addresses where a command may stand several times, or an answer in several passes."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from factories import DESK, NOWHERE
from fairledger.authoring.portable import is_portable, portable_steps
from fairledger.catalog.address import Step, locate, matching, split_assignment, steps_of
from fairledger.catalog.catalog import Catalog, catalog_of
from fairledger.catalog.meant import target_named
from fairledger.catalog.passes import pass_names
from fairledger.model.errors import WrongUseError
from fairledger.subject.opening import opened

TWO = "network --device=eno1 --mtu=1400\nnetwork --device=eno2\nfcoe --nic=eno1\nfcoe --nic=eno2\nurl --url=http://192.0.2.10\n"
WINDOWS = catalog_of("windows", target_named(DESK))


def spot(address: str, lines: str = TWO):
    subject = opened(NOWHERE / "gate.ks", data=f"#version=RHEL9\n{lines}".encode())
    return locate(address, subject.catalog, subject.seats, pass_names("kickstart"))


@pytest.mark.parametrize(
    ("text", "address", "value"),
    [
        ("TimeZone=GMT", "TimeZone", "GMT"),
        (" a/b = x=y", "a/b", "x=y"),
        ("MetaData[/IMAGE/NAME=1]/Value=Pro", "MetaData[/IMAGE/NAME=1]/Value", "Pro"),
        ("a[[=]=]=1", "a[[=]=]", "1"),
        ("a]=1", "a]", "1"),
        ("a=", "a", ""),
    ],
)
def test_assignments_part_at_the_first_equals_sign_outside_brackets(text, address, value):
    assert split_assignment(text) == (address, value)


def test_addresses_part_into_steps():
    assert steps_of("A/B[1]/C") == (Step("A"), Step("B", "1"), Step("C"))
    assert steps_of("B[/x/y]/C[]") == (Step("B", "/x/y"), Step("C", ""))
    assert portable_steps("network.interface[eno1.5].mtu") == (
        Step("network"),
        Step("interface", "eno1.5"),
        Step("mtu"),
    )
    for bad in ("", "/A", "A/", "A//B", "A]B", "A[1]B"):
        with pytest.raises(WrongUseError, match="is no address"):
            steps_of(bad)


@given(st.text(alphabet="aB/[]+:.= é", max_size=12))
def test_any_text_is_an_address_or_is_refused(text):
    try:
        steps = steps_of(text)
    except WrongUseError:
        return
    again = "/".join(one.name + ("" if one.item is None else f"[{one.item}]") for one in steps)
    assert steps_of(again) == steps


@pytest.mark.parametrize(
    ("address", "portable"),
    [
        ("locale.language", True),
        ("draft.title", True),
        ("disk[0].fate", True),
        ("command[clock]", True),
        ("locale", False),
        ("nowhere.language", False),
        ("Locale.language", False),
        ("network/--mtu", False),
    ],
)
def test_fields_are_told_from_settings(address, portable):
    assert is_portable(address) == portable


@pytest.mark.parametrize(
    ("address", "whole", "value"),
    [
        ("network[eno1]/--mtu", "setup:network[eno1]/--mtu", "1400"),
        ("network[eno2]/--mtu", "setup:network[eno2]/--mtu", None),
        ("network[eno3]/--mtu", "setup:network[eno3]/--mtu", None),  # by its key one can be named before it is there
        ("network[+]/--mtu", "setup:network[+]/--mtu", None),
        ("fcoe[#2]/--nic", "setup:fcoe[#2]/--nic", "eno2"),
        ("network[#2]/--mtu", "setup:network[#2]/--mtu", None),
        ("fcoe[+]/--nic", "setup:fcoe[+]/--nic", None),
        ("setup:url/--url", "setup:url/--url", "http://192.0.2.10"),
        ("part[+]/--grow", "setup:part[+]/--grow", None),
        ("part/--grow", "setup:part[+]/--grow", None),  # there is none yet
        ("repo[+extra]/--name", "setup:repo[+extra]/--name", None),
    ],
)
def test_uses_of_a_command_are_told_apart(address, whole, value):
    found = spot(address)
    assert (found.text, found.present.value if found.present is not None else None) == (whole, value)


@pytest.mark.parametrize(
    ("address", "told", "candidates"),
    [
        ("network/--mtu", "network stands 2 times; which one?", ["network[eno1]", "network[eno2]"]),
        ("fcoe/--nic", "fcoe stands 2 times; which one?", ["fcoe[#1]", "fcoe[#2]"]),
        ("fcoe[3]/--nic", "fcoe has no use 3", ["fcoe[#1]", "fcoe[#2]"]),
        ("network[2]/--mtu", "network has no use 2", ["network[eno1]", "network[eno2]"]),  # a place, or a name?
        ("url/--device", "url has no setting '--device'", []),
        ("fcoe", "fcoe is a component: write fcoe/SETTING", []),
        ("setup:url[1]/--url/x", "has no setting", []),
        ("pre:url/--url", "does not count in the pass pre", ["setup"]),
    ],
)
def test_what_is_not_clear_is_refused_with_the_choice(address, told, candidates):
    with pytest.raises(WrongUseError) as caught:
        spot(address)
    assert told in caught.value.sentence()
    assert list(caught.value.candidates) == candidates


def test_an_answer_that_stands_in_two_passes_must_be_named():
    component = (
        '<component name="Microsoft-Windows-Shell-Setup" processorArchitecture="amd64" publicKeyToken='
        '"31bf3856ad364e35" language="neutral" versionScope="nonSxS"><TimeZone>UTC</TimeZone></component>'
    )
    passes = [f'<settings pass="{name}">{component}</settings>' for name in ("specialize", "oobeSystem")]

    def found(*settings: str):
        text = f'<unattend xmlns="urn:schemas-microsoft-com:unattend">{"".join(settings)}</unattend>'
        subject = opened(NOWHERE / "x.xml", data=text.encode())
        return locate("TimeZone", WINDOWS, subject.seats, pass_names("windows"))

    late = found(passes[1])
    assert (late.pass_, late.said) == ("oobeSystem", "in the pass oobeSystem, where it is answered already")
    usual = found()
    assert (usual.pass_, usual.said) == ("specialize", "in the pass specialize, the usual one for it")
    with pytest.raises(WrongUseError, match="is answered in 2 passes") as caught:
        found(*passes)
    assert [one.split(":")[0] for one in caught.value.candidates] == ["specialize", "oobeSystem"]


def test_words_of_other_releases_are_sent_on():
    old = Catalog("windows", target_named("windows-7"))
    with pytest.raises(WrongUseError) as caught:
        matching("OOBE/HideOnlineAccountScreens", old)
    assert "other releases have Microsoft-Windows-Shell-Setup/OOBE/HideOnlineAccountScreens" in caught.value.sentence()
    names = {f"{known.name}/{one.path}" for known, one in matching("windowsPE:UILanguage", WINDOWS)}
    assert "Microsoft-Windows-International-Core/UILanguage" in names
