"""Roles of partitions, and where they are mounted."""

from __future__ import annotations

from fairledger.intent.disk import MOUNT_POINTS, Partition
from fairledger.model.values import Text

OWN_FORMATS = {"firmware": "efi", "swap": "swap"}
"""What the file system of a role is called where it says nothing else."""


def mount_of(part: Partition, words: dict[str, str]) -> Text | None:
    """Where a partition is mounted, or what stands in that place: ``words`` has it for roles without a mount point."""
    if part.role == "data":
        return part.mount
    return words.get(part.role) or MOUNT_POINTS.get(part.role)


def role_of(mount: Text, words: dict[str, str]) -> str:
    """The role of what is mounted there; data where no role is."""
    return next((role for role, word in {**MOUNT_POINTS, **words}.items() if word == mount), "data")
