"""The portable section ``account``: who can sign in."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import ClassVar, Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import SecretRef, Template, Text


class LocalAccount(Part, frozen=True, kw_only=True):
    """An account that the installation makes."""

    name: Text
    display_name: Text | None = None
    description: Text | None = None
    groups: tuple[Text, ...] = ()
    password: SecretRef | None = None
    password_expires: bool | None = None
    """False for a password that stays valid for ever."""
    id: int | Template | None = None
    """Numeric id."""
    group_id: int | Template | None = None
    """Numeric id of the account's own group."""
    shell: Text | None = None
    home: Text | None = None
    ssh_keys: tuple[Text, ...] = ()
    """Public keys that may sign in."""
    expires: Text | None = None
    """Last day of the account, such as ``2027-06-30``."""
    locked: bool = False
    """Nobody signs in with a password; keys still do."""
    sudo_without_password: bool = False
    """It may do everything with sudo, without a password: for accounts that only have keys."""
    change_password: bool | None = None
    """The password must be changed at the account's first sign-in."""

    KEY: ClassVar[str] = "name"

    @property
    def administers(self) -> bool:
        """Whether one of its groups has all rights."""
        return any(isinstance(group, str) and group.casefold() in _MIGHTY for group in self.groups)


_MIGHTY = ("administrators", "wheel", "sudo")


class Administrator(Part, frozen=True, kw_only=True):
    """The account with all rights that every system has."""

    enabled: bool | None = None
    password: SecretRef | None = None
    ssh_keys: tuple[Text, ...] = ()
    """Public keys that may sign in."""
    ssh_password: bool | None = None
    """It may sign in over SSH with its password."""


class SignIn(Part, frozen=True, kw_only=True):
    """Signing in without a person."""

    account: Text | None = None
    count: int | Template | None = None
    """How many times."""
    domain: Text | None = None
    password: SecretRef | None = None
    """Only where it is not the one that the account gets here."""

    ALONE: ClassVar[bool] = True


class Policy(Part, frozen=True, kw_only=True):
    """What holds for the passwords and sign-ins of all local accounts."""

    lockout_after: int | Template | None = None
    """Wrong passwords after which an account is locked; 0 for never."""
    lockout_minutes: int | Template | None = None
    """For how long."""
    longest_days: int | Template | None = None
    """Days after which a password must be changed; 0 for never."""
    shortest_password: int | Template | None = None
    """Least number of characters."""


class Account(Part, frozen=True, kw_only=True):
    """Accounts of one machine."""

    create: Literal["here", "ask"] | None = None
    """ask: the person at the machine makes an account."""
    local: tuple[LocalAccount, ...] = ()
    administrator: Administrator | None = None
    sign_in: SignIn | None = None
    policy: Policy | None = None

    UNWRITTEN: ClassVar[tuple[str, ...]] = ("create",)


ACCOUNT: Section[Account] = Section("account", Account, items="local")
