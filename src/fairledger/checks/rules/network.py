"""Addresses, gateways, name servers."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from fairledger.catalog.seats import Seat
from fairledger.checks.claims import CATALOG, KICKSTART, PRACTICE, SELF
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.network import NETWORK, Interface
from fairledger.model.addresses import read_address, read_interface, read_interface_4
from fairledger.model.finding import Severity
from fairledger.model.showing import visible

if TYPE_CHECKING:
    from ipaddress import IPv4Interface, IPv4Network

_GOOD = (
    '[network]\ninterface = [{ name = "eno1", method = "static", address = "192.0.2.30/24", gateway = "192.0.2.1", '
    'name_servers = ["192.0.2.53"] }]\n'
)
_LINUX = "#version=RHEL9\n"
_STATIC = "network --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0"
_HEAD = '[draft]\ntarget = "el-9"\n'


def _interfaces(view: View) -> Iterator[tuple[int, Interface]]:
    network = view.intent.get(NETWORK)
    yield from enumerate(network.interface if network else ())


def _address(one: Interface) -> IPv4Interface | None:
    return read_interface_4(one.address) if isinstance(one.address, str) else None


@rule(
    "static-incomplete",
    Severity.ERROR,
    "A fixed address lacks a part: the installer stops and asks, or there is no network.",
    source=f"{KICKSTART}, network --bootproto=static",
    fires="#version=RHEL9\nnetwork --device=eno1 --bootproto=static --ip=192.0.2.30\n",
    silent="#version=RHEL9\nnetwork --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0\n",
)
def static_incomplete(view: View) -> Iterator[Hit]:
    """Static interfaces without address or mask; addresses on interfaces that ask a server."""
    for place, one in _interfaces(view):
        spot = view.intent.placed("network", "interface", place)
        named = one.name or "the interface"
        # an interface may have a fixed IPv6 address alone
        if one.method == "static" and one.address is None and one.ipv6 in (None, "off"):
            yield Hit(spot, f"{named} is static, but has no address with its mask", "give it address and mask")
        elif one.method == "dhcp" and one.address is not None:
            told = f"{named} has an address, but asks a server for one"
            yield Hit(spot, told, "say static, or take the address out", Severity.WARNING)


@rule(
    "gateway-missing",
    Severity.ADVICE,
    "Without a gateway the machine does not leave its own network.",
    source=PRACTICE,
    fires=_HEAD + _GOOD.replace('gateway = "192.0.2.1", ', ""),
    silent=_HEAD + _GOOD,
)
def gateway_missing(view: View) -> Iterator[Hit]:
    """Static interfaces, none of which has a gateway."""
    rows = [(place, one) for place, one in _interfaces(view) if one.method == "static" and one.address is not None]
    ways = any(one.method == "dhcp" or one.ipv6_gateway or one.ipv6 == "auto" for _, one in _interfaces(view))
    if rows and all(one.gateway is None for _, one in rows) and not ways and not any(view.having("next-hop")):
        spot = view.intent.placed("network", "interface", rows[0][0])
        yield Hit(spot, "no interface has a gateway", "name one, if the machine leaves its own network")


@rule(
    "gateway-outside",
    Severity.ERROR,
    "The gateway is not in the interface's network: nothing leaves it.",
    source="RFC 4632, addresses and their networks",
    fires=_HEAD + _GOOD.replace('"192.0.2.1"', '"198.51.100.1"'),
    silent=_HEAD + _GOOD,
)
def gateway_outside(view: View) -> Iterator[Hit]:
    """Gateways outside their subnets, or equal to the machine's own address."""
    for place, one in _interfaces(view):
        own, gateway = _address(one), read_address(one.gateway) if isinstance(one.gateway, str) else None
        if own is None or gateway is None:
            continue
        spot = view.intent.placed("network", "interface", place, "gateway")
        if gateway not in own.network:
            told = f"the gateway {gateway} is not in the network {own.network}"
            yield Hit(spot, told, "correct the gateway, or the mask")
        elif gateway == own.ip:
            yield Hit(spot, f"the gateway {gateway} is the machine itself", "name the router")
        # a network of two machines has no address of its own, and none for all (RFC 3021)
        elif own.network.prefixlen < 31 and gateway in (own.network.network_address, own.network.broadcast_address):
            yield Hit(spot, f"no router can have the address {gateway}", "choose one inside the network")
    # those were judged above, as what the section says
    known = {str(one.gateway) for _, one in _interfaces(view)}
    for hop in view.having("next-hop"):
        networks = _networks_around(hop)
        if hop.text and hop.text not in known and networks and not any(_inside(hop.text, one) for one in networks):
            told = f"the router {visible(hop.text)} is not in the network {networks[0]} of its interface"
            yield at(hop, told, "correct the router, or the mask")


