"""The portable section ``disk``: what happens to which disk, and the partitions on it."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Any, ClassVar, Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.size import Size
from fairledger.model.values import SecretRef, Template, Text

MOUNT_POINTS = {"firmware": "/boot/efi", "boot": "/boot", "system": "/"}
"""Where the roles are mounted on systems that mount partitions."""

FORMATS = Literal["ntfs", "fat32", "xfs", "ext4", "ext3", "ext2", "btrfs", "swap", "vmfs3", "vmkcore"]


class Partition(Part, frozen=True, kw_only=True):
    """A partition, or a volume of a group, in the order in which they are made."""

    role: Literal["firmware", "reserved", "boot", "system", "recovery", "data", "swap"] = "data"
    """firmware: the firmware's system partition; reserved: the small one that some GPT disks need; boot: where
    BIOS firmware or the boot loader starts; system: receives the system."""
    size: Size | Template | Literal["rest", "memory"] | None = None
    """MiB, GiB or percent of the disk; ``rest`` is short for ``grow = true``, ``memory`` for ``by_memory``."""
    grow: bool = False
    """Takes all that is left, beyond its size where it has one."""
    max_size: Size | None = None
    """Where growing ends."""
    by_memory: bool = False
    """The installer chooses the size, by the machine's memory."""
    format: FORMATS | None = None
    label: Text | None = None
    letter: Text | None = None
    """Drive letter, without a colon."""
    mount: Text | None = None
    """Where data is mounted; other roles have their own places."""
    options: Text | None = None
    """Mount options."""
    member: Text | None = None
    """Makes it a part of a volume group or RAID, under this name: ``pv.01``, ``raid.01``."""
    name: Text | None = None
    """Name of a volume in its group."""
    encrypted: bool = False
    passphrase: SecretRef | None = None
    active: bool = False
    """BIOS firmware starts from it."""
    number: int | None = None
    """For a partition that exists already (``made = false``): its number on the disk, from 1."""
    device: Text | None = None
    """For a partition that exists already (``made = false``): its name, such as ``sda3``. It is mounted as it is; with
    ``format`` it is made anew."""
    made: bool = True
    """False for a partition that exists and is only changed."""

    KEY: ClassVar[str] = "role"

    @classmethod
    def adjust(cls, fields: dict[str, Any]) -> dict[str, Any]:
        """Writes ``rest`` and ``memory`` as what they are short for."""
        said = {"rest": "grow", "memory": "by_memory"}.get(fields["size"]) if "size" in fields else None
        if said is None:
            return fields
        return {**{name: value for name, value in fields.items() if name != "size"}, said: True}


class Plan(Part, frozen=True, kw_only=True):
    """The installer's own layout, and what is said about it."""

    scheme: Literal["groups", "plain", "thin", "btrfs"] | None = None
    """Volumes in a group, plain partitions, thin volumes, or subvolumes."""
    home: bool | None = None
    """False: no separate home, which large disks get otherwise."""
    swap: bool | None = None
    """False: no swap."""
    format: FORMATS | None = None
    encrypted: bool = False
    passphrase: SecretRef | None = None

    ALONE: ClassVar[bool] = True


class Disk(Part, frozen=True, kw_only=True):
    """One disk."""

    which: int | Text | None = None
    """The installer's number of the disk from 0, or its name there (``sda``, ``first``)."""
    choose: Literal["only", "not-removable", "smallest"] | None = None
    """Chosen at the machine instead: the only disk, the first that is not removable, or the smallest."""
    above: Size | None = None
    """Only disks larger than this are chosen among."""
    fate: Literal["wipe", "keep", "ask"] = "keep"
    """wipe: all that is on it is erased; keep: partitions are made in free space, or changed; ask: the
    person at the machine decides."""
    table: Literal["gpt", "mbr"] | None = None
    partition: tuple[Partition, ...] = ()
    install_to: int | Template | Literal["any"] | None = None
    """Number of the partition that receives the system, where no partition has that role; or any free one."""
    plan: Plan | None = None
    """The installer lays the disk out by itself."""
    ignored: bool = False
    """The installer leaves the disk alone."""
    by_script: bool = False
    """Laid out by a generated script for the installer's disk tool. It is taken by itself where the installer's
    own settings cannot do it."""
    without_recovery: bool = False
    """No recovery system is kept, not even in the system's volume: a command removes it before the first start, which
    is not proved on every build."""
    upgrade: Literal["only", "else-install"] | None = None
    """An earlier release of the system on the disk is renewed; ``else-install``: and installed where there is none."""
    extend: bool = False
    """Lets this layer change an earlier layout instead of replacing it: a partition of the same role is
    changed, others are added."""

    KEY: ClassVar[str] = "which"
    UNNAMED: ClassVar[object] = 0
    EXTENDS: ClassVar[str] = "extend"
    UNWRITTEN: ClassVar[tuple[str, ...]] = ("extend",)


DISK: Section[tuple[Disk, ...]] = Section("disk", Disk, many=True, items="partition")
