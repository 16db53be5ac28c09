"""Interfaces and time sources in the words of kickstart."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from fairledger.catalog.seats import Seat
from fairledger.families.fields import number_of, text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import on, secret_of
from fairledger.families.kickstart.lines import command, has
from fairledger.intent.network import Interface, Network
from fairledger.model.addresses import read_interface_4
from fairledger.model.finding import Severity
from fairledger.model.sheet import Branch
from fairledger.model.values import Template, Text, concat, form, formed, join, split, takes, unformed

_TEXTS = (
    ("gateway", "--gateway"),
    ("ssid", "--essid"),
    ("ipv6_gateway", "--ipv6gateway"),
    ("bond_options", "--bondopts"),
)
_NUMBERS = (("mtu", "--mtu"), ("vlan", "--vlanid"))
_LISTS = (("name_servers", "--nameserver"), ("bond", "--bondslaves"), ("bridge", "--bridgeslaves"))
_KEY = "--wpakey"
_TELLING = (_KEY, "--bootproto", "--ip", "--ipv6", "--noipv4", "--noipv6", "--onboot", "--activate", "--no-activate")
_SETTINGS = (*_TELLING, *(setting for _, setting in (*_TEXTS, *_NUMBERS, *_LISTS)))
_ACTIVATE = (("--activate", True), ("--no-activate", False))
_ONBOOT = {True: "yes", False: "no"}


def canonical(value: Network, words: Words) -> Network | None:
    """What the network command of the line can hold."""
    many = _many(words)
    interfaces = value.interface if many else value.interface[:1]
    kept = tuple(one for one in (_canonical_interface(row, words) for row in interfaces) if one != Interface())
    pools = has(words, "timesource")
    told = pools or (has(words, "timezone", "--ntpservers") and _zone_said(words))
    off = value.time_service is False and told and not (value.time_sources or (pools and value.time_pools))
    made = Network(
        interface=kept,
        time_sources=value.time_sources if told else (),
        time_pools=value.time_pools if pools else (),
        time_service=False if off else None,
    )
    return made if made != Network() else None


def _canonical_interface(one: Interface, words: Words) -> Interface:
    fields: dict[str, Any] = {"name": one.name}
    if one.method in ("dhcp", "static") or (one.method == "off" and has(words, "network", "--noipv4")):
        fields["method"] = one.method
    if one.address is not None and _split_address(one.address) is not None:
        fields["address"] = _joined(_split_address(one.address))
    for field, setting in (*_TEXTS, *_NUMBERS, *_LISTS):
        if has(words, "network", setting):
            fields[field] = getattr(one, field)
    if has(words, "network", _KEY):
        fields["wifi_key"] = one.wifi_key
    if has(words, "network", "--ipv6"):
        fields["ipv6"] = one.ipv6
    if has(words, "network", "--onboot"):
        fields["start"] = one.start
    if has(words, "network", "--activate"):
        fields["activate"] = one.activate
    return Interface(**fields)


def _many(words: Words) -> bool:
    known = words.catalog.component("network")
    return bool(known and known.repeats)


def _zone_said(words: Words) -> bool:
    locale = words.intent.sections.get("locale")
    return locale is not None and locale.time_zone is not None


def translate(value: Network, words: Words) -> None:
    """A network line for every interface; time sources by what the release has for them."""
    words.leave_out(("network",), value, ("location",), "it makes no difference there")
    for at, one in enumerate(value.interface):
        if at and not _many(words):
            why = "its installer sets up one interface"
            words.cannot(
                ("network", "interface", at), "a second interface", why, "set it up with a command", Severity.WARNING
            )
            break
        _translate_interface(one, ("network", "interface", at), words)
    if has_lines(words):
        put_name(words)
    _translate_time(value, words)


def has_lines(words: Words) -> bool:
    """Whether anything of the network is written, behind which the machine's name then stands."""
    value = words.intent.sections.get("network")
    return value is not None and canonical(value, words) is not None


def put_name(words: Words) -> None:
    """The machine's name, if it has a fixed one: on a line of its own where lines may repeat."""
    value = words.intent.sections.get("identity")
    if value is not None and value.name is not None and value.naming in (None, "fixed"):
        origin = words.origin("identity", "name")
        command(words, "network", origin).put("--hostname", value.name, origin)


