"""Strategies: portable sections as a technician might write them, sound or not, read off the sections' own annotations.

A field of which nothing is said here gets any value that its annotation allows; `TELLING` has values for fields in which
any word would only ever be refused.
"""

from __future__ import annotations

from functools import cache
from typing import Any

from hypothesis import strategies as st

from fairledger.catalog.tidy import all_choices
from fairledger.intent.command import POSSIBLE
from fairledger.intent.fields import FieldType, defaults_of, fields_of
from fairledger.intent.intent import Intent
from fairledger.intent.part import Part
from fairledger.intent.sections import sections
from fairledger.model.size import Size, open_size
from fairledger.model.values import SecretRef, SecretSource, Template, parse_text

STARTS = ("enabled", "delayed", "manual", "disabled")
BLANKS = st.sampled_from([parse_text("${name}"), parse_text("LMR-${station}-01"), parse_text("$${name}")])
TEXTS = st.text(alphabet="aZ 0'\"\\<&>%^|é’$", min_size=1, max_size=12)
WORDS = st.one_of(TEXTS, BLANKS)
SECRETS = st.one_of(
    st.builds(lambda name: SecretRef((SecretSource("env", name), SecretSource("ask"))), st.sampled_from(["A", "B"])),
    st.builds(
        lambda text: SecretRef((SecretSource("value", text),)), st.sampled_from(["Heron-4", parse_text("${pw}")])
    ),
)
SIZES = st.one_of(st.integers(1, 90000).map(lambda mib: Size(mib=mib)), st.just(Size(percent=20)))


def of(*values: str) -> st.SearchStrategy:
    """Some of these, with placeholders."""
    return st.sampled_from([parse_text(one) for one in values])


NAMED = of("ssh", "chronyd", "${service}")
LANGUAGES = of("en-GB", "pt-PT", "de-CH", "xx-YY", "${language}")
IPV6 = of("auto", "dhcp", "off", "2001:db8::30/64")
TELLING: dict[str, st.SearchStrategy] = {
    **dict.fromkeys(("locale.language", "locale.fallback", "locale.formats", "locale.system"), LANGUAGES),
    **dict.fromkeys(("locale.setup_language", "locale.languages"), LANGUAGES),
    "locale.keyboards": of("gb", "us", "ch(fr)", "en-US:us", "0809:00000809", "en-GB", "0409:0000f409", "zz"),
    "locale.time_zone": of("Europe/Lisbon", "Europe/London", "GMT Standard Time", "Nowhere", "${z}"),
    "locale.region": of("PT", "GB"),
    "locale.encoding": of("UTF-8", "ISO-8859-1"),
    "locale.console_keyboard": of("uk", "us"),
    "network.interface.name": of("", "eno1", "link", "${card}"),
    "network.interface.address": of("192.0.2.30/24", "192.0.2.30", "nowhere", "192.0.2.${n}/24", "${ip}"),
    "network.interface.gateway": of("192.0.2.1", "${gateway}"),
    "network.interface.name_servers": of("192.0.2.53", "198.51.100.53"),
    "network.interface.ipv6": IPV6,
    "network.interface.ipv6_gateway": of("2001:db8::1"),
    "network.interface.mtu": st.just(1500),
    "network.interface.vlan": st.just(20),
    **dict.fromkeys(("network.interface.bond", "network.interface.bridge", "network.time_sources"), NAMED),
    "network.interface.bond_options": of("mode=active-backup"),
    "disk.which": st.one_of(st.none(), st.integers(0, 3), of("sda", "first", "first:local", "${disk}")),
    "disk.fate": st.sampled_from(["wipe", "wipe", "keep", "ask"]),
    "disk.choose": st.sampled_from([None, None, "only", "not-removable", "smallest"]),
    "disk.ignored": st.sampled_from([False, False, True]),
    "disk.above": st.just(Size(mib=102400)),
    "disk.install_to": st.one_of(st.integers(1, 6), st.just("any"), of("${part}")),
    "disk.plan": st.deferred(lambda: st.one_of(st.none(), table("disk.plan", fields_of(_table("disk"))["plan"].inner))),
    "partition.mount": of("/home", "/", "swap", "pv.9", "${place}"),
    "partition.member": of("pv.01", "raid.01"),
    "partition.name": of("root"),
    "partition.options": of("noatime"),
    "partition.letter": of("C", "D"),
    "partition.max_size": st.just(Size(mib=99)),
    "partition.size": st.one_of(SIZES, of("${s}").map(open_size)),
    "partition.made": st.sampled_from([True, True, True, False]),
    "partition.format": st.sampled_from([None, "ntfs", "fat32", "xfs", "swap", "ext3", "vmfs3"]),
    "account.local.name": of("observer", "Keeper", "O'Hara", 'quo"te', "back\\", "é", "a;b", "${name}"),
    "account.local.groups": of("Users", "administrators", "Remote Desktop Users", "Wardens"),
    "account.local.expires": of("2027-06-30", "${end}"),
    **dict.fromkeys(("account.local.shell", "account.local.home"), of("/bin/bash")),
    "account.sign_in.account": of("observer", "Keeper", "Administrator", "${name}"),
    "account.sign_in.domain": of("larkmoor.example"),
    "account.sign_in.count": st.one_of(st.integers(1, 9), of("${n}")),
    "volume.name": of("station", "data", "${group}"),
    "volume.members": of("pv.01", "raid.01"),
    "volume.level": of("1"),
    "volume.store": of("store"),
    "volume.size": st.just(Size(mib=9000)),
    "packages.environment": of("minimal-environment"),
    "packages.languages": of("en_GB:pt_PT"),
    **{f"packages.{name}": NAMED for name in ("groups", "packages", "modules", "exclude", "exclude_groups")},
    **dict.fromkeys(("firewall.services", "firewall.trust"), NAMED),
    **{f"services.{name}": of("ssh", "chronyd", "Spooler", "RpcSs", "a b", "${service}") for name in STARTS},
    **dict.fromkeys(
        ("apps.remove", "apps.keep"), st.sampled_from(["calculator", "photos", "store", "notes", "sketches"])
    ),
    **{
        f"{section}.{name}": st.integers(one.least, min(one.most, 40))
        for section, name, one in all_choices()
        if one.kind == "number"
    },
    "firewall.ports": of("8080:tcp"),
    "image.edition": of("Pro", "Larkmoor desk"),
    "source.folder": of("/el"),
    "source.repository.name": of("a", "b"),
    "command.interpreter": of("/bin/bash", "cmd", "powershell"),
    "command.log": of("/root/x", r"C:\larkmoor\a b.log", 'a"b'),
    "command.body": st.sampled_from(
        [
            "x" * 300,
            'cmd /c echo a & "b" ^ é',
            "echo station",
            "",
            "echo ${HOME} ${name}\n# done",
            "echo $${name}",
            "cat <<X\n$6$\nX",
        ]
    ),
    "network.interface.wifi_security": of("open", "wpa2", "wpa3", "enterprise"),
    "features.on": st.one_of(of("TelnetClient", "NetFx3", "a b"), BLANKS),
    "file.source": st.sampled_from(["sky.png", "branding/sky.png", "a b/é.txt"]),
    "file.to": st.sampled_from(
        ["C:\\Larkmoor Pictures\\sky.png", "/etc/larkmoor/it's.conf", "/etc/a", "sky", "D:\\a b"]
    ),
    "file.on_medium": st.one_of(st.none(), st.just("$WinPEDriver$/net")),
    "file.owner": st.sampled_from(["keeper", "root:wheel"]),
    "file.mode": st.sampled_from(["644", "0640", "4755"]),
    "features.source": of("medium", r"D:\sources\sxs", 'a"b'),
    "features.off": of("Printing-Foundation"),
    "features.add": of("OpenSSH.Server~~~~0.0.1.0"),
    "features.remove": of("Browser.InternetExplorer~~~~0.0.11.0"),
}
"""By the field's names from the section's on; the fields of a partition alike wherever one stands."""


