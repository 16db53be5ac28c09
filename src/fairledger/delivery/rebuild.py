"""Discs made anew by the programs that make real ones, with the original's records of how firmware starts it."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

from msgspec import Struct

from fairledger.media.extract import extracted
from fairledger.media.original import Original
from fairledger.media.programs import Progress, run_program
from fairledger.media.volumes import Partition
from fairledger.model.errors import FileTroubleError

WINDOWS_BOOTS = {"bios": "boot/etfsboot.com", "uefi": "efi/microsoft/boot/efisys.bin"}
"""What starts Windows setup from a disc, by firmware. (The vendor's description of making its discs.)"""
_UNIT = 512


class Changes(Struct, frozen=True, kw_only=True):
    """What is other on the new disc."""

    files: dict[str, bytes]
    """By their paths: new ones, and those that hold something else."""
    appended: Partition | None = None
    """A partition behind the tree that is other."""
    boot_image: bytes | None = None
    """What it holds."""


Maker = Callable[[Original, str, Changes, Path, Progress], None]


def by_xorriso(original: Original, label: str, changes: Changes, made: Path, progress: Progress) -> None:  # noqa: ARG001
    """The original's tree and boot records, replayed; its label with them. Raises `FileTroubleError`."""
    forms = original.found.forms
    said = ["-no_rc", "-return_with", "FAILURE", "32", "-abort_on", "FATAL"]
    said += ["-indev", f"stdio:{original.path.absolute()}", "-outdev", f"stdio:{made}"]
    said += ["-joliet", "on" if "joliet" in forms else "off", "-rockridge", "on" if "rock ridge" in forms else "off"]
    said += ["-boot_image", "any", "replay"]
    if changes.appended is not None:
        image = _beside(made, "partition.img", changes.boot_image or b"")
        said += ["-append_partition", str(changes.appended.number), changes.appended.kind, str(image)]
    for at, (path, data) in enumerate(changes.files.items()):
        said += ["-map", str(_beside(made, f"file-{at}", data)), f"/{path}"]
    run_program("xorriso", [*said, "-commit"], makes=made, size=original.size, progress=progress)


def by_genisoimage(original: Original, label: str, changes: Changes, made: Path, progress: Progress) -> None:
    """The original's files with UDF, started as Windows setup is started from a disc. Raises `FileTroubleError`."""
    tree = made.parent / "tree"
    extracted(original.path, tree, progress)
    for path, data in changes.files.items():
        place = tree / path
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(data)
    said = ["-quiet", "-udf", "-allow-limited-size", "-iso-level", "3", "-J", "-joliet-long", "-D", "-N"]
    said += ["-relaxed-filenames", "-V", label]
    for one in dict.fromkeys(one.firmware for one in original.boots):
        path = windows_boot(original, one)
        kind = ["-b", path, "-no-emul-boot"] if one == "bios" else ["-e", path, "-no-emul-boot"]
        load = ["-boot-load-size", str(-(-original.sizes[path] // _UNIT))] if one == "bios" else []
        said += [*(["-eltorito-alt-boot"] if "-no-emul-boot" in said else []), *kind, *load]
    size = original.size
    run_program("genisoimage", [*said, "-o", str(made), str(tree)], makes=made, size=size, progress=progress)
    shutil.rmtree(tree)


def windows_boot(original: Original, firmware: str) -> str:
    """The file that starts setup by a firmware, as it is called on the original. Raises `FileTroubleError`."""
    wanted = WINDOWS_BOOTS[firmware]
    found = next((name for name in original.sizes if name.casefold() == wanted), None)
    if found is None:
        told = f"it is started by {firmware}, and {wanted} does not stand on it"
        raise FileTroubleError(told, file=str(original.path), remedy="use an answer disc beside it")
    return found


def _beside(made: Path, name: str, data: bytes) -> Path:
    path = made.parent / name
    path.write_bytes(data)
    path.chmod(0o644)  # as it is to stand on the disc; the folder is its owner's alone
    return path
