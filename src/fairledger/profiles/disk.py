"""The portable section ``disk``: what happens to which disk, and the partitions on it."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from msgspec import Struct

from fairledger.model.size import Size
from fairledger.model.values import Template, Text
from fairledger.profiles.intent import Section

ROLES = ("firmware", "reserved", "boot", "system", "recovery", "data", "swap")


class Partition(Struct, frozen=True, kw_only=True):
    """A partition, in the order in which partitions are made on the disk."""

    role: Literal["firmware", "reserved", "boot", "system", "recovery", "data", "swap"] = "data"
    """firmware: the firmware's system partition; reserved: the small one that GPT disks keep; boot: where
    BIOS firmware starts; system: receives the system."""
    size: Size | Template | Literal["rest"] | None = None
    """MiB, GiB or percent of the disk; ``rest`` is short for ``grow = true``."""
    grow: bool = False
    """Takes all that is left."""
    format: Literal["ntfs", "fat32"] | None = None
    label: Text | None = None
    letter: Text | None = None
    """Drive letter, without a colon."""
    active: bool = False
    """BIOS firmware starts from it."""
    number: int | None = None
    """For a partition that exists already (``made = false``): its number on the disk, from 1."""
    made: bool = True
    """False for a partition that exists and is only changed."""

    KEY: ClassVar[str] = "role"

    @classmethod
    def adjust(cls, fields: dict[str, Any]) -> dict[str, Any]:
        """Writes ``size = "rest"`` as what it is short for."""
        if fields.get("size") != "rest":
            return fields
        return {**{name: value for name, value in fields.items() if name != "size"}, "grow": True}


class Disk(Struct, frozen=True, kw_only=True):
    """One disk."""

    which: int | Template = 0
    """The installer's number of the disk, from 0."""
    fate: Literal["wipe", "keep", "ask"] = "keep"
    """wipe: all that is on it is erased; keep: partitions are made in free space, or changed; ask: the
    person at the machine decides."""
    table: Literal["gpt", "mbr"] | None = None
    partition: tuple[Partition, ...] = ()
    install_to: int | Template | Literal["any"] | None = None
    """Number of the partition that receives the system, where no partition has that role; or any free one."""
    extend: bool = False
    """Lets this layer change an earlier layout instead of replacing it: a partition of the same role is
    changed, others are added."""


DISK: Section[tuple[Disk, ...]] = Section("disk", Disk, many_by="which", items="partition")