def _networks_around(hop: Seat) -> list[IPv4Network]:
    """The networks of the fixed addresses of an interface to which a route belongs."""
    known = hop.component.settings if hop.component is not None else ()
    own = [one.path for one in known if "own-address" in one.traits]
    around = hop.parent
    # up to the first table that can hold addresses as well
    while around is not None and not any(path.startswith(f"{around.path}/") for path in own):
        around = around.parent
    below = around.walk() if around is not None else []
    seats = [one for one in below if one.setting is not None and "own-address" in one.setting.traits]
    return [found.network for seat in seats if (found := read_interface_4(seat.text or "")) is not None]


def _inside(hop: str, network: IPv4Network) -> bool:
    found = read_address(hop.strip())
    # what is of another kind, or no address, is not for this rule
    return found is None or found.version != network.version or found in network


@rule(
    "address-unusable",
    Severity.ERROR,
    "The address is the network's own or its broadcast address, which no machine can have.",
    source="RFC 4632, addresses and their networks",
    fires=_HEAD + _GOOD.replace("192.0.2.30/24", "192.0.2.255/24"),
    silent=_HEAD + _GOOD,
    by_itself=True,
)
def address_unusable(view: View) -> Iterator[Hit]:
    """First and last addresses of a network."""
    for place, one in _interfaces(view):
        address = _address(one)
        # a network of one or two machines has neither (RFC 3021)
        if address is None or address.network.prefixlen >= 31:
            continue
        if address.ip in (address.network.network_address, address.network.broadcast_address):
            spot = view.intent.placed("network", "interface", place, "address")
            yield Hit(spot, f"no machine can have the address {address}", "choose one inside the network")


@rule(
    "name-server",
    Severity.ERROR,
    "A name server is not given by its address.",
    source=f"{CATALOG}, name servers by address",
    fires=_HEAD + _GOOD.replace('"192.0.2.53"', '"dns.larkmoor.example"'),
    silent=_HEAD + _GOOD,
    by_itself=True,
)
def name_server(view: View) -> Iterator[Hit]:
    """Name servers by name."""
    for place, one in _interfaces(view):
        for server in one.name_servers:
            if isinstance(server, str) and read_address(server.strip()) is None:
                spot = view.intent.placed("network", "interface", place, "name_servers")
                yield Hit(spot, f"{visible(str(server))} is no address of a name server", "write its IP address")


@rule(
    "address-twice",
    Severity.ERROR,
    "Two interfaces have the same address.",
    source=PRACTICE,
    fires=_HEAD
    + '[network]\ninterface = [{ name = "a", address = "192.0.2.30/24" }, { name = "b", address = "192.0.2.30/24" }]\n',
    silent=_HEAD + _GOOD,
)
def address_twice(view: View) -> Iterator[Hit]:
    """Addresses given twice."""
    seen: set[object] = set()
    for place, one in _interfaces(view):
        address = _address(one)
        if address is not None and address.ip in seen:
            spot = view.intent.placed("network", "interface", place, "address")
            yield Hit(spot, f"two interfaces have the address {address.ip}", "give each its own")
        if address is not None:
            seen.add(address.ip)


@rule(
    "interface-twice",
    Severity.WARNING,
    "An interface is configured twice: the last word counts, or both are mixed.",
    source=SELF,
    fires=_LINUX + _STATIC + "\nnetwork --device=eno1 --bootproto=dhcp\n",
    silent=_LINUX + _STATIC + "\nnetwork --device=eno2 --bootproto=dhcp\n",
)
def interface_twice(view: View) -> Iterator[Hit]:
    """Interfaces whose name repeats, virtual networks on them aside."""
    seen: set[object] = set()
    for place, one in _interfaces(view):
        # several virtual networks on one interface are several interfaces
        name = (one.name, one.vlan) if isinstance(one.name, str) and one.name else None
        if name is not None and name in seen:
            spot = view.intent.placed("network", "interface", place, "name")
            yield Hit(spot, f"{visible(str(one.name))} is configured twice", "put both into one")
        seen.add(name)


