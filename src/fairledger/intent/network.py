"""The portable section ``network``: interfaces with their addresses, and where the time comes from."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import ClassVar, Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import SecretRef, Template, Text


class Interface(Part, frozen=True, kw_only=True):
    """A network interface."""

    name: Text = ""
    """Name (``eno1``), hardware address, ``link`` for the first that is connected; empty: the installer's choice."""
    method: Literal["dhcp", "static", "off"] | None = None
    address: Text | None = None
    """IPv4 address with its prefix length: ``192.0.2.30/24``."""
    gateway: Text | None = None
    name_servers: tuple[Text, ...] = ()
    ipv6: Text | None = None
    """``auto``, ``dhcp``, ``off``, or an address with its prefix length."""
    ipv6_gateway: Text | None = None
    start: bool | None = None
    """Whether it comes up at every start."""
    activate: bool | None = None
    """Whether it comes up while the installer runs. The first one does by itself."""
    mtu: int | Template | None = None
    vlan: int | Template | None = None
    bond: tuple[Text, ...] = ()
    """Members of a bond."""
    bond_options: Text | None = None
    bridge: tuple[Text, ...] = ()
    """Members of a bridge."""

    ssid: Text | None = None
    """Name of a wireless network."""
    wifi_key: SecretRef | None = None
    """Its key (WPA)."""
    wifi_hidden: bool = False
    """The network does not tell its name."""
    wifi_security: Literal["open", "wpa2", "wpa3", "enterprise"] | None = None
    """How it is secured, if not by WPA2 with a key, or open without one."""

    KEY: ClassVar[str] = "name"


class Network(Part, frozen=True, kw_only=True):
    """Interfaces and time."""

    interface: tuple[Interface, ...] = ()
    time_sources: tuple[Text, ...] = ()
    """Time servers."""
    time_pools: tuple[Text, ...] = ()
    """Names behind which there are several time servers."""
    time_service: bool | None = None
    """False: no service keeps the clock right."""
    location: Literal["private", "public"] | None = None
    """What kind of network the machine is in, where the system makes a difference."""


NETWORK: Section[Network] = Section("network", Network, items="interface")
