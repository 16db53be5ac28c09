"""Interfaces, name servers and time sources in the words of Windows setup."""

from __future__ import annotations

from typing import Any

from fairledger.catalog.seats import Seat
from fairledger.catalog.targets import reached
from fairledger.families.fields import text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.windows import wireless
from fairledger.families.windows.command_lines import (
    AS_SYSTEM,
    FIRST_SIGN_IN,
    POWERSHELL,
    add_command,
    commands_at,
    powershell,
    quoted_in,
)
from fairledger.families.windows.fields import truth_of
from fairledger.families.windows.names import SHELL
from fairledger.intent.network import Interface, Network
from fairledger.model.addresses import read_interface
from fairledger.model.finding import Severity
from fairledger.model.sheet import Branch
from fairledger.model.values import Template, Text, join, split

_TCP, _DNS = "Microsoft-Windows-TCPIP", "Microsoft-Windows-DNS-Client"
_LIST = "Interfaces/Interface"
_ROUTES = {"gateway": ("0", "0.0.0.0/0"), "ipv6_gateway": ("1", "::/0")}
_FOREIGN = ("mtu", "vlan", "bond", "bond_options", "bridge")
_PAGE = "OOBE/NetworkLocation"
_PLACES = {"private": "Work", "public": "Other"}
_SWITCHES = {
    name: f"Get-NetConnectionProfile | Set-NetConnectionProfile -NetworkCategory {name.capitalize()}"
    for name in _PLACES
}
_TIME = r"Set-ItemProperty HKLM:\SYSTEM\CurrentControlSet\Services\W32Time\Parameters NtpServer "
_MARK = ",0x8"
"""What stands behind each time source: it is asked as a client asks."""


def canonical(value: Network, words: Words) -> Network | None:
    """What the settings can hold: interfaces with a name, those with addresses first."""
    by_name = {row.name: row for row in reversed(value.interface)}
    kept = [one for row in value.interface if by_name[row.name] is row and (one := _kept(row)) is not None]
    kept.sort(key=lambda one: not _has_addresses(one))
    radios = [wireless.canonical(row) for row in value.interface if wireless.possible(row, words.target.build)]
    kept = wireless.merged(kept, radios)
    sources = tuple(one for one in value.time_sources if one)
    made = Network(interface=tuple(kept), time_sources=sources, location=value.location)
    return made if made != Network() else None


def _kept(one: Interface) -> Interface | None:
    if not _usable(one):
        return None
    return Interface(
        name=one.name,
        method="static"
        if one.method in (None, "off") and _whole(one.address, 4)
        else one.method
        if one.method != "off"
        else None,
        address=one.address if _whole(one.address, 4) else None,
        gateway=one.gateway or None,
        name_servers=one.name_servers,
        ipv6=one.ipv6 if one.ipv6 == "dhcp" or _whole(one.ipv6, 6) else None,
        ipv6_gateway=one.ipv6_gateway or None,
    )


def _has_addresses(one: Interface) -> bool:
    return bool(one.method or one.address or one.gateway or one.ipv6 or one.ipv6_gateway)


def _usable(one: Interface) -> bool:
    said = (one.method in ("dhcp", "static"), _whole(one.address, 4), one.gateway, one.name_servers)
    six = (one.ipv6 == "dhcp", _whole(one.ipv6, 6), one.ipv6_gateway)
    return bool(one.name) and one.name != "link" and any((*said, *six))


def _whole(address: Text | None, version: int) -> bool:
    """Whether it is an address with the length of its network; a placeholder may stand for any of it."""
    if isinstance(address, Template):
        return version == 4
    length = address.partition("/")[2] if address is not None else ""
    found = read_interface(address) if address is not None and length.strip().isdecimal() else None
    return found is not None and found.version == version


