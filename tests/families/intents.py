"""Strategies: portable sections as a technician might write them, sound or not."""

from __future__ import annotations

from hypothesis import strategies as st

from fairledger.model.size import Size
from fairledger.model.values import SecretRef, SecretSource, parse_text
from fairledger.profiles.account import Account, Administrator, LocalAccount, SignIn
from fairledger.profiles.bypass import Bypass
from fairledger.profiles.disk import ROLES, Disk, Partition
from fairledger.profiles.identity import Identity
from fairledger.profiles.image import Image
from fairledger.profiles.intent import Intent
from fairledger.profiles.licence import Licence
from fairledger.profiles.locale import Locale

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
)
PARTITIONS = st.builds(
    Partition,
    role=st.sampled_from(ROLES),
    size=maybe(
        st.one_of(
            st.integers(1, 90000).map(lambda mib: Size(mib=mib)), st.just(Size(percent=20)), st.just(parse_text("${s}"))
        )
    ),
    grow=st.booleans(),
    format=maybe(st.sampled_from(["ntfs", "fat32"])),
    label=maybe(WORDS),
    letter=maybe(st.sampled_from(["C", "D"])),
    active=st.booleans(),
    number=st.integers(1, 9),
    made=st.sampled_from([True, True, True, False]),
)
DISKS = st.lists(
    st.builds(
        Disk,
        which=st.one_of(st.integers(0, 3), st.just(parse_text("${disk}"))),
        fate=st.sampled_from(["wipe", "wipe", "keep", "ask"]),
        partition=st.lists(PARTITIONS, max_size=5).map(tuple),
        install_to=maybe(st.one_of(st.integers(1, 6), st.just("any"))),
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
            groups=st.lists(st.sampled_from(["Users", "Administrators"]), max_size=2, unique=True).map(tuple),
            password=maybe(SECRETS),
            password_expires=maybe(st.booleans()),
            expires=maybe(st.sampled_from(["2027-06-30", parse_text("${end}")])),
        ),
        max_size=3,
        unique_by=lambda one: str(one.name).casefold(),
    ).map(tuple),
    administrator=maybe(st.builds(Administrator, enabled=maybe(st.booleans()), password=maybe(SECRETS))),
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
        "licence": st.builds(Licence, accept=maybe(st.booleans()), key=maybe(SECRETS)),
        "image": st.builds(
            Image, edition=maybe(st.sampled_from(["Pro", "Larkmoor desk"])), index=maybe(st.integers(1, 9))
        ),
        "disk": DISKS,
        "identity": st.builds(
            Identity,
            name=maybe(WORDS),
            naming=maybe(st.sampled_from(["fixed", "random"])),
            owner=maybe(WORDS),
            organisation=maybe(WORDS),
        ),
        "account": ACCOUNTS,
        "bypass": st.builds(Bypass, **{name: maybe(st.booleans()) for name in Bypass.__struct_fields__}),
    },
).map(Intent)