def _translate_interface(one: Interface, path: tuple[str | int, ...], words: Words) -> None:
    origin = words.origin(*path)
    if _canonical_interface(one, words) == Interface():
        words.leave_out(path, one, ("address",), "it is no address with its network, as in 192.0.2.30/24")
        return
    line = command(words, "network", origin)
    if one.name:
        line.put("--device", one.name, words.origin(*path, "name"))
    if one.method in ("dhcp", "static"):
        line.put("--bootproto", one.method, words.origin(*path, "method"))
    elif one.method == "off":
        _flag(line, "--noipv4", one, "method", path, words)
    if one.address is not None:
        parts = _split_address(one.address)
        if parts is None:
            hint = "write address and prefix length: 192.0.2.30/24"
            words.field_error((*path, "address"), f"{one.address} is no address with its network", hint)
        else:
            line.put("--ip", parts[0], words.origin(*path, "address"))
            line.put("--netmask", parts[1], words.origin(*path, "address"))
    _put_options(line, one, path, words)
    if one.wifi_key is not None and has(words, "network", _KEY):
        line.put(_KEY, one.wifi_key, words.origin(*path, "wifi_key"))
    elif one.wifi_key is not None:
        words.leave_out(path, one, ("wifi_key",), "its installer has nothing of the kind")
    words.leave_out(path, one, ("wifi_hidden",), "its installer has nothing of the kind")
    if one.wifi_security == ("wpa2" if one.wifi_key is not None else "open"):
        words.told.append((*path, "wifi_security"))  # what it does by itself
    else:
        words.leave_out(path, one, ("wifi_security",), "its installer has nothing of the kind")
    if one.ipv6 == "off":
        _flag(line, "--noipv6", one, "ipv6", path, words)
    elif one.ipv6 is not None and has(words, "network", "--ipv6"):
        line.put("--ipv6", one.ipv6, words.origin(*path, "ipv6"))
    activate = next((setting for setting, said in _ACTIVATE if said is one.activate), "")
    if activate and has(words, "network", activate):
        line.put(activate, "true", words.origin(*path, "activate"))
    if one.start is not None and has(words, "network", "--onboot"):
        line.put("--onboot", _ONBOOT[one.start], words.origin(*path, "start"))


def _put_options(line: Branch, one: Interface, path: tuple[str | int, ...], words: Words) -> None:
    for field, setting in (*_TEXTS, *_NUMBERS, *_LISTS):
        said = getattr(one, field)
        if said in (None, ()):
            continue
        if not has(words, "network", setting):
            words.leave_out(path, one, (field,), "its installer has nothing of the kind")
            continue
        text = join(said, ",") if isinstance(said, tuple) else str(said) if isinstance(said, int) else said
        line.put(setting, text, words.origin(*path, field))


def _flag(line: Branch, setting: str, one: Interface, field: str, path: tuple[str | int, ...], words: Words) -> None:
    if has(words, "network", setting):
        line.put(setting, "true", words.origin(*path, field))
    else:
        words.leave_out(path, one, (field,), "its installer has nothing of the kind")


def _translate_time(value: Network, words: Words) -> None:
    if has(words, "timesource"):
        for field, setting in _TIME:
            for at, one in enumerate(getattr(value, field)):
                origin = words.origin("network", field, at)
                command(words, "timesource", origin).put(setting, one, origin)
        _time_off(value, "timesource", "--ntp-disable", bool(value.time_sources or value.time_pools), words)
        return
    old = has(words, "timezone", "--ntpservers") and _zone_said(words)
    if value.time_sources and old:
        origin = words.origin("network", "time_sources")
        words.out.block("setup", "timezone", origin).put("--ntpservers", join(value.time_sources, ","), origin)
    why = "its installer has no command for it here"
    fields = ("time_pools",) if old else ("time_sources", "time_pools", "time_service")
    for field in fields:
        if getattr(value, field) not in ((), None):
            hint = "write time_sources instead" if old else "set the time zone too, or write a command"
            words.cannot(("network", field), f"network.{field}", why, hint, Severity.WARNING)
    if old:
        _time_off(value, "timezone", "--nontp", bool(value.time_sources), words)


_TIME = (("time_sources", "--ntp-server"), ("time_pools", "--ntp-pool"))


def _time_off(value: Network, name: str, setting: str, named: bool, words: Words) -> None:  # noqa: FBT001
    path = ("network", "time_service")
    if value.time_service is False and named:
        told, why = "time sources beside a time service that is off", "one of the two counts"
        words.cannot(path, told, why, "take one of them out")
    elif value.time_service is False:
        origin = words.origin(*path)
        words.out.block("setup", name, origin).put(setting, "true", origin)
    elif value.time_service:
        words.told.append(path)  # which is so by itself


def recognise(reader: Reader) -> Network | None:
    """Lines with an interface, and time sources."""
    interfaces: list[Interface] = []
    for root in reader.find("setup", "network", ""):
        name = text_of(root.child("--device")) or ""
        if name or any(root.child(setting) for setting in _SETTINGS):
            interfaces.append(_recognise_interface(reader, root, len(interfaces), name))
    made = replace(_recognise_time(reader), interface=tuple(interfaces))
    return made if made != Network() else None


