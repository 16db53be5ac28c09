"""Choices on Linux: said by services, packages and the firewall, behind what those say themselves."""

from __future__ import annotations

from factories import draft
from fairledger.exchange.compare import compare
from fairledger.subject.settling import settled


def meant(fragment: str, target: str = "el-9"):
    return draft(f'[draft]\ntarget = "{target}"\n{fragment}')


def test_a_choice_comes_out_in_the_sections_that_say_it():
    made = meant('[remote]\nssh_server = "on"\nweb_console = "on"\n[updates]\nautomatic = "install"\n').intent.sections
    assert made["services"].enabled == ("sshd", "cockpit.socket", "dnf-automatic-install.timer")
    assert made["packages"].packages == ("openssh-server", "cockpit", "dnf-automatic")
    assert (made["firewall"].enabled, made["firewall"].services) == (True, ("ssh", "cockpit"))
    assert "remote" not in made


def test_what_the_sections_say_themselves_stands():
    subject = meant(
        '[remote]\nssh_server = "on"\n[services]\ndisabled = ["sshd"]\n[firewall]\nenabled = false\n'
        '[packages]\nexclude = ["openssh-server"]\n'
    )
    made = subject.intent.sections
    assert (made["services"].enabled, made["services"].disabled) == ((), ("sshd",))
    assert made["firewall"].services == ()
    assert made["packages"].packages == ()


def test_what_has_no_counterpart_is_said_and_what_is_so_already_needs_nothing():
    found = meant('[desktop]\nmenus = "full"\n[updates]\nautomatic = "off"\n[services]\nmanual = ["x"]\n').findings
    said = {one.message: one.severity for one in found}
    assert any("cannot express desktop.menus" in one for one in said)
    assert any("updates.automatic = off: it is so already" in one for one in said)
    assert any("services.manual" in one for one in said)
    assert meant('[updates]\nautomatic = "install"\n', "el-10").findings[0].rule == "not-expressible"


def test_each_choice_is_told_with_its_place():
    subject = meant('[remote]\nssh_server = "on"\n')
    seat = next(one for one in subject.seats if one.text and "sshd" in one.text)
    assert seat.node.origin.line == 5
    (one,) = subject.family.chosen(subject.draft.intent, subject.target, subject.facts)
    assert (one.name, [each.kind for each in one.effects]) == ("remote.ssh_server", ["package", "service", "firewall"])


def test_services_are_compared_as_the_commands_that_they_are():
    sides = [settled(meant(f'[services]\nenabled = ["{name}"]\n')) for name in ("chronyd", "sshd")]
    (one,) = compare(*sides).differences
    assert (one.pass_, one.component, one.setting) == ("setup", "services", "--enabled")
