"""The portable sections in plain sentences, in the order of events. Rows are text, tone, quotation, warnings, line."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from fairledger.intent.access import ACCESS
from fairledger.intent.account import ACCOUNT, LocalAccount
from fairledger.intent.bypass import BYPASS
from fairledger.intent.disk import DISK, Disk, Partition
from fairledger.intent.finish import FINISH
from fairledger.intent.firewall import FIREWALL
from fairledger.intent.identity import IDENTITY
from fairledger.intent.image import IMAGE
from fairledger.intent.intent import Intent
from fairledger.intent.join import JOIN
from fairledger.intent.licence import LICENCE
from fairledger.intent.locale import LOCALE
from fairledger.intent.network import NETWORK
from fairledger.intent.packages import PACKAGES
from fairledger.intent.privacy import PRIVACY
from fairledger.intent.source import SOURCE
from fairledger.intent.volume import VOLUME, Volume
from fairledger.intent.walk import names_of, said
from fairledger.model.sheet import visible
from fairledger.model.values import SecretRef
from fairledger.subject.subject import Subject

Row = tuple[str, str, str, tuple[str, ...], int | None]
_TOLD = {
    "locale", "licence", "image", "disk", "volume", "identity", "join", "network", "account", "bypass", "privacy",
    "finish", "source", "access", "firewall", "packages", "command",
}  # fmt: skip
"""Sections with sentences of their own; the others are told field by field."""


def chapters_of(intent: Intent, side: Subject) -> list[tuple[str, list[Row]]]:
    """What happens, chapter by chapter."""
    teller = _Teller(intent, side)
    return [
        ("Setup begins", [*teller.begin()]),
        ("The disks", [*teller.disks()]),
        ("What is installed", [*teller.installed()]),
        ("The machine gets", [*teller.machine()]),
        ("Who can sign in", [*teller.people()]),
        ("At the first start and after", [*teller.start()]),
        ("Questions that are left", [*teller.questions()]),
    ]


class _Teller:
    """Tells what an intent means."""

    def __init__(self, intent: Intent, side: Subject) -> None:
        self.intent = intent
        self.side = side
        self.limits = side.family.limits(side.target)

    def row(self, text: str, *path: str | int, tone: str = "") -> Row:
        """A sentence with the line that it comes from."""
        return (text, tone, "", (), self.intent.place(*path).origin.line)

    def begin(self) -> Iterator[Row]:
        """Language, licence, source, requirements."""
        locale = self.intent.get(LOCALE)
        if locale is not None:
            spoken = locale.setup_language or locale.language
            if spoken:
                yield self.row(f"setup speaks {_word(spoken)}", "locale")
        licence = self.intent.get(LICENCE)
        if licence is not None and licence.accept:
            yield self.row("the licence terms are accepted without asking", "licence", "accept")
        if licence is not None and licence.key is not None:
            yield self.row("a product key is entered (hidden)", "licence", "key")
        source = self.intent.get(SOURCE)
        if source is not None:
            where = (
                source.url
                or source.mirrors
                or source.metalink
                or source.server
                or source.partition
                or source.kind
                or "the medium"
            )
            yield self.row(f"everything is fetched from {_word(where)}", "source")
            for at, one in enumerate(source.repository):
                kept = ", and stays a source on the new system" if one.keep else ""
                told = _word(one.url or one.mirrors or one.metalink or "")
                yield self.row(f"more is fetched from {_word(one.name)} ({told}){kept}", "source", "repository", at)
        bypass = self.intent.get(BYPASS)
        for field in bypass.__struct_fields__ if bypass is not None else ():
            if getattr(bypass, field):
                name = field.replace("_", " ")
                yield self.row(f"the requirement is switched off: {name}", "bypass", field, tone="care")
        yield from self.plain("installer", "drivers")

    def disks(self) -> Iterator[Row]:
        """What is wiped, kept and made."""
        disks: tuple[Disk, ...] = self.intent.get(DISK) or ()
        for at, disk in enumerate(disks):
            which = _which(disk)
            if disk.ignored:
                yield self.row(f"{which} is left alone", "disk", at)
                continue
            if disk.fate == "wipe":
                yield self.row(
                    f"{which} is WIPED without a question: all that is on it is lost", "disk", at, tone="danger"
                )
            elif disk.fate == "ask":
                yield self.row("the person at the machine chooses and lays out the disk", "disk", at)
            else:
                yield self.row(f"{which} is not wiped", "disk", at)
            if disk.plan is not None:
                yield self.row("the installer lays it out by itself", "disk", at, "plan")
            for place, part in enumerate(disk.partition):
                yield self.row(_part(part), "disk", at, "partition", place)
            if disk.install_to is not None:
                yield self.row(f"the system goes to partition {disk.install_to} of {which}", "disk", at, "install_to")
        volumes: tuple[Volume, ...] = self.intent.get(VOLUME) or ()
        for at, volume in enumerate(volumes):
            yield self.row(f"a {volume.kind} {_word(volume.name)} is made", "volume", at)
            for place, part in enumerate(volume.partition):
                yield self.row(_part(part), "volume", at, "partition", place)

    def installed(self) -> Iterator[Row]:
        """Image or packages, drivers, features."""
        image = self.intent.get(IMAGE)
        if image is not None:
            told = image.edition or (f"image number {image.index}" if image.index is not None else "the image")
            where = f" from {_word(image.file)}" if image.file else ""
            yield self.row(f"{_word(told)} is installed{where}", "image")
        packages = self.intent.get(PACKAGES)
        if packages is not None:
            for field in ("environment", "groups", "packages", "modules", "exclude", "exclude_groups"):
                value = getattr(packages, field)
                if value:
                    word = "left out" if field.startswith("exclude") else "installed"
                    named = {"exclude": "packages", "exclude_groups": "groups"}.get(field, field)
                    yield self.row(f"{named} {word}: {_word(value)}", "packages", field)
        yield from self.plain("features", "services", "subscription")

    def machine(self) -> Iterator[Row]:
        """Name, zone, network, domain, protection."""
        identity = self.intent.get(IDENTITY)
        if identity is not None:
            if identity.name or identity.pattern:
                yield self.row(f"the name {_word(identity.name or identity.pattern)}", "identity", "name")
            elif identity.naming == "random":
                yield self.row("a name that setup makes up", "identity", "naming")
            for field in ("owner", "organisation"):
                if getattr(identity, field):
                    yield self.row(f"the {field} {_word(getattr(identity, field))}", "identity", field)
        locale = self.intent.get(LOCALE)
        for field, word in (("language", "the language"), ("formats", "formats of"), ("time_zone", "the time zone")):
            value = getattr(locale, field) if locale is not None else None
            if value:
                yield self.row(f"{word} {_word(value)}", "locale", field)
        if locale is not None and locale.keyboards:
            yield self.row(f"keyboards: {_word(locale.keyboards)}", "locale", "keyboards")
        yield from self.network()
        join = self.intent.get(JOIN)
        if join is not None and join.domain:
            yield self.row(f"a place in the domain {_word(join.domain)}", "join", "domain")
        if join is not None and join.workgroup:
            yield self.row(f"a place in the workgroup {_word(join.workgroup)}", "join", "workgroup")
        access, firewall = self.intent.get(ACCESS), self.intent.get(FIREWALL)
        if access is not None and access.mode:
            tone = "" if access.mode == "enforcing" else "danger"
            yield self.row(f"access control is {access.mode}", "access", "mode", tone=tone)
        if firewall is not None and firewall.enabled is False:
            yield self.row("the firewall is switched OFF", "firewall", "enabled", tone="danger")
        elif firewall is not None:
            let = (*firewall.services, *firewall.ports)
            yield self.row("a firewall" + (f" that lets in {_word(let)}" if let else ""), "firewall")
        yield from self.plain("branding")

    def network(self) -> Iterator[Row]:
        """Addresses."""
        network = self.intent.get(NETWORK)
        for at, one in enumerate(network.interface if network is not None else ()):
            name = _word(one.name) or "the first interface"
            how = {"dhcp": "asks for its address", "off": "is switched off"}.get(one.method or "", "")
            how = f"has the address {_word(one.address)}" if one.address else how
            if how:
                yield self.row(f"{name} {how}", "network", "interface", at)

    def people(self) -> Iterator[Row]:
        """Accounts, the built-in one, automatic sign-in."""
        account = self.intent.get(ACCOUNT)
        if account is None:
            return
        for at, one in enumerate(account.local):
            yield self.row(_account(one), "account", "local", at, tone="care" if one.administers else "")
        admin = account.administrator
        if admin is not None and (admin.enabled or (admin.password is not None and admin.enabled is not False)):
            yield self.row("the built-in administrator can sign in", "account", "administrator", tone="care")
        if admin is not None and admin.enabled is False:
            yield self.row("the built-in administrator is switched off", "account", "administrator")
        sign_in = account.sign_in
        if sign_in is not None:
            times = f"{sign_in.count} times" if sign_in.count is not None else "for ever"
            times = "once" if sign_in.count == 1 else times
            tone = "care" if sign_in.count is not None else "danger"
            told = f"{_word(sign_in.account or 'somebody')} is signed in automatically, {times}"
            yield self.row(told, "account", "sign_in", tone=tone)

    def start(self) -> Iterator[Row]:
        """Pages of the first start, privacy, the end."""
        privacy = self.intent.get(PRIVACY)
        for field in privacy.__struct_fields__ if privacy is not None else ():
            value = getattr(privacy, field)
            if value is not None:
                yield self.row(f"privacy: {field.replace('_', ' ')} {value}", "privacy", field)
        yield from self.plain("start")
        finish = self.intent.get(FINISH)
        if finish is not None and finish.action:
            word = {"restart": "restarts", "power-off": "switches itself off", "shut-down": "shuts down"}
            yield self.row(f"at the end the machine {word.get(finish.action, 'halts')}", "finish", "action")

    def questions(self) -> Iterator[Row]:
        """What nobody answers, so that setup stops and asks."""
        get = self.intent.get
        licence, locale, account = get(LICENCE), get(LOCALE), get(ACCOUNT)
        if self.limits.licence_must_be_accepted and (licence is None or not licence.accept):
            yield self.row("the licence terms", tone="care")
        if locale is None or not (locale.language or locale.setup_language or locale.keyboards):
            yield self.row("language and keyboard", tone="care")
        disks: tuple[Disk, ...] = get(DISK) or ()
        if not disks or any(disk.fate == "ask" for disk in disks):
            yield self.row("which disk, and how it is laid out", tone="care")
        people = account is not None and (account.local or account.administrator is not None)
        if not people:
            yield self.row("an account, or the administrator's password", tone="care")

    def plain(self, *names: str) -> Iterator[Row]:
        """Sections without sentences of their own, field by field."""
        for name in names:
            value = self.intent.sections.get(name)
            for path in said(value, (name,)) if value is not None else ():
                told = " ".join(names_of(path)[1:]).replace("_", " ")
                yield self.row(f"{name}: {told} = {_word(self.intent.at(path))}", *path)


def _word(value: Any) -> str:
    """A value as it may be shown."""
    if isinstance(value, tuple):
        return ", ".join(_word(one) for one in value)
    if isinstance(value, SecretRef):
        return "(hidden)"
    return {True: "yes", False: "no"}[value] if isinstance(value, bool) else visible(str(value or ""))


def _which(disk: Disk) -> str:
    if disk.choose is not None:
        return {
            "only": "the only disk",
            "not-removable": "the first disk that is not removable",
            "smallest": "the smallest disk",
        }[disk.choose] + (f" above {disk.above}" if disk.above else "")
    return "every disk that is found" if disk.which is None else f"disk {_word(str(disk.which))}"


def _part(part: Partition) -> str:
    size = str(part.size) if part.size is not None else ""
    size = ("all that is left" + (f", at least {size}" if size else "")) if part.grow else size
    size = size or ("a size by the machine's memory" if part.by_memory else "a size of its own")
    named = part.label or part.mount or part.name
    parts = [f"{'is made' if part.made else 'is changed'}: {part.role}", size]
    parts += [str(part.format)] if part.format else []
    parts += [f"called {_word(named)}"] if named else []
    parts += ["encrypted"] if part.encrypted else []
    number = f"partition {part.number} " if not part.made and part.number else "a partition "
    return number + ", ".join(parts)


def _account(one: LocalAccount) -> str:
    rights = f", in {_word(one.groups)}" if one.groups else ""
    rights += ", with all rights" if one.administers else ""
    word = "with a password" if one.password is not None else "WITHOUT a password"
    keys = f", with {len(one.ssh_keys)} public key{'s' if len(one.ssh_keys) > 1 else ''}" if one.ssh_keys else ""
    return f"{_word(one.name)} {word}{keys}{rights}"
