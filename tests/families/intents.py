"""Strategies: portable sections as a technician might write them, sound or not."""

from __future__ import annotations

from hypothesis import strategies as st

from fairledger.intent.access import Access
from fairledger.intent.account import Account, Administrator, LocalAccount, Policy, SignIn
from fairledger.intent.branding import Branding
from fairledger.intent.bypass import Bypass
from fairledger.intent.command import Command
from fairledger.intent.disk import Disk, Partition, Plan
from fairledger.intent.drivers import Drivers
from fairledger.intent.features import Features
from fairledger.intent.finish import Finish
from fairledger.intent.firewall import Firewall
from fairledger.intent.identity import Identity
from fairledger.intent.image import Image
from fairledger.intent.installer import Installer
from fairledger.intent.intent import Intent
from fairledger.intent.join import Join
from fairledger.intent.licence import Licence
from fairledger.intent.locale import Locale
from fairledger.intent.network import Interface, Network
from fairledger.intent.packages import Packages
from fairledger.intent.privacy import CHOICES, Privacy
from fairledger.intent.services import Services
from fairledger.intent.source import Repository, Source
from fairledger.intent.start import Start
from fairledger.intent.subscription import Subscription
from fairledger.intent.volume import Volume
from fairledger.model.size import Size
from fairledger.model.values import SecretRef, SecretSource, parse_text

BLANKS = st.sampled_from([parse_text("${name}"), parse_text("LMR-${station}-01"), parse_text("$${name}")])
NAMES = st.one_of(st.sampled_from(["observer", "Keeper", "O'Hara", 'quo"te', "back\\", "é", "a;b"]), BLANKS)
WORDS = st.one_of(st.text(alphabet="aZ 0'\"\\<&>%^|é’$", min_size=1, max_size=12), BLANKS)
SECRETS = st.one_of(
    st.builds(lambda name: SecretRef((SecretSource("env", name), SecretSource("ask"))), st.sampled_from(["A", "B"])),
    st.builds(
        lambda text: SecretRef((SecretSource("value", text),)), st.sampled_from(["Heron-4", parse_text("${pw}")])
    ),
)
LANGUAGES = st.sampled_from(["en-GB", "pt-PT", "de-CH", "xx-YY", parse_text("${language}")])


def maybe(strategy: st.SearchStrategy) -> st.SearchStrategy:
    return st.one_of(st.none(), strategy)


