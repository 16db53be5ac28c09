"""What no answer sheet holds: the machine that is installed, its medium, and how the file comes to it."""

from __future__ import annotations

from msgspec import Struct
from msgspec.structs import replace


class DiskFacts(Struct, frozen=True, kw_only=True):
    """A disk of the machine."""

    mib: int | None = None
    """Its size."""
    removable: bool | None = None


class Facts(Struct, frozen=True, kw_only=True):
    """A described machine with its medium. None means unknown; rules that need it are then silent."""

    arch: str | None = None
    others: tuple[str, ...] | None = None
    """Further architectures, of other machines, for which one file is meant."""
    firmware: str | None = None
    """``uefi`` or ``bios``."""
    disks: tuple[DiskFacts, ...] | None = None
    """In the order in which the installer numbers them."""
    memory_mib: int | None = None
    network: bool | None = None
    """Whether the machine reaches one while it is installed."""
    route: str | None = None
    """How the file reaches the installer."""
    medium: str | None = None
    """The path of the medium that the machine starts from, or of a file with facts of it."""

    single_file: bool | None = None
    """Whether nothing may lie beside the answer file."""

    @property
    def disk_mib(self) -> int | None:
        """The size of the first disk."""
        return self.disks[0].mib if self.disks else None

    def over(self, low: Facts) -> Facts:
        """These facts, and where they know nothing, those of ``low``."""
        known = {name: value for name in self.__struct_fields__ if (value := getattr(self, name)) is not None}
        return replace(low, **known)


def machine(
    *,
    arch: str | None = None,
    firmware: str | None = None,
    disk_mib: int | None = None,
    route: str | None = None,
    medium: str | None = None,
) -> Facts:
    """The facts of a machine with one disk, as far as they are told."""
    disks = (DiskFacts(mib=disk_mib),) if disk_mib is not None else None
    return Facts(arch=arch, firmware=firmware, disks=disks, route=route, medium=medium)