def translate(value: Network, words: Words) -> None:
    """Addresses and routes with TCP/IP, name servers with the resolver."""
    rows: list[tuple[Interface, tuple[str | int, ...]]] = []
    seen: set[object] = set()
    for at, one in enumerate(value.interface):
        path: tuple[str | int, ...] = ("network", "interface", at)
        again = one.name in seen
        seen.add(one.name)
        wired = wireless.bare(one)
        if wired != one:
            words.told += [(*path, field) for field in wireless.FIELDS]
        if wired != one and not _usable(wired):
            words.told.append(path)  # a profile is for every wireless interface, whatever it is called
        elif not one.name or one.name == "link":
            why = "setup knows interfaces by their names"
            words.cannot(
                path, "an interface without a name", why, 'write its name, usually "Ethernet"', Severity.WARNING
            )
        elif again:
            words.field_error(path, f"the interface {one.name} stands there twice", "put both parts together")
        else:
            _tell(one, path, words)
            kept = _kept(one)
            rows += [(kept, path)] if kept is not None else []
    rows.sort(key=lambda row: not _has_addresses(row[0]))
    for kept, path in rows:
        if _has_addresses(kept):
            _put_addresses(kept, path, words)
    for kept, path in rows:
        if kept.name_servers:
            _put_servers(kept, path, words)
    for at, one in enumerate(value.interface):
        if wireless.bare(one) != one:
            wireless.translate(one, ("network", "interface", at), words)
    if value.location is not None:
        _translate_location(value.location, words)
    sources = tuple(one for one in value.time_sources if one)
    if sources:
        origin = words.origin("network", "time_sources")
        line = powershell(_TIME, join(tuple(_marked(one) for one in sources), " "))
        add_command(words, AS_SYSTEM, line, "Time sources", origin)


def _marked(source: Text) -> Text:
    return Template((*source.parts, _MARK)) if isinstance(source, Template) else source + _MARK


def _tell(one: Interface, path: tuple[str | int, ...], words: Words) -> None:
    """Says what setup cannot do, and what is wrong with addresses."""
    words.leave_out(path, one, _FOREIGN, "setup has no setting for it")
    if one.start is False:
        why = "interfaces come up at every start"
        words.cannot((*path, "start"), "an interface that stays down", why, "leave it out", Severity.WARNING)
    words.told.append((*path, "start"))
    if one.method == "off":
        words.cannot(
            (*path, "method"), "an interface without IPv4", "setup cannot do it", "leave it out", Severity.WARNING
        )
    if one.ipv6 == "off":
        words.cannot(
            (*path, "ipv6"), "an interface without IPv6", "setup cannot do it", "leave it out", Severity.WARNING
        )
    for field, version in (("address", 4), ("ipv6", 6)):
        said = getattr(one, field)
        if said not in (None, "auto", "dhcp", "off") and not _whole(said, version):
            hint = "write address and prefix length: 192.0.2.30/24"
            words.field_error((*path, field), f"{said} is no address with its network", hint)


def _put_servers(one: Interface, path: tuple[str | int, ...], words: Words) -> None:
    origin = words.origin(*path, "name_servers")
    item = words.out.block("specialize", _DNS, origin).add(_LIST, origin)
    item.put("Identifier", one.name, words.origin(*path, "name"))
    for at, server in enumerate(one.name_servers):
        row = item.child("DNSServerSearchOrder", origin).add("IpAddress", origin, server)
        row.put("@keyValue", str(at + 1), origin)


def _put_addresses(one: Interface, path: tuple[str | int, ...], words: Words) -> None:
    origin = words.origin(*path)
    item = words.out.block("specialize", _TCP, origin).add(_LIST, origin)
    item.put("Identifier", one.name, words.origin(*path, "name"))
    if one.method is not None:
        item.put("Ipv4Settings/DhcpEnabled", str(one.method == "dhcp").lower(), words.origin(*path, "method"))
    if one.ipv6 == "dhcp":
        item.put("Ipv6Settings/DhcpEnabled", "true", words.origin(*path, "ipv6"))
    addresses = [(field, getattr(one, field)) for field in ("address", "ipv6")]
    told = [(field, said) for field, said in addresses if said not in (None, "dhcp")]
    for number, (field, said) in enumerate(told, 1):
        where = words.origin(*path, field)
        row = item.child("UnicastIpAddresses", where).add("IpAddress", where, said)
        row.put("@keyValue", str(number), where)
    for field, (identifier, prefix) in _ROUTES.items():
        if getattr(one, field) is not None:
            _put_route(item, identifier, prefix, getattr(one, field), words, (*path, field))


def _put_route(
    item: Branch, identifier: str, prefix: str, hop: Text, words: Words, path: tuple[str | int, ...]
) -> None:
    origin = words.origin(*path)
    route = item.child("Routes", origin).add("Route", origin)
    route.put("Identifier", identifier, origin)
    route.put("Prefix", prefix, origin)
    route.put("NextHopAddress", hop, origin)


def _translate_location(location: str, words: Words) -> None:
    origin = words.origin("network", "location")
    if _asks_place(words):
        words.out.block("oobeSystem", SHELL, origin).put(_PAGE, _PLACES[location], origin)
    else:
        line = powershell(_SWITCHES[location])
        add_command(words, FIRST_SIGN_IN, line, f"Networks are {location}", origin)


