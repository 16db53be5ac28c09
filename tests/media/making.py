"""Media as other programs make them: images with a store of components, discs and sticks with them."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

import pytest

NEEDS_WIMLIB = pytest.mark.skipif(shutil.which("wimlib-imagex") is None, reason="wimlib-imagex is not installed")
NEEDS_GENISOIMAGE = pytest.mark.skipif(shutil.which("genisoimage") is None, reason="genisoimage is not installed")
NEEDS_XORRISO = pytest.mark.skipif(shutil.which("xorriso") is None, reason="xorriso is not installed")
NEEDS_MTOOLS = pytest.mark.skipif(
    shutil.which("mformat") is None or shutil.which("sfdisk") is None, reason="mtools and sfdisk are not installed"
)
TOKEN = "31bf3856ad364e35"
BUILD = "10.0.26100.1742"
WINDOWS = {
    "ARCH": "9",
    "EDITIONID": "Professional",
    "INSTALLATIONTYPE": "Client",
    "LANGUAGES/LANGUAGE": "en-GB",
    "VERSION/MAJOR": "10",
    "VERSION/MINOR": "0",
    "VERSION/BUILD": "26100",
    "VERSION/SPBUILD": "1742",
}
STORE = (
    ("amd64", "microsoft-windows-shell-setup", "10.0.26100.1"),
    ("amd64", "microsoft-windows-shell-setup", BUILD),
    ("wow64", "microsoft-windows-unattendedjoin", BUILD),
    ("amd64", "microsoft-windows-t..localsessionmanager", BUILD),
    ("amd64", "larkmoor_gauges", BUILD),
)
FEATURES = """<?xml version="1.0" encoding="utf-8"?>
<assembly xmlns="urn:schemas-microsoft-com:asm.v3"><package><update name="TelnetClient"><selectable disposition="staged"/>
</update><update name="Hidden"/><update name="TFTP"><selectable/></update></package></assembly>"""


def run(*command: object) -> None:
    subprocess.run([str(one) for one in command], check=True, capture_output=True)


def folder(path: Path, files: dict[str, bytes | str]) -> Path:
    """A folder with these files."""
    for name, data in files.items():
        file = path / name
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_bytes(data if isinstance(data, bytes) else data.encode())
    return path


def system(path: Path, store: tuple[tuple[str, str, str], ...] = STORE) -> Path:
    """The folders of an installed system, in miniature."""
    files: dict[str, bytes | str] = {
        f"Windows/WinSxS/Manifests/{arch}_{name}_{TOKEN}_{version}_none_{at:016x}.manifest": name
        for at, (arch, name, version) in enumerate(store)
    }
    packages = "Windows/servicing/Packages"
    files |= {
        f"{packages}/Microsoft-Windows-Foundation-Package~{TOKEN}~amd64~~10.0.26100.1.mum": FEATURES,
        f"{packages}/Larkmoor-Gauges-Package~{TOKEN}~amd64~~1.0.0.0.mum": FEATURES.replace("TFTP", "Gauges"),
        f"{packages}/Larkmoor-Mast-Package~{TOKEN}~amd64~~1.0.0.0.mum": "\ufeff" + FEATURES.replace("TFTP", "Mast"),
        "Windows/System32/kernel.bin": b"k",
        "Windows/Panther/Unattend.xml": "<x/>",
        "Program Files/WindowsApps/Microsoft.WindowsCalculator_11.2401.0.0_x64__8wekyb3d8bbwe/a.txt": "a",
        "Program Files/WindowsApps/Deleted/a.txt": "a",
    }
    return folder(path, files)


BOMB = '<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "bb">]><a><update name="&b;"><selectable/></update></a>'


def image_file(path: Path, source: Path, *names: str, solid: bool = False, check: bool = False) -> Path:
    """An image file with that folder under each of the names."""
    for at, name in enumerate(names, 1):
        more = ["--check"] if check else []
        verb = ["capture", source, path, name, "--compress=lzx"] if at == 1 else ["append", source, path, name]
        run("wimlib-imagex", *verb, *more)
        told = [f"--image-property=WINDOWS/{key}={value}" for key, value in WINDOWS.items()]
        run("wimlib-imagex", "info", path, at, *told, *more)
    if solid:
        made = path.with_suffix(".esd")
        run("wimlib-imagex", "export", path, "all", made, "--solid")
        return made
    return path


def disc(path: Path, source: Path, label: str, *more: str) -> Path:
    """A disc with Rock Ridge and Joliet."""
    run("xorriso", "-as", "mkisofs", "-quiet", "-V", label, "-J", "-R", *more, "-o", path, source)
    return path


def bridge(path: Path, source: Path, label: str) -> Path:
    """A disc whose directories are written as UDF too."""
    run("genisoimage", "-quiet", "-udf", "-V", label, "-o", path, source)
    return path


def stick(path: Path, source: Path, label: str, *, table: str = "", mib: int = 40, fat32: bool = True) -> Path:
    """A stick's image: a volume with FAT, and a partition table in front of it if one is named."""
    begin = 1 << 20 if table else 0
    with path.open("wb") as file:
        file.truncate((mib << 20) + 2 * begin)
    if table:
        kind = {"dos": "c", "gpt": "EBD0A0A2-B9E5-4433-87C0-68B6B72699C7"}[table]
        text = f"label: {table}\nstart=2048, size={mib * 2048}, type={kind}\n"
        subprocess.run(["sfdisk", "-q", str(path)], input=text.encode(), check=True, capture_output=True)
    volume = f"{path}@@{begin}"
    run("mformat", "-i", volume, "-T", mib * 2048, *(["-F"] if fat32 else []), "-v", label, "::")
    for one in sorted(source.iterdir()):
        run("mcopy", "-s", "-i", volume, one, "::")
    return path