@rule(
    "name-server-twice",
    Severity.ADVICE,
    "A name server stands twice: it is asked twice, and no other helps when it fails.",
    source=PRACTICE,
    fires=_LINUX + _STATIC + " --nameserver=192.0.2.53,192.0.2.53\n",
    silent=_LINUX + _STATIC + " --nameserver=192.0.2.53,198.51.100.53\n",
)
def name_server_twice(view: View) -> Iterator[Hit]:
    """Name servers that repeat, and more than are ever asked."""
    most = view.limits.name_servers
    for place, one in _interfaces(view):
        spot = view.intent.placed("network", "interface", place, "name_servers")
        if len(set(one.name_servers)) < len(one.name_servers):
            yield Hit(spot, "a name server stands twice", "name each once")
        elif most and len(one.name_servers) > most:
            told = f"{len(one.name_servers)} name servers are named, {most} are asked at most"
            yield Hit(spot, told, f"name {most}")


@rule(
    "mtu-unusual",
    Severity.WARNING,
    "The size of packets is outside of what networks carry.",
    source="RFC 791 and RFC 8200, least sizes of packets",
    fires=_LINUX + _STATIC + " --mtu=150\n",
    silent=_LINUX + _STATIC + " --mtu=9000\n",
)
def mtu_unusual(view: View) -> Iterator[Hit]:
    """Packets below 576 or above 9216 bytes; IPv6 wants 1280."""
    for place, one in _interfaces(view):
        # the least that IPv6 asks of a link (RFC 8200); IPv4 asks each machine to take 576 (RFC 791)
        least = 1280 if one.ipv6 not in (None, "off") else 576
        if isinstance(one.mtu, int) and not least <= one.mtu <= 9216:
            spot = view.intent.placed("network", "interface", place, "mtu")
            yield Hit(spot, f"packets of {one.mtu} bytes are unusual", f"use {least} to 9216, normally 1500")


@rule(
    "vlan-number",
    Severity.ERROR,
    "Virtual networks are numbered from 1 to 4094.",
    source="IEEE 802.1Q, identifiers of virtual networks",
    fires=_LINUX + "network --device=eno1 --bootproto=dhcp --vlanid=5000\n",
    silent=_LINUX + "network --device=eno1 --bootproto=dhcp --vlanid=20\n",
    by_itself=True,
)
def vlan_number(view: View) -> Iterator[Hit]:
    """Numbers that no virtual network has."""
    for place, one in _interfaces(view):
        # 0 marks a priority and no network; installers take it, and so nothing is said of it
        if isinstance(one.vlan, int) and not 0 <= one.vlan <= 4094:
            spot = view.intent.placed("network", "interface", place, "vlan")
            yield Hit(spot, f"there is no virtual network {one.vlan}", "use a number from 1 to 4094")


@rule(
    "address-six",
    Severity.ERROR,
    "What is given as an IPv6 address is none.",
    source="RFC 4291, the form of addresses",
    fires=_LINUX + "network --device=eno1 --bootproto=dhcp --ipv6=2001:db8::xyz/64\n",
    silent=_LINUX + "network --device=eno1 --bootproto=dhcp --ipv6=2001:db8::30/64\n",
    by_itself=True,
)
def address_six(view: View) -> Iterator[Hit]:
    """IPv6 addresses and gateways that are none."""
    for place, one in _interfaces(view):
        for field, read in (("ipv6", read_interface), ("ipv6_gateway", read_address)):
            value = getattr(one, field)
            if isinstance(value, str) and value not in ("auto", "dhcp", "off"):
                found = read(value)
                if found is None or found.version != 6:
                    spot = view.intent.placed("network", "interface", place, field)
                    yield Hit(spot, f"{visible(value)} is no IPv6 address", "write it as 2001:db8::30/64")


@rule(
    "wifi-key-length",
    Severity.ERROR,
    "The key of a wireless network has 8 to 63 characters.",
    source="IEEE 802.11, pass phrases of WPA",
    fires=_LINUX + 'network --device=wlp2s0 --bootproto=dhcp --essid=larkmoor --wpakey="heron"\n',
    silent=_LINUX + 'network --device=wlp2s0 --bootproto=dhcp --essid=larkmoor --wpakey="heron-heron"\n',
    by_itself=True,
)
def wifi_key_length(view: View) -> Iterator[Hit]:
    """Keys of a wrong length; the key itself is not told."""
    for place, one in _interfaces(view):
        key = one.wifi_key.sources[0] if one.wifi_key is not None else None
        # 64 characters are a key in hexadecimal digits instead of a pass phrase
        if key is not None and key.kind == "value" and isinstance(key.name, str) and not 8 <= len(key.name) <= 64:
            spot = view.intent.placed("network", "interface", place, "wifi_key")
            yield Hit(spot, f"the key of the wireless network has {len(key.name)} characters", "use 8 to 63")
