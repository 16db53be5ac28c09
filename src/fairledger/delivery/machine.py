"""A virtual machine for a first watched run: the untouched original, the answer disc, and a disk of its own."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import msgspec
from msgspec import Struct

from fairledger.delivery.plan import Step
from fairledger.media.programs import lacking, run_program, where_is
from fairledger.model.errors import FileTroubleError, WrongUseError
from fairledger.model.facts import Facts
from fairledger.storage.looking import is_file, is_there, must_be_file, real, trouble

PROGRAM = "qemu-system-x86_64"
ARCHITECTURES = ("amd64", "x86_64")
_USUAL_MEMORY, _USUAL_DISK = 4096, 64 << 10
"""MiB of a machine that nobody describes."""
_FASTER = {"darwin": "hvf", "win32": "whpx"}
"""What makes machines faster, by system; where it is not to be had, they run without it."""
_QCOW, _FIRST_BYTES = b"QFI\xfb", 4


class Firmware(Struct, frozen=True):
    """Firmware for UEFI."""

    code: str
    variables: str


class _Table(Struct, frozen=True):
    uefi: tuple[Firmware, ...]


@cache
def _known() -> tuple[Firmware, ...]:
    return msgspec.toml.decode(Path(__file__).with_name("firmware.toml").read_bytes(), type=_Table).uefi


def uefi_here() -> Firmware | None:
    """The firmware for UEFI that this system has."""
    return next((one for one in _known() if is_file(Path(one.code)) and is_file(Path(one.variables))), None)


class Machine(Struct, frozen=True, kw_only=True):
    """What is started, and what it is started with."""

    name: str
    """As its files are called."""
    folder: Path
    disc: Path
    """The answer disc."""
    facts: Facts
    original: Path | None = None
    """The installer's own disc, which stays as it is."""
    base: Path | None = None
    """A generalised system's disk, over which the machine's own disk lies; it stays as it is."""

    @property
    def disk(self) -> Path:
        """Its own disk."""
        return self.folder / f"{self.name}.qcow2"

    @property
    def variables(self) -> Path:
        """Its copy of the firmware's variables."""
        return self.folder / f"{self.name}-firmware.fd"

    @property
    def by_uefi(self) -> bool:
        """Whether it starts by UEFI, as it does where nobody says otherwise."""
        return self.facts.firmware != "bios"

    @property
    def disk_mib(self) -> int:
        """The size of its disk."""
        return self.facts.disk_mib or _USUAL_DISK

    @property
    def memory_mib(self) -> int:
        """Its memory."""
        return self.facts.memory_mib or _USUAL_MEMORY

    def command(self) -> tuple[str, ...]:
        """The program and its arguments. The disk comes first: as long as it is empty, the original is started."""
        said = [
            where_is(PROGRAM) or PROGRAM,
            "-name",
            self.name.replace(",", ",,"),
            "-machine",
            f"q35,accel={_FASTER.get(sys.platform, 'kvm')}:tcg",
        ]
        said += ["-cpu", "max", "-smp", "2", "-m", str(self.memory_mib), "-nic", "user,model=e1000e"]
        found = uefi_here()
        if self.by_uefi and found is not None:
            said += ["-drive", f"if=pflash,unit=0,format=raw,readonly=on,file={_value(Path(found.code))}"]
            said += ["-drive", f"if=pflash,unit=1,format=raw,file={_value(self.variables)}"]
        said += ["-drive", f"if=none,id=disk,format=qcow2,file={_value(self.disk)}"]
        said += ["-device", "ide-hd,bus=ide.0,drive=disk,bootindex=0"]
        discs = [one for one in (self.original, self.disc) if one is not None]
        for at, one in enumerate(discs, 1):
            said += ["-drive", f"if=none,id=disc{at},media=cdrom,format=raw,readonly=on,file={_value(one)}"]
            said += [
                "-device",
                f"ide-cd,bus=ide.{at},drive=disc{at}" + (",bootindex=1" if one == self.original else ""),
            ]
        return (*said, "-serial", f"file:{self.folder.absolute() / self.name}.log")

    def steps(self) -> Iterator[Step]:
        """What is made besides the answer disc."""
        action = "replace" if is_there(self.disk) else "make"
        source = f"over {self.base}" if self.base is not None else f"an empty disk of {self.disk_mib:,} MiB"
        yield Step(action=action, path=str(self.disk), source=source)
        if self.by_uefi:
            action = "replace" if is_there(self.variables) else "make"
            yield Step(action=action, path=str(self.variables), source="its firmware's variables")

    def needs(self, *, replace: bool) -> Iterator[str]:
        """What must be there, or be allowed."""
        if self.facts.arch is not None and self.facts.arch not in ARCHITECTURES:
            yield f"a draft for another architecture: machines of {self.facts.arch} are not made"
        for program in (PROGRAM, "qemu-img"):
            if missing := lacking(program):
                yield missing
        if self.by_uefi and uefi_here() is None:
            yield 'the firmware for UEFI (Debian: apt-get install ovmf), or firmware = "bios" in the draft'
        if self.original is None and self.base is None:
            yield "the installer's own disc: --from DISC.iso, or medium in the draft"
        for one in (self.disk, *([self.variables] if self.by_uefi else [])):
            if is_there(one) and not replace:
                yield f"--replace, since {one} stands there already"

    def cares(self) -> Iterator[str]:
        """What nobody said of the machine."""
        if self.facts.firmware is None:
            yield "nobody says which firmware the machine has: it starts by UEFI"
        if self.facts.disk_mib is None and self.base is None:
            yield f"nobody says how large its disk is: it has {_USUAL_DISK >> 10} GiB"
        if self.facts.memory_mib is None:
            yield f"nobody says how much memory it has: it has {_USUAL_MEMORY >> 10} GiB"

    def must_be_right(self) -> None:
        """Raises `FileTroubleError` for media that are none, `WrongUseError` where one file would be two things."""
        made = {real(one) for one in (self.disk, self.variables, self.disc)}
        for one in (self.original, self.base):
            if one is None:
                continue
            must_be_file(one)
            if real(one) in made:
                raise WrongUseError(f"{one} would be changed", remedy="name another folder for the machine")

    def make(self) -> None:
        """Makes its disk and its copy of the firmware's variables. Raises `FileTroubleError`."""
        try:
            self.disk.unlink(missing_ok=True)
            found = uefi_here()
            if self.by_uefi and found is not None:
                shutil.copyfile(found.variables, self.variables)
        except OSError as error:
            raise trouble(self.folder, error) from error
        said = ["create", "-q", "-f", "qcow2"]
        if self.base is not None:
            said += ["-b", str(self.base.absolute()), "-F", _form(self.base)]
        else:
            said += ["-o", "preallocation=off"]
        size = [] if self.base is not None else [f"{self.disk_mib}M"]
        run_program("qemu-img", [*said, str(self.disk.absolute()), *size])


def _value(path: Path) -> str:
    """A path as it stands in an option: its commas are doubled, so that they end nothing."""
    return str(path.absolute()).replace(",", ",,")


def _form(path: Path) -> str:
    with path.open("rb") as file:
        return "qcow2" if file.read(_FIRST_BYTES) == _QCOW else "raw"


def run(machine: Machine) -> int:
    """Starts it and waits for its end; how it ended. Raises `FileTroubleError` where it cannot be started."""
    seen = os.name != "posix" or sys.platform == "darwin" or os.environ.keys() & {"DISPLAY", "WAYLAND_DISPLAY"}
    blind = () if seen else ("-display", "none")
    try:
        return subprocess.run((*machine.command(), *blind), check=False).returncode  # noqa: S603 - our own arguments
    except OSError as error:
        raise FileTroubleError(f"{PROGRAM} cannot be started", file=str(machine.folder)) from error
