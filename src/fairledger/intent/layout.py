"""Where partitions come to lie on a disk: what is left over, shares of what, and the smallest disk that is enough.

Partitions begin at whole MiB; the first MiB of a disk belongs to its table, and the last one of a GPT disk to the
table's copy.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from fairledger.intent.disk import Disk, Partition
from fairledger.intent.volume import Volume
from fairledger.model.size import Size

_FRONT = 1
_EXTENT = 4
"""What the head of a group's member takes, in MiB: no more than its usual extent."""
_LEAST = 1
"""What a growing partition has at least, in MiB."""


class Slice(Struct, frozen=True):
    """A partition, or (without one) free space, on the disk."""

    start: int
    """In MiB from the beginning of the disk."""
    mib: int
    place: int | None = None
    """Which of the disk's partitions it is, from 0; None for free space."""


class Layout(Struct, frozen=True):
    """A disk laid out."""

    mib: int
    """The disk's size."""
    stated: bool
    """Whether that is the size that somebody stated, or only the smallest that is enough."""
    slices: tuple[Slice, ...]
    left: int
    """What nobody takes, in MiB; negative if the partitions do not fit."""


def laid_out(disk: Disk, disk_mib: int | None) -> Layout:
    """The made partitions of a disk in their order; several growing ones share what is left evenly.

    Without ``disk_mib`` the layout is that of twice the smallest disk, so that a growing partition shows.
    """
    stated = disk_mib is not None
    mib = disk_mib if disk_mib is not None else 2 * smallest(disk)
    made = [(place, part) for place, part in enumerate(disk.partition) if part.made]
    usable = mib - _FRONT - _back(disk)
    fixed = {place: _fixed(part, mib) for place, part in made}
    left = usable - sum(fixed.values())
    growing = [place for place, part in made if part.grow]
    start, slices = _FRONT, []
    for place, _ in made:
        share = max(left, 0) // len(growing) if place in growing else 0
        if place in growing and place == growing[-1]:
            share = max(left, 0) - share * (len(growing) - 1)
        size = fixed[place] + share
        slices.append(Slice(start, size, place))
        start += size
    rest = left if not growing else min(left, 0)
    if rest > 0:
        slices.append(Slice(start, rest))
    return Layout(mib, stated, tuple(slices), rest)


def smallest(disk: Disk) -> int:
    """The smallest disk on which a layout fits, in whole MiB; shares of the disk count in full.

    >>> from fairledger.model.size import Size
    >>> smallest(Disk(partition=(Partition(size=Size(mib=998)), Partition(size=Size(percent=50)))))
    1998
    """
    made = [part for part in disk.partition if part.made]
    percent = sum(part.size.percent for part in made if isinstance(part.size, Size))
    whole = sum(part.size.mib for part in made if isinstance(part.size, Size))
    whole += _FRONT + _back(disk) + sum(_LEAST for part in made if part.grow and not part.size)
    if percent >= 100:
        return 0
    mib = whole * 100 // (100 - percent)
    while mib - sum(_fixed(part, mib) for part in made) < whole - sum(_plain(part) for part in made):
        mib += 1
    return mib


def with_volumes(disk: Disk, volumes: Sequence[Volume]) -> Disk:
    """A disk whose growing partitions are as large as what is put into them: volumes of a group, virtual disks.

    >>> from fairledger.model.size import Size
    >>> disk = Disk(partition=(Partition(member="pv.01", grow=True),))
    >>> root = Partition(role="system", size=Size(mib=5000))
    >>> smallest(with_volumes(disk, [Volume(name="lmr", members=("pv.01",), partition=(root,))]))
    5005
    """
    parts = list(disk.partition)
    for volume in volumes:
        holds = volume.members or ((volume.store,) if volume.store is not None else ())
        mine = [at for at, part in enumerate(parts) if part.made and part.member is not None and part.member in holds]
        if len(mine) < len(holds) or not mine or volume.kind == "raid":
            continue  # what lies on other disks as well, nobody can share out
        inside = volume.size.mib if volume.size is not None else sum(map(_plain, volume.partition))
        need = inside + _EXTENT * len(mine) - sum(_plain(parts[at]) for at in mine)
        growing = next((at for at in mine if parts[at].grow), None)
        if growing is not None and need > 0:
            parts[growing] = replace(parts[growing], size=Size(mib=_plain(parts[growing]) + need))
    return replace(disk, partition=tuple(parts))


def with_system(disk: Disk, least_mib: int) -> Disk:
    """A disk whose growing partition for the system is as large as the system itself needs.

    >>> disk = Disk(partition=(Partition(role="system", grow=True),))
    >>> smallest(with_system(disk, 20480))
    20481
    """
    parts = [
        replace(part, size=Size(mib=max(_plain(part), least_mib)))
        if part.made and part.grow and part.role == "system" and not _share(part)
        else part
        for part in disk.partition
    ]
    return replace(disk, partition=tuple(parts))


def inside(volume: Volume, members_mib: int) -> Layout:
    """What lies in a group or a virtual disk, its members' size given."""
    mib = volume.size.mib if volume.size is not None else members_mib - _EXTENT * max(len(volume.members), 1)
    return laid_out(Disk(partition=volume.partition), mib)


def _share(part: Partition) -> float:
    return part.size.percent if isinstance(part.size, Size) else 0


def _plain(part: Partition) -> int:
    return part.size.mib if isinstance(part.size, Size) else 0


def _fixed(part: Partition, disk_mib: int) -> int:
    """What a partition takes for certain."""
    return part.size.resolved(disk_mib) or 0 if isinstance(part.size, Size) else 0


def _back(disk: Disk) -> int:
    firmware = any(part.role in ("firmware", "reserved") for part in disk.partition)
    return 1 if disk.table == "gpt" or (disk.table is None and firmware) else 0
