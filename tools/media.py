"""Media for measuring and for pictures, made by the programs that also make real ones."""

from __future__ import annotations

import os
import shutil
import subprocess
from pathlib import Path

NEEDED = ("wimlib-imagex", "xorriso", "genisoimage")
TOKEN = "31bf3856ad364e35"  # noqa: S105 - the vendor's public key token
BUILD = "10.0.26100.1742"
SERVER = (
    ("Windows Server 2025 Standard", "ServerStandard", "Server Core"),
    ("Windows Server 2025 Standard (Desktop Experience)", "ServerStandard", "Server"),
    ("Windows Server 2025 Datacenter", "ServerDatacenter", "Server Core"),
    ("Windows Server 2025 Datacenter (Desktop Experience)", "ServerDatacenter", "Server"),
)


def missing() -> list[str]:
    """The programs that are not installed."""
    return [name for name in NEEDED if shutil.which(name) is None]


def run(*command: object) -> None:
    """Runs a program; raises where it fails."""
    subprocess.run([str(one) for one in command], check=True, capture_output=True)


def system(folder: Path, components: int, features: int = 20) -> Path:
    """The folders of an installed system with so many components in its store."""
    manifests = folder / "Windows" / "WinSxS" / "Manifests"
    packages = folder / "Windows" / "servicing" / "Packages"
    for one in (manifests, packages, folder / "Windows" / "System32"):
        one.mkdir(parents=True)
    known = ("shell-setup", "international-core", "deployment", "security-spp-ux", "t..localsessionmanager")
    names = [f"microsoft-windows-{one}" for one in known] + [f"larkmoor-gauges-{at:06d}" for at in range(components)]
    for at, name in enumerate(names):
        (manifests / f"amd64_{name}_{TOKEN}_{BUILD}_none_{at:016x}.manifest").write_bytes(b"%d" % at)
    for at in range(features):
        text = f'<?xml version="1.0"?><a xmlns="urn:larkmoor"><update name="Gauge-{at}"><selectable/></update></a>'
        (packages / f"Larkmoor-Gauge-{at}-Package~{TOKEN}~amd64~~1.0.0.0.mum").write_text(text, encoding="utf-8")
    return folder


def image_file(path: Path, source: Path, images: tuple[tuple[str, str, str], ...], language: str = "en-US") -> Path:
    """An image file with these images, of one folder."""
    for at, (name, edition, kind) in enumerate(images, 1):
        run("wimlib-imagex", "capture" if at == 1 else "append", source, path, name)
        told = {
            "ARCH": 9,
            "EDITIONID": edition,
            "INSTALLATIONTYPE": kind,
            "LANGUAGES/LANGUAGE": language,
            "VERSION/MAJOR": 10,
            "VERSION/MINOR": 0,
            "VERSION/BUILD": 26100,
            "VERSION/SPBUILD": 1742,
        }
        properties = [f"--image-property=WINDOWS/{key}={value}" for key, value in told.items()]
        run("wimlib-imagex", "info", path, at, *properties)
    return path


def server_disc(path: Path, work: Path) -> Path:
    """A disc of a server's installer, whose directories are written as UDF too, with an answer file left on it."""
    inner = work / "server"
    (inner / "sources").mkdir(parents=True)
    (inner / "boot").mkdir()
    (inner / "efi" / "boot").mkdir(parents=True)
    image_file(inner / "sources" / "install.wim", system(work / "system", 200), SERVER)
    (inner / "sources" / "ei.cfg").write_text("[Channel]\r\nVolume\r\n[VL]\r\n1\r\n", encoding="utf-8")
    (inner / "boot" / "etfsboot.com").write_bytes(b"b" * 4096)
    (inner / "efi" / "boot" / "bootx64.efi").write_bytes(b"e" * 4096)
    (inner / "Autounattend.xml").write_text("<unattend/>", encoding="utf-8")
    boot = ("-b", "boot/etfsboot.com", "-no-emul-boot", "-eltorito-alt-boot", "-e", "efi/boot/bootx64.efi")
    run("genisoimage", "-quiet", "-udf", "-V", "LMR_SERVER_2025", *boot, "-no-emul-boot", "-o", path, inner)
    return path


def desk_stick(folder: Path, work: Path) -> Path:
    """A stick with a desk's installer, with an answer file left on it."""
    (folder / "sources").mkdir(parents=True)
    (folder / "efi" / "boot").mkdir(parents=True)
    desks = (("Windows 11 Home", "Core", "Client"), ("Windows 11 Pro", "Professional", "Client"))
    image_file(folder / "sources" / "install.wim", system(work / "desk", 60), desks, "en-GB")
    (folder / "efi" / "boot" / "bootx64.efi").write_bytes(b"e" * 4096)
    (folder / "AutoUnattend.xml").write_text("<unattend/>", encoding="utf-8")
    return folder


def large_disc(path: Path, work: Path, files: int, size: int, *, udf: bool = False) -> Path:
    """A disc with so many packages, which claims so many bytes; most of them are holes."""
    packages = work / "large" / "AppStream" / "Packages"
    packages.mkdir(parents=True, exist_ok=True)
    for at in range(files):
        (packages / f"larkmoor-gauge{at:06d}-1.0-1.el9.x86_64.rpm").write_bytes(b"%d" % at)
    text = "[general]\nfamily = Red Hat Enterprise Linux\nversion = 9.4\narch = x86_64\n"
    (work / "large" / ".treeinfo").write_text(text, encoding="utf-8")
    maker = ("genisoimage", "-udf") if udf else ("xorriso", "-as", "mkisofs")
    run(*maker, "-quiet", "-V", "LMR-GATE-9", "-J", "-R", "-o", path, work / "large")
    with path.open("r+b") as file:
        file.truncate(size)
    return path


def installer_disc(path: Path, work: Path, size: int) -> Path:
    """A disc that starts an installer, of about so many bytes."""
    tree = work / "installer"
    (tree / "isolinux").mkdir(parents=True)
    text = "[general]\nfamily = Red Hat Enterprise Linux\nversion = 9.4\narch = x86_64\n"
    (tree / ".treeinfo").write_text(text, encoding="utf-8")
    menu = "label linux\n  append initrd=initrd.img inst.stage2=hd:LABEL=LMR-GATE-9 quiet\n"
    (tree / "isolinux" / "isolinux.cfg").write_text(menu, encoding="utf-8")
    (tree / "isolinux" / "isolinux.bin").write_bytes(b"b" * 4096)
    some = os.urandom(1 << 20)
    with (tree / "packages.img").open("wb") as file:
        for _ in range(size >> 20):
            file.write(some)
    boot = ("-b", "isolinux/isolinux.bin", "-c", "isolinux/boot.cat", "-no-emul-boot", "-boot-load-size", "4")
    run("xorriso", "-as", "mkisofs", "-quiet", "-V", "LMR-GATE-9", "-J", "-R", *boot, "-o", path, tree)
    shutil.rmtree(tree)
    return path
