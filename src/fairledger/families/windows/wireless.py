"""Wireless networks: a profile of the system's own XML form lies beside the answer file, and its network shell adds it.

The form is that of the vendor's public schema of wireless profiles. Only networks that are open or have one key for all
(personal security) can be written so: an enterprise's needs certificates and accounts of its own.
"""

from __future__ import annotations

import re

from lxml import etree
from msgspec.structs import replace

from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import (
    ANY,
    AS_SYSTEM,
    FOLDER,
    add_command,
    commands_at,
    launched,
    launcher,
)
from fairledger.intent.network import Interface
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.sheet import SECRET, Companion
from fairledger.model.values import SecretRef, SecretSource, Text, concat, escape_text, escaped, parse_text

_NAMESPACE = "http://www.microsoft.com/networking/WLAN/profile/v1"
_ADDS = "netsh.exe wlan add profile user=all filename="
_USUAL = "Wi-Fi"
"""What the system calls its first wireless interface; a profile is for all of them."""
_KINDS = {"open": ("open", "none"), "wpa2": ("WPA2PSK", "AES"), "wpa3": ("WPA3SAE", "AES")}
_WPA3_FROM = 18362
_SERVICE = "WirelessNetworking"
"""The feature without which a server has no wireless service."""
_XML = "xml-text"
_SECRET_TAG = pattern(r"</?([^>\s/]*(?:key|pass)[^>\s/]*)", re.IGNORECASE)
FIELDS = ("ssid", "wifi_key", "wifi_hidden", "wifi_security")


def possible(one: Interface, build: str) -> bool:
    """Whether a network can be written as a profile for a build."""
    new = not build.isdecimal() or int(build) >= _WPA3_FROM
    kind = security(one)
    return bool(one.ssid) and kind in _KINDS and (kind != "wpa3" or new) and (kind == "open") == (one.wifi_key is None)


def security(one: Interface) -> str:
    """How a network is secured: as is said, else by whether it has a key."""
    return one.wifi_security or ("wpa2" if one.wifi_key is not None else "open")


def bare(one: Interface) -> Interface:
    """An interface without its wireless network."""
    return replace(one, ssid=None, wifi_key=None, wifi_hidden=False, wifi_security=None)


def merged(wired: list[Interface], wireless: list[Interface]) -> list[Interface]:
    """Interfaces with the wireless networks, each with the interface that the system gives its name."""
    rows = list(wired)
    for number, one in enumerate(wireless, 1):
        name = _USUAL if number == 1 else f"{_USUAL} {number}"
        fields = {field: getattr(one, field) for field in FIELDS}
        at = next((at for at, row in enumerate(rows) if row.name == name), None)
        if at is None:
            rows.append(Interface(name=name, **fields))
        else:
            rows[at] = replace(rows[at], **fields)
    return rows


def canonical(one: Interface) -> Interface:
    """A network with its security where that is not the usual one."""
    usual = "wpa2" if one.wifi_key is not None else "open"
    kind = security(one)
    return replace(one, wifi_security=None if kind == usual else kind)


def tell(one: Interface, path: tuple[str | int, ...], words: Words) -> None:
    """Says what no profile can hold."""
    kind, hint = security(one), "let a command bring a profile that a machine of the organisation has exported"
    if kind == "enterprise":
        why = "it needs certificates or accounts of the organisation"
        words.cannot((*path, "wifi_security"), "an enterprise's wireless network", why, hint)
    elif kind == "wpa3" and not possible(one, words.target.build) and one.wifi_key is not None:
        why = "that came with version 1903"
        words.cannot((*path, "wifi_security"), "a wireless network of that kind", why, 'write wifi_security = "wpa2"')
    elif one.ssid is None:
        words.field_error((*path, "wifi_key"), "a wireless network has no name", "write ssid")
    else:
        told = "an open network has a key" if kind == "open" else "a wireless network has no key"
        words.field_error((*path, "wifi_key"), told, 'write wifi_key, or wifi_security = "open"')


