"""IP addresses, read once: many machines share a gateway, a mask and name servers."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import TYPE_CHECKING

from fairledger.model.pattern import pattern

if TYPE_CHECKING:
    from ipaddress import IPv4Address, IPv4Interface, IPv6Address, IPv6Interface

_MAC = pattern(r"[0-9A-Fa-f]{2}([:-]?)[0-9A-Fa-f]{2}(?:\1[0-9A-Fa-f]{2}){4}|[0-9A-Fa-f]{4}(?:\.[0-9A-Fa-f]{4}){2}")


def hardware_address(text: str) -> str | None:
    """A hardware address in one spelling, 12 small digits; None if it is none."""
    return re.sub(r"[^0-9a-f]", "", text.lower()) if _MAC.fullmatch(text.strip()) else None


@lru_cache(maxsize=2000)
def read_interface(text: str) -> IPv4Interface | IPv6Interface | None:
    """An address with the network in which it is, of itself alone without a length; None for what is no address."""
    from ipaddress import ip_interface

    try:
        return ip_interface(text)
    except ValueError:
        return None


@lru_cache(maxsize=2000)
def read_address(text: str) -> IPv4Address | IPv6Address | None:
    """An address; None for what is none, as with a length behind it."""
    from ipaddress import ip_address

    try:
        return ip_address(text)
    except ValueError:
        return None


def read_interface_4(text: str) -> IPv4Interface | None:
    """An IPv4 address with its network (its length may be written as a mask); None for what is none."""
    found = read_interface(text)
    return found if found is not None and found.version == 4 else None