def _recognise_time(reader: Reader) -> Network:
    found: dict[str, list[Text]] = {field: [] for field, _ in _TIME}
    for field, setting in _TIME:
        for seat in reader.find("setup", "timesource", setting):
            text = text_of(seat)
            if text:
                reader.take(seat, "network", field, len(found[field]))
                found[field].append(text)
    servers = reader.first("setup", "timezone", "--ntpservers")
    if not found["time_sources"] and text_of(servers):
        found["time_sources"] = list(split(text_of(servers) or "", ","))
        reader.take(servers, "network", "time_sources")
    off = None
    for name, setting in (("timesource", "--ntp-disable"), ("timezone", "--nontp")):
        flag = reader.first("setup", name, setting)
        if flag is not None and flag.text == "true" and not any(found.values()):
            reader.take(flag, "network", "time_service")
            off = False
    return Network(**{field: tuple(rows) for field, rows in found.items()}, time_service=off)  # type: ignore[arg-type]


def _recognise_interface(reader: Reader, root: Seat, at: int, name: Text) -> Interface:
    path = ("network", "interface", at)
    reader.places[path] = root
    reader.take(root.child("--device"), *path, "name")
    fields: dict[str, Any] = {"name": name}
    proto = root.child("--bootproto")
    if proto is not None and proto.text in ("dhcp", "static"):
        fields["method"] = proto.text
        reader.take(proto, *path, "method")
    for flag, field in (("--noipv4", "method"), ("--noipv6", "ipv6")):
        if on(root, flag) and field not in fields:
            fields[field] = "off"
            reader.take(root.child(flag), *path, field)
    address, mask = root.child("--ip"), root.child("--netmask")
    joined = _joined((text_of(address), text_of(mask)))
    if joined is not None:
        fields["address"] = joined
        reader.take(address, *path, "address")
        reader.take(mask)
    reader.take_fields(root, _TEXTS, path, fields, lambda seat: text_of(seat) or None)
    reader.take_fields(root, _LISTS, path, fields, lambda seat: split(text_of(seat) or "", ",") or None)
    reader.take_fields(root, _NUMBERS, path, fields, number_of)
    if secret_of(root, _KEY) is not None:
        fields["wifi_key"] = secret_of(root, _KEY)
        reader.take(root.child(_KEY), *path, "wifi_key")
    six = text_of(root.child("--ipv6"))
    if six and "ipv6" not in fields:
        fields["ipv6"] = six
        reader.take(root.child("--ipv6"), *path, "ipv6")
    for setting, said in _ACTIVATE:
        if on(root, setting) and "activate" not in fields:
            fields["activate"] = said
            reader.take(root.child(setting), *path, "activate")
    start = root.child("--onboot")
    told = {"yes": True, "on": True, "true": True, "no": False, "off": False, "false": False}
    if start is not None and start.text in told:
        fields["start"] = told[start.text or ""]
        reader.take(start, *path, "start")
    return Interface(**fields)


def _split_address(address: Text) -> tuple[Text, Text] | None:
    """Address and mask of ``192.0.2.30/24``; a placeholder may stand for both together."""
    if isinstance(address, Template):
        last = address.parts[-1]
        if not isinstance(last, str) or "/" not in last:
            return formed(address, _HOST), formed(address, _MASK)
        front, _, prefix = last.rpartition("/")
        mask = _mask(prefix)
        parts = (*address.parts[:-1], *((front,) if front else ()))
        return (Template(parts), mask) if mask else None
    whole = read_interface_4(address)
    return (str(whole.ip), str(whole.netmask)) if whole is not None and "/" in address else None


_HOST, _MASK = "address-host", "address-mask"


@form(_HOST)
def _host_part(address: str) -> str:
    found = _split_address(address)
    return str(found[0]) if found is not None else address


@form(_MASK)
def _mask_part(address: str) -> str:
    found = _split_address(address)
    return str(found[1]) if found is not None else ""


def _mask(prefix: str) -> str | None:
    found = read_interface_4(f"0.0.0.0/{prefix}")
    return str(found.netmask) if found is not None else None


def _joined(parts: tuple[Text | None, Text | None] | None) -> Text | None:
    """Address with prefix length; None unless both are there and mean something."""
    if parts is None or not parts[0]:
        return None
    if not isinstance(parts[1], str):
        whole = unformed(parts[0], _HOST)
        both = parts[1] is not None and takes(parts[0], _HOST) and takes(parts[1], _MASK)
        return whole if both and parts[1] is not None and unformed(parts[1], _MASK) == whole else None
    address, mask = parts[0], parts[1]
    network = read_interface_4(f"0.0.0.0/{mask}")
    if network is None or isinstance(address, Template):
        return concat(address, f"/{network.network.prefixlen}") if network is not None else None
    own = read_interface_4(address)
    return f"{own.ip}/{network.network.prefixlen}" if own is not None else None