LOCALES = st.builds(
    Locale,
    language=maybe(LANGUAGES),
    fallback=maybe(LANGUAGES),
    formats=maybe(LANGUAGES),
    system=maybe(LANGUAGES),
    setup_language=maybe(LANGUAGES),
    keyboards=st.lists(
        st.sampled_from(["gb", "us", "ch(fr)", "en-US:us", "0809:00000809", "en-GB", "0409:0000f409", "zz"]), max_size=3
    ).map(tuple),
    time_zone=maybe(
        st.sampled_from(["Europe/Lisbon", "Europe/London", "GMT Standard Time", "Nowhere", parse_text("${z}")])
    ),
    region=maybe(st.sampled_from(["PT", "GB"])),
    languages=st.lists(LANGUAGES, max_size=2).map(tuple),
    encoding=maybe(st.sampled_from(["UTF-8", "ISO-8859-1"])),
    console_keyboard=maybe(st.sampled_from(["uk", "us"])),
    utc_clock=maybe(st.booleans()),
)
NAMED = st.lists(st.sampled_from(["ssh", "chronyd", parse_text("${service}")]), max_size=2, unique_by=str).map(tuple)
INTERFACES = st.builds(
    Interface,
    name=st.sampled_from(["", "eno1", "link", parse_text("${card}")]),
    method=maybe(st.sampled_from(["dhcp", "static", "off"])),
    address=maybe(
        st.sampled_from(["192.0.2.30/24", "192.0.2.30", "nowhere", parse_text("192.0.2.${n}/24"), parse_text("${ip}")])
    ),
    gateway=maybe(st.just("192.0.2.1")),
    name_servers=st.lists(st.sampled_from(["192.0.2.53", "198.51.100.53"]), max_size=2).map(tuple),
    ipv6=maybe(st.sampled_from(["auto", "off", "2001:db8::30/64"])),
    start=maybe(st.booleans()),
    mtu=maybe(st.just(1500)),
    vlan=maybe(st.just(20)),
    bond=NAMED,
    ssid=maybe(WORDS),
    wifi_key=maybe(SECRETS),
    ipv6_gateway=maybe(st.just("2001:db8::1")),
)
BODIES = st.sampled_from(
    [
        "x" * 300,
        'cmd /c echo a & "b" ^ é',
        "echo station",
        "",
        "echo ${HOME} ${name}\n# done",
        "echo $${name}",
        "cat <<X\n$6$\nX",
    ]
)
PARTITIONS = st.builds(
    Partition,
    role=st.sampled_from(["firmware", "reserved", "boot", "system", "recovery", "data", "swap"]),
    size=maybe(
        st.one_of(
            st.integers(1, 90000).map(lambda mib: Size(mib=mib)), st.just(Size(percent=20)), st.just(parse_text("${s}"))
        )
    ),
    grow=st.booleans(),
    format=maybe(st.sampled_from(["ntfs", "fat32", "xfs", "swap", "ext3", "vmfs3"])),
    mount=maybe(st.sampled_from(["/home", "/", "swap", "pv.9", parse_text("${place}")])),
    options=maybe(st.just("noatime")),
    member=maybe(st.sampled_from(["pv.01", "raid.01"])),
    name=maybe(st.just("root")),
    encrypted=st.booleans(),
    passphrase=maybe(SECRETS),
    by_memory=st.booleans(),
    max_size=maybe(st.just(Size(mib=99))),
    label=maybe(WORDS),
    letter=maybe(st.sampled_from(["C", "D"])),
    active=st.booleans(),
    number=st.integers(1, 9),
    made=st.sampled_from([True, True, True, False]),
)
DISKS = st.lists(
    st.builds(
        Disk,
        which=st.one_of(
            st.none(), st.integers(0, 3), st.sampled_from(["sda", "first", "first:local", parse_text("${disk}")])
        ),
        table=maybe(st.sampled_from(["gpt", "mbr"])),
        plan=st.one_of(
            st.none(),
            st.none(),
            st.builds(
                Plan,
                scheme=maybe(st.sampled_from(["groups", "plain"])),
                home=maybe(st.booleans()),
                encrypted=st.booleans(),
                passphrase=maybe(SECRETS),
            ),
        ),
        fate=st.sampled_from(["wipe", "wipe", "keep", "ask"]),
        partition=st.lists(PARTITIONS, max_size=5).map(tuple),
        install_to=maybe(st.one_of(st.integers(1, 6), st.just("any"))),
        ignored=st.sampled_from([False, False, True]),
        by_script=st.sampled_from([False, True]),
        recovery=maybe(st.sampled_from(["partition", "inside", "none"])),
        choose=st.sampled_from([None, None, "only", "not-removable", "smallest"]),
        above=maybe(st.just(Size(mib=102400))),
    ),
    min_size=1,
    max_size=2,
    unique_by=lambda disk: str(disk.which),
).map(tuple)
ACCOUNTS = st.builds(
    Account,
    create=maybe(st.sampled_from(["here", "ask"])),
    local=st.lists(
        st.builds(
            LocalAccount,
            name=NAMES,
            display_name=maybe(WORDS),
            description=maybe(WORDS),
            groups=st.lists(
                st.sampled_from(["Users", "administrators", "Remote Desktop Users", "Wardens"]), max_size=3, unique=True
            ).map(tuple),
            password=maybe(SECRETS),
            password_expires=maybe(st.booleans()),
            change_password=maybe(st.booleans()),
            expires=maybe(st.sampled_from(["2027-06-30", parse_text("${end}")])),
            id=maybe(st.integers(1000, 1009)),
            shell=maybe(st.just("/bin/bash")),
            ssh_keys=st.lists(WORDS, max_size=2).map(tuple),
        ),
        max_size=3,
        unique_by=lambda one: str(one.name).casefold(),
    ).map(tuple),
    administrator=maybe(
        st.builds(
            Administrator,
            enabled=maybe(st.booleans()),
            password=maybe(SECRETS),
            ssh_keys=st.lists(WORDS, max_size=1).map(tuple),
        )
    ),
    policy=maybe(
        st.builds(
            Policy,
            lockout_after=maybe(st.one_of(st.integers(0, 9), st.just(parse_text("${n}")))),
            longest_days=maybe(st.integers(0, 90)),
            shortest_password=maybe(st.integers(0, 14)),
        )
    ),
    sign_in=maybe(
        st.builds(
            SignIn,
            account=maybe(st.one_of(NAMES, st.just("Administrator"))),
            count=maybe(st.one_of(st.integers(1, 9), st.just(parse_text("${n}")))),
            domain=maybe(st.just("larkmoor.example")),
            password=maybe(SECRETS),
        )
    ),
)
INTENTS = st.fixed_dictionaries(
    {},
    optional={
        "locale": LOCALES,
        "licence": st.builds(
            Licence,
            accept=maybe(st.booleans()),
            key=maybe(SECRETS),
            activation_key=maybe(SECRETS),
            activation=maybe(st.sampled_from(["skip", "auto"])),
            activation_server=maybe(WORDS),
        ),
        "image": st.builds(
            Image,
            edition=maybe(st.sampled_from(["Pro", "Larkmoor desk"])),
            index=maybe(st.integers(1, 9)),
            file=maybe(WORDS),
            compact=maybe(st.booleans()),
        ),
        "disk": DISKS,
        "identity": st.builds(
            Identity,
            name=maybe(WORDS),
            naming=maybe(st.sampled_from(["fixed", "random", "ask"])),
            pattern=maybe(WORDS),
            owner=maybe(WORDS),
            organisation=maybe(WORDS),
        ),
        "account": ACCOUNTS,
        "network": st.builds(
            Network,
            interface=st.lists(INTERFACES, max_size=2).map(tuple),
            time_sources=NAMED,
            location=maybe(st.sampled_from(["private", "public"])),
        ),
        "volume": st.lists(
            st.builds(
                Volume,
                name=st.sampled_from(["station", "data", parse_text("${group}")]),
                kind=st.sampled_from(["group", "raid", "virtual-disk"]),
                members=st.lists(st.sampled_from(["pv.01", "raid.01"]), max_size=2).map(tuple),
                level=maybe(st.just("1")),
                size=maybe(st.just(Size(mib=9000))),
                store=maybe(st.just("store")),
                partition=st.lists(PARTITIONS, max_size=2).map(tuple),
            ),
            max_size=2,
            unique_by=lambda one: str(one.name),
        ).map(tuple),
        "packages": st.builds(
            Packages,
            environment=maybe(st.just("minimal-environment")),
            groups=NAMED,
            packages=NAMED,
            exclude=NAMED,
            languages=maybe(st.just("en_GB:pt_PT")),
            without_weak=maybe(st.booleans()),
            without_docs=maybe(st.booleans()),
        ),
        "services": st.builds(Services, enabled=NAMED, disabled=NAMED),
        "firewall": st.builds(Firewall, enabled=maybe(st.booleans()), services=NAMED, ports=NAMED),
        "subscription": st.builds(Subscription, organisation=maybe(WORDS), key=maybe(SECRETS), role=maybe(WORDS)),
        "finish": st.builds(
            Finish, action=maybe(st.sampled_from(["restart", "power-off", "halt"])), eject=maybe(st.booleans())
        ),
        "access": st.builds(Access, mode=maybe(st.sampled_from(["enforcing", "permissive", "off"]))),
        "installer": st.builds(
            Installer,
            mode=maybe(st.sampled_from(["text", "silent"])),
            assistant=maybe(st.booleans()),
            desktop=maybe(st.booleans()),
        ),
        "source": st.builds(
            Source,
            kind=maybe(st.sampled_from(["url", "disc", "network-files", "drive"])),
            url=maybe(WORDS),
            folder=maybe(st.just("/el")),
            repository=st.lists(
                st.builds(Repository, name=st.sampled_from(["a", "b"]), url=maybe(WORDS), keep=maybe(st.booleans())),
                max_size=2,
                unique_by=lambda one: one.name,
            ).map(tuple),
        ),
        "command": st.lists(
            st.builds(
                Command,
                name=maybe(st.just("x")),
                when=st.sampled_from(
                    ["before", "disks-ready", "end", "error", "first-start", "first-sign-in", "new-user"]
                ),
                body=BODIES,
                interpreter=maybe(st.sampled_from(["/bin/bash", "cmd", "powershell"])),
                about=maybe(WORDS),
                restart=st.booleans(),
                outside=st.booleans(),
                log=maybe(st.just("/root/x")),
                stop_on_error=st.booleans(),
                fill=st.booleans(),
            ),
            max_size=3,
        ).map(tuple),
        "join": st.builds(
            Join,
            domain=maybe(WORDS),
            workgroup=maybe(WORDS),
            account=maybe(WORDS),
            password=maybe(SECRETS),
            unit=maybe(WORDS),
        ),
        "start": st.builds(
            Start,
            licence=maybe(st.sampled_from(["hide", "show"])),
            wireless=maybe(st.just("hide")),
            recommended=maybe(st.sampled_from(["all", "off"])),
        ),
        "branding": st.builds(Branding, manufacturer=maybe(WORDS), logo=maybe(WORDS), support_url=maybe(WORDS)),
        "privacy": st.builds(
            Privacy,
            page=maybe(st.sampled_from(["hide", "show"])),
            **{name: maybe(st.sampled_from(["on", "off", "ask"])) for name in CHOICES},
        ),
        "features": st.builds(
            Features,
            on=st.lists(st.one_of(st.sampled_from(["TelnetClient", "a b"]), BLANKS), max_size=2).map(tuple),
            off=st.lists(st.just("Printing-Foundation"), max_size=2).map(tuple),
            add=st.lists(st.just("OpenSSH.Server~~~~0.0.1.0"), max_size=1).map(tuple),
        ),
        "drivers": st.builds(
            Drivers,
            setup=st.lists(WORDS, max_size=2).map(tuple),
            image=st.lists(WORDS, max_size=2).map(tuple),
            account=maybe(WORDS),
            password=maybe(SECRETS),
            keep=maybe(st.booleans()),
        ),
        "bypass": st.builds(Bypass, **{name: maybe(st.booleans()) for name in Bypass.__struct_fields__}),
    },
).map(Intent)
