"""Addresses, gateways, name servers."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from fairledger.checks.rule import Hit, View, rule
from fairledger.model.sheet import visible
from fairledger.profiles.join import JOIN
from fairledger.profiles.network import NETWORK, Interface

if TYPE_CHECKING:
    from ipaddress import IPv4Interface

_GOOD = (
    '[network]\ninterface = [{ name = "eno1", method = "static", address = "192.0.2.30/24", gateway = "192.0.2.1", '
    'name_servers = ["192.0.2.53"] }]\n'
)
_HEAD = '[draft]\ntarget = "el-9"\n'


def _interfaces(view: View) -> Iterator[tuple[int, Interface]]:
    network = view.intent.get(NETWORK)
    yield from enumerate(network.interface if network else ())


def _address(one: Interface) -> IPv4Interface | None:
    from ipaddress import IPv4Interface

    try:
        return IPv4Interface(one.address) if isinstance(one.address, str) else None
    except ValueError:
        return None


@rule(
    "static-incomplete",
    "error",
    "A fixed address lacks a part: the installer stops and asks, or there is no network.",
    reads=("network",),
    fires="#version=RHEL9\nnetwork --device=eno1 --bootproto=static --ip=192.0.2.30\n",
    silent="#version=RHEL9\nnetwork --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0\n",
)
def static_incomplete(view: View) -> Iterator[Hit]:
    """Static interfaces without address or mask; addresses on interfaces that ask a server."""
    for at, one in _interfaces(view):
        spot = view.intent.place("network", "interface", at)
        named = one.name or "the interface"
        if one.method == "static" and one.address is None and one.ipv6 in (None, "off"):
            yield Hit(spot, f"{named} is static, but has no address with its mask", "give it address and mask")
        elif one.method == "dhcp" and one.address is not None:
            told = f"{named} has an address, but asks a server for one"
            yield Hit(spot, told, "say static, or take the address out", "warning")


@rule(
    "gateway-missing",
    "advice",
    "Without a gateway the machine does not leave its own network.",
    reads=("network",),
    fires=_HEAD + _GOOD.replace('gateway = "192.0.2.1", ', ""),
    silent=_HEAD + _GOOD,
)
def gateway_missing(view: View) -> Iterator[Hit]:
    """Static interfaces, none of which has a gateway."""
    rows = [(at, one) for at, one in _interfaces(view) if one.method == "static" and one.address is not None]
    if rows and all(one.gateway is None for _, one in rows):
        spot = view.intent.place("network", "interface", rows[0][0])
        yield Hit(spot, "no interface has a gateway", "name one, if the machine leaves its own network")


@rule(
    "gateway-outside",
    "error",
    "The gateway is not in the interface's network: nothing leaves it.",
    reads=("network",),
    fires=_HEAD + _GOOD.replace('"192.0.2.1"', '"198.51.100.1"'),
    silent=_HEAD + _GOOD,
)
def gateway_outside(view: View) -> Iterator[Hit]:
    """Gateways outside their subnets, or equal to the machine's own address."""
    from ipaddress import ip_address

    for at, one in _interfaces(view):
        address = _address(one)
        if address is None or not isinstance(one.gateway, str):
            continue
        try:
            gateway = ip_address(one.gateway)
        except ValueError:
            continue
        spot = view.intent.place("network", "interface", at, "gateway")
        if gateway not in address.network:
            told = f"the gateway {gateway} is not in the network {address.network}"
            yield Hit(spot, told, "correct the gateway, or the mask")
        elif gateway == address.ip:
            yield Hit(spot, f"the gateway {gateway} is the machine itself", "name the router")


@rule(
    "address-unusable",
    "error",
    "The address is the network's own or its broadcast address, which no machine can have.",
    reads=("network",),
    fires=_HEAD + _GOOD.replace("192.0.2.30/24", "192.0.2.255/24"),
    silent=_HEAD + _GOOD,
)
def address_unusable(view: View) -> Iterator[Hit]:
    """First and last addresses of a network."""
    for at, one in _interfaces(view):
        address = _address(one)
        if address is None or address.network.prefixlen >= 31:
            continue
        if address.ip in (address.network.network_address, address.network.broadcast_address):
            spot = view.intent.place("network", "interface", at, "address")
            yield Hit(spot, f"no machine can have the address {address}", "choose one inside the network")


@rule(
    "name-server",
    "error",
    "A name server is not given by its address.",
    reads=("network",),
    fires=_HEAD + _GOOD.replace('"192.0.2.53"', '"dns.larkmoor.example"'),
    silent=_HEAD + _GOOD,
)
def name_server(view: View) -> Iterator[Hit]:
    """Name servers by name."""
    from ipaddress import ip_address

    for at, one in _interfaces(view):
        for server in one.name_servers:
            try:
                known = not isinstance(server, str) or bool(ip_address(server.strip()))
            except ValueError:
                known = False
            if not known:
                spot = view.intent.place("network", "interface", at, "name_servers")
                yield Hit(spot, f"{visible(str(server))} is no address of a name server", "write its IP address")


@rule(
    "address-twice",
    "error",
    "Two interfaces have the same address.",
    reads=("network",),
    fires=_HEAD
    + '[network]\ninterface = [{ name = "a", address = "192.0.2.30/24" }, { name = "b", address = "192.0.2.30/24" }]\n',
    silent=_HEAD + _GOOD,
)
def address_twice(view: View) -> Iterator[Hit]:
    """Addresses given twice."""
    seen: set[object] = set()
    for at, one in _interfaces(view):
        address = _address(one)
        if address is not None and address.ip in seen:
            spot = view.intent.place("network", "interface", at, "address")
            yield Hit(spot, f"two interfaces have the address {address.ip}", "give each its own")
        if address is not None:
            seen.add(address.ip)


_DOMAIN = '[join]\ndomain = "larkmoor.example"\n'


@rule(
    "join-both",
    "error",
    "A machine joins a domain or a workgroup, not both: setup refuses the file.",
    reads=("join",),
    fires=f'{_DOMAIN}account = "joiner"\npassword = {{ env = "PW" }}\nworkgroup = "LARKMOOR"\n',
    silent='[join]\nworkgroup = "LARKMOOR"\n',
)
def join_both(view: View) -> Iterator[Hit]:
    """Domain and workgroup in one file."""
    join = view.intent.get(JOIN)
    if join is not None and join.domain and join.workgroup:
        told = "the machine is to join a domain and a workgroup"
        yield Hit(view.intent.place("join", "workgroup"), told, "take one of them out")


@rule(
    "join-without-account",
    "warning",
    "Only an account with the right to do so can add a machine to a domain, unless the domain was prepared for it.",
    reads=("join",),
    fires=_DOMAIN,
    silent=f'{_DOMAIN}account = "joiner"\npassword = {{ env = "PW" }}\n',
)
def join_without_account(view: View) -> Iterator[Hit]:
    """A domain without an account, or without its password."""
    join = view.intent.get(JOIN)
    if join is not None and join.domain and not (join.account and join.password):
        missing = "an account" if not join.account else f"the password of {join.account}"
        hint = "add join.account and join.password, or prepare the machine's account in the domain"
        yield Hit(view.intent.place("join", "domain"), f"joining the domain needs {missing}", hint)
