"""Settings that cancel each other out, values that the release ignores, and what is out of range."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fairledger.catalog.values import values
from fairledger.checks.rule import Hit, View, rule
from fairledger.model.places import Place
from fairledger.model.sheet import visible
from fairledger.profiles.access import ACCESS
from fairledger.profiles.features import FEATURES
from fairledger.profiles.firewall import FIREWALL
from fairledger.profiles.identity import IDENTITY
from fairledger.profiles.join import JOIN
from fairledger.profiles.locale import LOCALE
from fairledger.profiles.network import NETWORK, Interface
from fairledger.profiles.packages import PACKAGES
from fairledger.profiles.services import SERVICES

_LINUX = "#version=RHEL9\n"
_STATIC = "network --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0"


def _both(one: tuple[object, ...], other: tuple[object, ...], place: Place, words: str) -> Iterator[Hit]:
    for name in one:
        if name in other:
            yield Hit(place, f"{visible(str(name))} is {words}", "take one of the two out")


@rule(
    "service-both",
    "error",
    "A service is both switched on and switched off.",
    reads=("services",),
    fires=_LINUX + "services --enabled=chronyd,sshd --disabled=chronyd\n",
    silent=_LINUX + "services --enabled=sshd --disabled=chronyd\n",
)
def service_both(view: View) -> Iterator[Hit]:
    """Services in both lists."""
    found = view.intent.get(SERVICES)
    if found is not None:
        place = view.intent.place("services", "enabled", 0)
        yield from _both(found.enabled, found.disabled, place, "both enabled and disabled")


@rule(
    "package-both",
    "warning",
    "A package is both wanted and left out.",
    reads=("packages",),
    fires=_LINUX + "%packages\nchrony\n-chrony\n%end\n",
    silent=_LINUX + "%packages\nchrony\n-cockpit\n%end\n",
)
def package_both(view: View) -> Iterator[Hit]:
    """Packages and groups in both lists."""
    found = view.intent.get(PACKAGES)
    if found is not None:
        place = view.intent.place("packages", "packages", 0)
        yield from _both(found.packages, found.exclude, place, "both installed and left out")
        yield from _both(found.groups, found.exclude_groups, place, "both installed and left out")


@rule(
    "feature-both",
    "error",
    "A feature is both switched on and off, or added and removed.",
    reads=("features",),
    fires='[features]\non = ["TelnetClient"]\noff = ["TelnetClient"]\n',
    silent='[features]\non = ["TelnetClient"]\n',
)
def feature_both(view: View) -> Iterator[Hit]:
    """Features in both lists."""
    found = view.intent.get(FEATURES)
    if found is not None:
        yield from _both(found.on, found.off, view.intent.place("features", "on", 0), "both on and off")
        yield from _both(found.add, found.remove, view.intent.place("features", "add", 0), "both added and removed")


@rule(
    "interface-twice",
    "warning",
    "An interface is configured twice: the last word counts, or both are mixed.",
    reads=("network",),
    fires=_LINUX + _STATIC + "\nnetwork --device=eno1 --bootproto=dhcp\n",
    silent=_LINUX + _STATIC + "\nnetwork --device=eno2 --bootproto=dhcp\n",
)
def interface_twice(view: View) -> Iterator[Hit]:
    """Interfaces whose name repeats, virtual networks on them aside."""
    seen: set[object] = set()
    for at, one in _interfaces(view):
        name = (one.name, one.vlan) if isinstance(one.name, str) and one.name else None
        if name is not None and name in seen:
            spot = view.intent.place("network", "interface", at, "name")
            yield Hit(spot, f"{visible(str(one.name))} is configured twice", "put both into one")
        seen.add(name)


@rule(
    "name-server-twice",
    "advice",
    "A name server stands twice: it is asked twice, and no other helps when it fails.",
    reads=("network",),
    fires=_LINUX + _STATIC + " --nameserver=192.0.2.53,192.0.2.53\n",
    silent=_LINUX + _STATIC + " --nameserver=192.0.2.53,198.51.100.53\n",
)
def name_server_twice(view: View) -> Iterator[Hit]:
    """Name servers that repeat, and more than the three that are ever asked."""
    for at, one in _interfaces(view):
        spot = view.intent.place("network", "interface", at, "name_servers")
        if len(set(one.name_servers)) < len(one.name_servers):
            yield Hit(spot, "a name server stands twice", "name each once")
        elif len(one.name_servers) > 3 and view.limits.mounts:
            yield Hit(spot, f"{len(one.name_servers)} name servers are named, three are asked at most", "name three")


@rule(
    "mtu-unusual",
    "warning",
    "The size of packets is outside of what networks carry.",
    reads=("network",),
    fires=_LINUX + _STATIC + " --mtu=150\n",
    silent=_LINUX + _STATIC + " --mtu=9000\n",
)
def mtu_unusual(view: View) -> Iterator[Hit]:
    """Packets below 576 or above 9216 bytes; IPv6 wants 1280."""
    for at, one in _interfaces(view):
        least = 1280 if one.ipv6 not in (None, "off") else 576
        if isinstance(one.mtu, int) and not least <= one.mtu <= 9216:
            spot = view.intent.place("network", "interface", at, "mtu")
            yield Hit(spot, f"packets of {one.mtu} bytes are unusual", f"use {least} to 9216, normally 1500")


@rule(
    "vlan-number",
    "error",
    "Virtual networks are numbered from 1 to 4094.",
    reads=("network",),
    fires=_LINUX + "network --device=eno1 --bootproto=dhcp --vlanid=5000\n",
    silent=_LINUX + "network --device=eno1 --bootproto=dhcp --vlanid=20\n",
)
def vlan_number(view: View) -> Iterator[Hit]:
    """Numbers that no virtual network has."""
    for at, one in _interfaces(view):
        if isinstance(one.vlan, int) and not 0 <= one.vlan <= 4094:
            spot = view.intent.place("network", "interface", at, "vlan")
            yield Hit(spot, f"there is no virtual network {one.vlan}", "use a number from 1 to 4094")


@rule(
    "address-six",
    "error",
    "What is given as an IPv6 address is none.",
    reads=("network",),
    fires=_LINUX + "network --device=eno1 --bootproto=dhcp --ipv6=2001:db8::xyz/64\n",
    silent=_LINUX + "network --device=eno1 --bootproto=dhcp --ipv6=2001:db8::30/64\n",
)
def address_six(view: View) -> Iterator[Hit]:
    """IPv6 addresses and gateways that are none."""
    from ipaddress import IPv6Address, IPv6Interface

    for at, one in _interfaces(view):
        for field, kind in (("ipv6", IPv6Interface), ("ipv6_gateway", IPv6Address)):
            value = getattr(one, field)
            if isinstance(value, str) and value not in ("auto", "dhcp", "off"):
                try:
                    kind(value)
                except ValueError:
                    spot = view.intent.place("network", "interface", at, field)
                    yield Hit(spot, f"{visible(value)} is no IPv6 address", "write it as 2001:db8::30/64")


@rule(
    "wifi-key-length",
    "error",
    "The key of a wireless network has 8 to 63 characters.",
    reads=("network",),
    fires=_LINUX + 'network --device=wlp2s0 --bootproto=dhcp --essid=larkmoor --wpakey="heron"\n',
    silent=_LINUX + 'network --device=wlp2s0 --bootproto=dhcp --essid=larkmoor --wpakey="heron-heron"\n',
)
def wifi_key_length(view: View) -> Iterator[Hit]:
    """Keys of a wrong length; the key itself is not told."""
    for at, one in _interfaces(view):
        key = one.wifi_key.sources[0] if one.wifi_key is not None else None
        if key is not None and key.kind == "value" and isinstance(key.name, str) and not 8 <= len(key.name) <= 64:
            spot = view.intent.place("network", "interface", at, "wifi_key")
            yield Hit(spot, f"the key of the wireless network has {len(key.name)} characters", "use 8 to 63")


def _interfaces(view: View) -> Iterator[tuple[int, Interface]]:
    network = view.intent.get(NETWORK)
    yield from enumerate(network.interface if network else ())


@rule(
    "workgroup-name",
    "error",
    "The name of a workgroup holds characters that it cannot have.",
    reads=("join",),
    fires='[join]\nworkgroup = "LARK/MOOR"\n',
    silent='[join]\nworkgroup = "LARKMOOR"\n',
)
def workgroup_name(view: View) -> Iterator[Hit]:
    """Names that no workgroup can have."""
    join = view.intent.get(JOIN)
    name = join.workgroup if join else None
    if isinstance(name, str) and re.search(r'[\\/:*?"<>|,;=+\[\]]', name):
        told = f"{visible(name)!r} cannot be the name of a workgroup"
        yield Hit(view.intent.place("join", "workgroup"), told, "use letters, digits and hyphens")


@rule(
    "domain-name",
    "error",
    "What is given as a domain is none.",
    reads=("join",),
    fires='[join]\ndomain = "larkmoor example"\naccount = "joiner"\npassword = { env = "PW" }\n',
    silent='[join]\ndomain = "larkmoor.example"\naccount = "joiner"\npassword = { env = "PW" }\n',
)
def domain_name(view: View) -> Iterator[Hit]:
    """Domains with characters that no domain has."""
    join = view.intent.get(JOIN)
    name = join.domain if join else None
    if isinstance(name, str) and not re.fullmatch(r"[A-Za-z0-9_-]+(\.[A-Za-z0-9_-]+)*\.?", name):
        yield Hit(
            view.intent.place("join", "domain"), f"{visible(name)!r} is no domain", "write it as larkmoor.example"
        )


@rule(
    "unit-form",
    "error",
    "An organisational unit is written as a distinguished name, with its domain.",
    reads=("join",),
    fires='[join]\ndomain = "larkmoor.example"\naccount = "joiner"\npassword = { env = "PW" }\nunit = "Desks"\n',
    silent='[join]\ndomain = "larkmoor.example"\naccount = "joiner"\npassword = { env = "PW" }\n'
    'unit = "OU=Desks,DC=larkmoor,DC=example"\n',
)
def unit_form(view: View) -> Iterator[Hit]:
    """Units that are no distinguished names."""
    join = view.intent.get(JOIN)
    unit = join.unit if join else None
    whole = isinstance(unit, str) and re.match(r"\s*(OU|CN)\s*=", unit, re.IGNORECASE)
    domain = isinstance(unit, str) and re.search(r",\s*DC\s*=", unit, re.IGNORECASE)
    if isinstance(unit, str) and (not whole or (not domain and not view.limits.mounts)):
        told = f"{visible(unit)!r} is no distinguished name of a unit"
        yield Hit(view.intent.place("join", "unit"), told, "write it as OU=Desks,DC=larkmoor,DC=example")


@rule(
    "setup-language",
    "warning",
    "Setup itself does not speak this language: it stops and asks, or goes on in the medium's own.",
    reads=("locale",),
    fires='[locale]\nlanguage = "en-GB"\nsetup_language = "de-CH"\n',
    silent='[locale]\nlanguage = "de-CH"\nsetup_language = "de-DE"\n',
)
def setup_language(view: View) -> Iterator[Hit]:
    """Languages of setup that are formats only."""
    locale = view.intent.get(LOCALE)
    spoken = locale.setup_language if locale else None
    known = values().languages.get(spoken) if isinstance(spoken, str) else None
    if known is not None and not known.full and view.limits.accounts_come_last:
        told = f"setup does not speak {spoken}: there is no medium in that language"
        first = str(spoken).partition("-")[0]
        near = [tag for tag, one in values().languages.items() if one.full and tag.startswith(f"{first}-")]
        yield Hit(view.intent.place("locale", "setup_language"), told, f"use {' or '.join(near[:3]) or 'en-US'}")


@rule(
    "name-both",
    "error",
    "The machine's name is both given and to be made up.",
    reads=("identity",),
    fires='[identity]\nname = "LMR-DESK-01"\npattern = "LMR-{serial}"\n',
    silent='[identity]\nname = "LMR-DESK-01"\n',
)
def name_both(view: View) -> Iterator[Hit]:
    """Names that are said twice."""
    identity = view.intent.get(IDENTITY)
    if identity is not None and identity.name is not None and identity.pattern is not None:
        told = "the machine has a name and a pattern for one"
        yield Hit(view.intent.place("identity", "pattern"), told, "keep one of the two")


@rule(
    "name-usual",
    "advice",
    "Every machine has this name until it gets one of its own: on a network they cannot be told apart.",
    reads=("identity",),
    fires=_LINUX + "network --bootproto=dhcp --hostname=localhost.localdomain\n",
    silent=_LINUX + "network --bootproto=dhcp --hostname=lmr-gate-03\n",
)
def name_usual(view: View) -> Iterator[Hit]:
    """Names that are none."""
    identity = view.intent.get(IDENTITY)
    name = identity.name if identity else None
    if isinstance(name, str) and name.partition(".")[0].casefold() in ("localhost", "computer", "desktop", "server"):
        told = f"{visible(name)} is no name of its own"
        yield Hit(view.intent.place("identity", "name"), told, "give the machine a name")


@rule(
    "protection-off",
    "advice",
    "Access control or the firewall is switched off for good.",
    reads=("access", "firewall"),
    fires=_LINUX + "selinux --disabled\n",
    silent=_LINUX + "selinux --enforcing\nfirewall --enabled --service=ssh\n",
)
def protection_off(view: View) -> Iterator[Hit]:
    """Protection that is off."""
    access, firewall = view.intent.get(ACCESS), view.intent.get(FIREWALL)
    if access is not None and access.mode == "off":
        told = "access control is switched off"
        yield Hit(view.intent.place("access", "mode"), told, "use permissive to find out what it would forbid")
    if firewall is not None and firewall.enabled is False:
        yield Hit(view.intent.place("firewall", "enabled"), "the firewall is off", "let in what is needed instead")
    elif firewall is not None and firewall.enabled is None and firewall.services:
        return
