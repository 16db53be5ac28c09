"""The portable section ``volume``: volume groups, RAID, and virtual disks, made of parts of disks."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import ClassVar, Literal

from fairledger.intent.disk import Partition
from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.size import Size
from fairledger.model.values import Text


class Volume(Part, frozen=True, kw_only=True):
    """Something that is made of members and holds volumes."""

    name: Text
    kind: Literal["group", "raid", "virtual-disk"] = "group"
    members: tuple[Text, ...] = ()
    """Names that partitions give themselves as ``member``."""
    level: Text | None = None
    """Of a RAID: ``0``, ``1``, ``5``, ..."""
    size: Size | None = None
    """Of a virtual disk."""
    store: Text | None = None
    """Data store that holds a virtual disk."""
    partition: tuple[Partition, ...] = ()
    """Volumes of a group, in order; a RAID holds one; partitions of a virtual disk."""

    KEY: ClassVar[str] = "name"


VOLUME: Section[tuple[Volume, ...]] = Section("volume", Volume, many=True)