def _table(name: str) -> type[Part]:
    return next(one.table for one in sections() if one.name == name)


def values_of(way: str, kind: FieldType) -> st.SearchStrategy:
    """Values of one field, or of the items of its list."""
    _, found, rest = way.rpartition(".partition.")
    known = TELLING.get(f"partition.{rest}" if found else way)
    if known is not None and not (kind.item is not None and kind.inner is not None):
        return known
    if kind.inner is not None:
        return table(way, kind.inner)
    ways: list[st.SearchStrategy] = []
    if kind.choices:
        ways.append(st.sampled_from(kind.choices))
    if bool in kind.plain:
        ways.append(st.booleans())
    if int in kind.plain:
        ways.append(st.integers(1, 9))
    if Size in kind.plain:
        ways.append(SIZES)
    if SecretRef in kind.plain:
        ways.append(SECRETS)
    if str in kind.plain and not kind.choices:
        ways.append(WORDS if Template in kind.plain else TEXTS)
    elif Template in kind.plain:
        ways.append(of("${n}"))
    return st.one_of(*ways)


def field(way: str, kind: FieldType, usual: Any) -> st.SearchStrategy:
    """A field's values, and nothing where nothing may be said."""
    if kind.item is not None:
        key = kind.inner.KEY if kind.inner is not None else ""
        unique = (lambda one: str(getattr(one, key)).casefold()) if key and key != "role" else None
        most = 4 if way.endswith(".partition") else 2
        listed = values_of(way, kind if kind.inner is not None else kind.item)
        return st.lists(listed, max_size=most, unique_by=unique or (str if kind.inner is None else None)).map(tuple)
    values = values_of(way, kind)
    return st.one_of(st.none(), values) if usual is None else values


@cache
def table(way: str, kind: type[Part]) -> st.SearchStrategy:
    """A table with any of its fields."""
    usual = defaults_of(kind)
    drawn = {name: field(f"{way}.{name}", one, usual[name]) for name, one in fields_of(kind).items()}

    def made(fields: dict[str, Any]) -> Part:
        said = kind.adjust({name: one for name, one in fields.items() if one != usual[name]})
        if said.get("run_as") not in POSSIBLE.get(said.get("when", "installed"), ()):
            said.pop("run_as", None)
        return kind(**said)

    return st.fixed_dictionaries(drawn).map(made)


def _section(name: str, kind: type[Part], *, many: bool) -> st.SearchStrategy:
    one = table(name, kind)
    if not many:
        return one
    unique = (lambda item: str(getattr(item, kind.KEY))) if name != "command" else None
    return st.lists(one, min_size=name == "disk", max_size=3 if name == "command" else 2, unique_by=unique).map(tuple)


SECTIONS = {one.name: _section(one.name, one.table, many=one.many) for one in sections()}
"""The values of each section."""
INTENTS = st.fixed_dictionaries({}, optional=SECTIONS).map(Intent)