def translate(one: Interface, path: tuple[str | int, ...], words: Words) -> None:
    """The profile, and the command that adds it."""
    if not possible(one, words.target.build):
        tell(one, path, words)
        return
    name = f"{FOLDER}/{len(words.out.companions) + 1}-wireless.xml"
    words.out.companions.append(Companion(name, _profile(one), words.origin(*path, "ssid"), one.wifi_key))
    features = words.intent.sections.get("features")
    if words.target.line == "server" and _SERVICE not in getattr(features, "on", ()):
        why, hint = "its wireless service is a feature that is off", f'write on = ["{_SERVICE}"] in [features]'
        words.cannot((*path, "ssid"), "a wireless network by itself", why, hint, Severity.WARNING)
    about = concat("Wireless network ", one.ssid or "")
    add_command(words, AS_SYSTEM, launcher(name, _ADDS), about, words.origin(*path, "ssid"))


def _profile(one: Interface) -> Text:
    authentication, encryption = _KINDS[security(one)]
    ssid = escaped(one.ssid or "", _XML)
    key = (
        "<sharedKey><keyType>passPhrase</keyType><protected>false</protected>"
        f"<keyMaterial>{SECRET}</keyMaterial></sharedKey>"
    )
    return concat(
        f'<?xml version="1.0"?>\n<WLANProfile xmlns="{_NAMESPACE}">\n  <name>',
        ssid,
        "</name>\n  <SSIDConfig>\n    <SSID><name>",
        ssid,
        f"</name></SSID>\n    <nonBroadcast>{str(one.wifi_hidden).lower()}</nonBroadcast>\n  </SSIDConfig>\n"
        "  <connectionType>ESS</connectionType>\n  <connectionMode>auto</connectionMode>\n  <MSM>\n    <security>\n"
        f"      <authEncryption><authentication>{authentication}</authentication>"
        f"<encryption>{encryption}</encryption><useOneX>false</useOneX></authEncryption>\n"
        + (f"      {key}\n" if one.wifi_key is not None else "")
        + "    </security>\n  </MSM>\n</WLANProfile>\n",
    )


def parted(name: str, text: str) -> Companion:
    """A profile that was read, its key apart from the rest; as it is where it is none."""
    before, start, rest = text.partition("<keyMaterial>")
    key, end, after = rest.partition("</keyMaterial>")
    if (set(_SECRET_TAG.findall(before + after)) - {"sharedKey", "keyType"}) or (start and not end):
        # a key that stands otherwise than we write it: nothing of the file is shown
        return Companion(name, SECRET, secret=SecretRef((SecretSource("value", text),)))
    if not start:
        return Companion(name, text)
    plain = key.replace("&lt;", "<").replace("&gt;", ">").replace("&quot;", '"').replace("&amp;", "&")
    secret = SecretRef((SecretSource("value", plain),))
    return Companion(name, f"{before}{start}{SECRET}{end}{after}", secret=secret)


def recognise(reader: Reader) -> list[Interface]:
    """The networks of profiles that would be written in the very same way."""
    found: list[Interface] = []
    for item, line in commands_at(reader, AS_SYSTEM, ANY):
        name = launched(line) if _ADDS in line else ""
        there = next((one for one in reader.seats.companions if one.name == name and name), None)
        made = _read(there) if there is not None else None
        if there is not None and made is not None and str(_profile(made)).strip() == str(there.body).strip():
            found.append(canonical(made))
            reader.take(item, "network", whole=True)
    return found


def _read(companion: Companion) -> Interface | None:
    body = companion.body
    text = escape_text(body) if isinstance(body, str) else str(body)
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False)
    try:
        root = etree.fromstring(text.replace(SECRET, "").encode(), parser)
    except (etree.XMLSyntaxError, ValueError):
        return None

    def of(path: str) -> str:
        way = "/".join(f"{{{_NAMESPACE}}}{step}" for step in path.split("/"))
        return root.findtext(way) or ""

    pair = (of("MSM/security/authEncryption/authentication"), of("MSM/security/authEncryption/encryption"))
    kind = next((name for name, one in _KINDS.items() if one == pair), None)
    ssid = of("SSIDConfig/SSID/name")
    if kind is None or not ssid:
        return None
    told = parse_text(ssid)
    hidden = of("SSIDConfig/nonBroadcast") == "true"
    return Interface(ssid=told, wifi_key=companion.secret, wifi_hidden=hidden, wifi_security=kind)  # type: ignore[arg-type]
