"""What the machine gets, who can sign in, and how it ends, in sentences."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.events.event import Event, Weight
from fairledger.events.teller import Fields, Teller
from fairledger.events.words import word

MACHINE = "The machine gets"
PEOPLE = "Who can sign in"
START = "At the first start and after"
_METHODS = {
    None: "is set up",
    "dhcp": "asks for its address",
    "static": "has a fixed address",
    "off": "is switched off",
}
_LANGUAGES = (("language", "the language"), ("formats", "formats of"), ("time_zone", "the time zone"))
_ENDS = {"restart": "restarts", "power-off": "switches itself off", "shut-down": "shuts down", "halt": "halts"}


def machine(teller: Teller) -> Iterator[Event]:
    """Name, languages, network, domain, protection."""
    identity = teller.fields("identity")
    if identity is not None:
        if identity.bare.name:
            yield teller.event(MACHINE, f"the name {word(identity.name)}", "identity", "name")
        if identity.bare.pattern:
            yield teller.event(MACHINE, f"a name made as {word(identity.pattern)}", "identity", "pattern")
        if identity.bare.naming == "random":
            yield teller.event(MACHINE, "a name that setup makes up", "identity", "naming")
        for field in ("owner", "organisation"):
            if getattr(identity.bare, field):
                yield teller.event(MACHINE, f"the {field} {word(getattr(identity, field))}", "identity", field)
    locale = teller.fields("locale")
    if locale is not None:
        for field, lead in _LANGUAGES:
            if getattr(locale.bare, field):
                yield teller.event(MACHINE, f"{lead} {word(getattr(locale, field))}", "locale", field)
        if locale.bare.keyboards:
            yield teller.event(MACHINE, f"keyboards: {word(locale.keyboards)}", "locale", "keyboards")
    for path, one in teller.items("network", "interface"):
        yield teller.event(MACHINE, _interface(one), *path)
    join = teller.fields("join")
    for field in ("domain", "workgroup"):
        if join is not None and getattr(join.bare, field):
            yield teller.event(MACHINE, f"a place in the {field} {word(getattr(join, field))}", "join", field)
    yield from _protection(teller)


def _interface(one: Fields) -> str:
    name = word(one.name) or "the first interface"
    how = f"has the address {word(one.address)}" if one.bare.address else _METHODS[one.method]
    six = f", IPv6 {word(one.ipv6)}" if one.bare.ipv6 else ""
    gateway = f", goes out by {word(one.gateway)}" if one.bare.gateway else ""
    return f"{name} {how}{six}{gateway}"


def _protection(teller: Teller) -> Iterator[Event]:
    access, firewall = teller.fields("access"), teller.fields("firewall")
    if access is not None and access.bare.mode:
        weight = Weight.NOTE if access.bare.mode == "enforcing" else Weight.DANGER
        yield teller.event(MACHINE, f"access control is {access.mode}", "access", "mode", weight=weight)
    if firewall is None:
        return
    if firewall.enabled is False:
        yield teller.event(MACHINE, "the firewall is switched OFF", "firewall", "enabled", weight=Weight.DANGER)
    let = [*firewall.services, *firewall.ports]
    if firewall.bare.enabled or let:
        told = "the firewall is switched on" if firewall.bare.enabled else "the firewall"
        told += f"{', and' if firewall.bare.enabled else ''} lets in {word(tuple(let))}" if let else ""
        yield teller.event(MACHINE, told, "firewall")
    if firewall.bare.trust:
        told = f"the firewall lets in ALL that comes by {word(firewall.trust)}"
        yield teller.event(MACHINE, told, "firewall", "trust", weight=Weight.DANGER)


def people(teller: Teller) -> Iterator[Event]:
    """Accounts, the built-in one, automatic sign-in."""
    if teller.fields("account") is None:
        return
    for path, one in teller.items("account", "local"):
        weight = Weight.CARE if one.bare.administers else Weight.NOTE
        yield teller.event(PEOPLE, _account(one, teller), *path, weight=weight)
        if one.bare.sudo_without_password and one.sudo_without_password:
            told = f"{word(one.name)} may do EVERYTHING with sudo, without a password"
            yield teller.event(PEOPLE, told, *path, "sudo_without_password", weight=Weight.CARE)
        yield from _keys(one, word(one.name), path, teller)
    admin = teller.fields("account", "administrator")
    path = ("account", "administrator")
    if admin is not None:
        enabled = admin.enabled
        if enabled or (admin.bare.password is not None and enabled is not False):
            told = "the built-in administrator can sign in"
            told += ", with a password" if admin.password is not None else ""
            yield teller.event(PEOPLE, told, *path, weight=Weight.CARE)
        elif enabled is False:
            yield teller.event(PEOPLE, "the built-in administrator is switched off", *path)
        yield from _keys(admin, "the built-in administrator", path, teller)
    sign_in = teller.fields("account", "sign_in")
    if sign_in is not None:
        count = sign_in.count
        times = "for ever" if count is None else "once" if count == 1 else f"{word(count)} times"
        told = f"{word(sign_in.account) or 'somebody'} is signed in automatically, {times}"
        weight = Weight.CARE if count is not None else Weight.DANGER
        yield teller.event(PEOPLE, told, "account", "sign_in", weight=weight)


def _account(one: Fields, teller: Teller) -> str:
    rights = f", in {word(one.groups)}" if one.bare.groups else ""
    rights += ", with all rights" if one.bare.administers else ""
    way = "with a password" if one.password is not None else "WITHOUT a password"
    if one.locked:
        way = "is locked, so that no password fits"
    elif one.bare.password is None and teller.limits.locked_without_password:
        way = "has no password here, which locks it"
    return f"{word(one.name)} {way}{rights}"


def _keys(one: Fields, who: str, path: tuple[str | int, ...], teller: Teller) -> Iterator[Event]:
    """Each key that opens the machine, by its end and its comment, so that an intruder's is seen."""
    for at, key in enumerate(one.ssh_keys):
        kind, _, rest = word(key).partition(" ")
        blob, _, comment = rest.partition(" ")
        # keys of one kind begin alike: their ends tell them apart
        by = f"{kind} ...{blob[-12:]} {comment}".rstrip() if blob else kind
        told = f"{who} can be signed in to with the public key {by}"
        yield teller.event(PEOPLE, told, *path, "ssh_keys", at, weight=Weight.CARE)


def start(teller: Teller) -> Iterator[Event]:
    """The end."""
    finish = teller.fields("finish")
    if finish is not None and finish.bare.action:
        out = ", and the disc is put out" if finish.eject else ""
        told = f"at the end the machine {_ENDS[finish.action]}{out}"
        yield teller.event(START, told, "finish", "action", restarts=True)
