"""Wireless profiles: the key is in none but the private file, and no value leaves its element."""

from __future__ import annotations

import pytest
from lxml import etree

from factories import DESK, check, draft, issue, rules_of, settled_file
from fairledger.profiles.secrets import Secrets

STORE = """
[[network.interface]]
ssid = "monkey & >moor"
wifi_key = { env = "STORE_KEY" }
wifi_hidden = true
"""
KEY = 'a<b>&"c"\'d1'
SPACE = {"w": "http://www.microsoft.com/networking/WLAN/profile/v1"}


def test_the_profile_says_what_the_draft_says(tmp_path, monkeypatch):
    monkeypatch.setenv("STORE_KEY", KEY)
    made, _ = issue(draft(STORE), tmp_path, Secrets(tmp_path))
    assert made.files, made.report.findings
    path = tmp_path / "fair-ledger/1-wireless.xml"
    root = etree.parse(path).getroot()
    said = {name: root.findtext(f".//w:{name}", None, SPACE) for name in ("name", "nonBroadcast", "keyMaterial")}
    assert said == {"name": "monkey & >moor", "nonBroadcast": "true", "keyMaterial": KEY}
    assert root.findtext(".//w:authentication", None, SPACE) == "WPA2PSK"
    assert path.stat().st_mode & 0o077 == 0
    answers = next(tmp_path.glob("*.xml")).read_text()
    assert KEY not in answers
    assert "netsh.exe wlan add profile user=all filename=%d:" in answers


def test_it_comes_back_with_its_key_as_a_reference(tmp_path, monkeypatch):
    monkeypatch.setenv("STORE_KEY", KEY)
    made, _ = issue(draft(STORE), tmp_path, Secrets(tmp_path))
    assert made.files, made.report.findings
    text = next(tmp_path.glob("*.xml")).read_text()
    found = settled_file(text, tmp_path / "unattend.xml", DESK)
    interface = found.intent.sections["network"].interface[0]
    assert (interface.name, interface.ssid, interface.wifi_hidden) == ("Wi-Fi", "monkey & >moor", True)
    assert KEY not in repr([one.told for one in found.sheet.companions])
    path = tmp_path / "fair-ledger/1-wireless.xml"
    own = path.read_text()
    for odd in (
        own.replace("keyMaterial>", "w:keyMaterial>"),
        own.replace("</MSM>", f"<keyMaterial>{KEY}</keyMaterial></MSM>"),
    ):
        path.write_text(odd)
        told = repr([one.told for one in settled_file(text, tmp_path / "unattend.xml", DESK).sheet.companions])
        assert "a&lt;b" not in told
        assert "a<b" not in told
    path.write_text("<WLANProfile/>")
    again = settled_file(text, tmp_path / "unattend.xml", DESK)
    assert "network" not in again.intent.sections


@pytest.mark.parametrize(
    ("fragment", "told"),
    [
        ('ssid = "moor"\nwifi_security = "enterprise"', "an enterprise's wireless network"),
        ('wifi_key = { env = "K" }', "a wireless network has no name"),
        ('ssid = "moor"\nwifi_security = "open"\nwifi_key = { env = "K" }', "an open network has a key"),
        ('ssid = "moor"\nwifi_security = "wpa2"', "a wireless network has no key"),
    ],
)
def test_what_no_profile_can_hold_is_said(fragment, told):
    report = check(f"[[network.interface]]\n{fragment}\n")
    assert any(told in one.message for one in report.findings)


def test_a_server_needs_its_service():
    server = '[draft]\ntarget = "windows-server-2022"\n[[network.interface]]\nssid = "moor"\n'
    assert "not-expressible" in rules_of(check(server))
    assert rules_of(check(server + '[features]\non = ["WirelessNetworking"]\n')) == []