def _asks_place(words: Words) -> bool:
    """Whether the release still reads the setting; newer ones are told by a command."""
    setting = words.catalog.setting(SHELL, _PAGE)
    return setting is not None and not reached(words.target, setting.deprecated)


def recognise(reader: Reader) -> Network | None:
    """Interfaces by their names, and what the two commands say."""
    fields: dict[Text, dict[str, Any]] = {}
    for item in reader.find("specialize", _TCP, _LIST):
        name = text_of(item.child("Identifier"))
        if name and name != "link" and name not in fields:
            found = _addresses(reader, item, len(fields))
            if found:
                fields[name] = found
                reader.take(item.child("Identifier"), "network", "interface", len(fields) - 1, "name")
    for item in reader.find("specialize", _DNS, _LIST):
        name = text_of(item.child("Identifier"))
        servers = [(seat, text_of(seat)) for seat in item.all("DNSServerSearchOrder/IpAddress")]
        if name and name != "link" and servers and all(text for _, text in servers):
            known = fields.setdefault(name, {})
            if "name_servers" in known:
                continue
            at = list(fields).index(name)
            known["name_servers"] = tuple(text for _, text in servers)
            reader.take(item, "network", "interface", at, "name_servers", whole=True)
    rows = [Interface(name=name, **found) for name, found in fields.items()]
    location, sources = _recognise_location(reader), _recognise_time(reader)
    made = Network(
        interface=tuple(wireless.merged(rows, wireless.recognise(reader))),
        location=location,
        time_sources=sources,
    )
    return made if made != Network() else None


def _addresses(reader: Reader, item: Seat, at: int) -> dict[str, Any]:
    """What an interface says, as far as fields can hold it."""
    path = ("network", "interface", at)
    found: dict[str, Any] = {}
    four, six = item.child("Ipv4Settings/DhcpEnabled"), item.child("Ipv6Settings/DhcpEnabled")
    if truth_of(four) is not None:
        found["method"] = "dhcp" if truth_of(four) else "static"
        reader.take(four, *path, "method")
    if truth_of(six):
        found["ipv6"] = "dhcp"
        reader.take(six, *path, "ipv6")
    for seat in item.all("UnicastIpAddresses/IpAddress"):
        text = text_of(seat)
        field = "address" if _whole(text, 4) else "ipv6" if _whole(text, 6) else ""
        if field and field not in found:
            found[field] = text
            reader.take(seat, *path, field, whole=True)
    for seat in item.all("Routes/Route"):
        prefix = text_of(seat.child("Prefix"))
        field = next((name for name, (_, whole) in _ROUTES.items() if whole == prefix), "")
        hop = text_of(seat.child("NextHopAddress"))
        number, metric = seat.child("Identifier"), seat.child("Metric")
        # what the route costs stays behind, and joins the route again by its number
        joins = metric is None or (number is not None and field and number.text == _ROUTES[field][0])
        if field and hop and field not in found and joins:
            found[field] = hop
            reader.take(seat, *path, field, whole=metric is None)
            for part in seat.children if metric is not None else ():
                reader.take(part if part is not metric else None)
    return found


def _recognise_location(reader: Reader) -> Any:
    seat = reader.first("oobeSystem", SHELL, _PAGE)
    said = next((name for name, word in _PLACES.items() if seat is not None and seat.text == word), None)
    if said is not None:
        reader.take(seat, "network", "location")
        return said
    for item, line in commands_at(reader, FIRST_SIGN_IN, POWERSHELL):
        for name, script in _SWITCHES.items():
            if line == powershell(script):
                reader.take(item, "network", "location", whole=True)
                return name
    return None


def _recognise_time(reader: Reader) -> tuple[Text, ...]:
    for item, line in commands_at(reader, AS_SYSTEM, POWERSHELL):
        listed = quoted_in(line, _TIME)
        if listed is not None:
            bare = tuple(_unmarked(name) for name in split(listed, " "))
            if bare and all(bare):
                reader.take(item, "network", "time_sources", whole=True)
                return tuple(name for name in bare if name is not None)
    return ()


def _unmarked(source: Text) -> Text | None:
    if isinstance(source, Template):
        last = source.parts[-1]
        if not isinstance(last, str) or not last.endswith(_MARK):
            return None
        rest = last.removesuffix(_MARK)
        return Template((*source.parts[:-1], *((rest,) if rest else ())))
    return source.removesuffix(_MARK) if source.endswith(_MARK) and source != _MARK else None
