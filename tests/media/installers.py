"""Discs that start installers, as their makers build them: both firmwares, sticks as well, their own sums."""

from __future__ import annotations

import shutil
import subprocess
from hashlib import sha256
from pathlib import Path

import pytest
from making import folder, run

LABEL = "RHEL-9-4-0-BaseOS-x86_64"
ISOHYBRID = Path("/usr/lib/ISOLINUX")
NEEDS_MAKERS = pytest.mark.skipif(
    not ISOHYBRID.exists() or not all(map(shutil.which, ("xorriso", "mformat", "implantisomd5"))),
    reason="needs xorriso, mtools, isomd5sum and isolinux",
)
EFI = "C12A7328-F81F-11D2-BA4B-00A0C93EC93B"
GRUB = f"""set default="0"
search --no-floppy --set=root -l '{LABEL}'
menuentry 'Install' {{
\tlinuxefi /images/pxeboot/vmlinuz inst.stage2=hd:LABEL={LABEL} quiet
}}
menuentry 'Rescue' {{
\tlinuxefi /images/pxeboot/vmlinuz inst.stage2=hd:LABEL={LABEL} inst.rescue quiet
}}
"""
ISOLINUX = f"label linux\n  append initrd=initrd.img inst.stage2=hd:LABEL={LABEL} quiet\n"
LOADER = "title=Loading ESXi installer\nkernel=/b.b00\nkernelopt=runweasel cdromBoot\nmodules=/jumpstrt.gz\n"


def boot_image(path: Path, files: dict[str, str | bytes], mib: int = 3) -> Path:
    """A volume with FAT as firmware starts it."""
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(bytes(mib << 20))
    run("mformat", "-i", path, "-v", "BOOT", "::")
    run("mmd", "-i", path, "::/EFI", "::/EFI/BOOT")
    for name, data in files.items():
        part = folder(path.parent.parent / "parts", {name: data}) / name
        run("mcopy", "-i", path, part, f"::/EFI/BOOT/{name}")
    shutil.rmtree(path.parent.parent / "parts")
    return path


def linux_disc(path: Path, *, newer: bool = False, extra: dict[str, str | bytes] | None = None) -> Path:
    """The older form starts BIOS by isolinux and UEFI by a file; the newer one by grub, and by a partition behind."""
    tree = path.with_suffix(".tree")
    menu = "boot/grub2/grub.cfg" if newer else "isolinux/isolinux.cfg"
    image = boot_image(tree / "images" / "efiboot.img", {"BOOTX64.EFI": b"e" * 5000, "grub.cfg": GRUB})
    told = f"[checksums]\nimages/efiboot.img = sha256:{sha256(image.read_bytes()).hexdigest()}\n"
    told += f"images/other.img = sha256:{'a' * 64}\n"
    told += "[general]\nfamily = Red Hat Enterprise Linux\nversion = 9.4\narch = x86_64\n"
    files = {".treeinfo": told, "EFI/BOOT/grub.cfg": GRUB, menu: GRUB if newer else ISOLINUX, "images/gone.img": b""}
    folder(
        tree,
        {
            **files,
            "images/boot.img": (ISOHYBRID / "isolinux.bin").read_bytes(),
            "images/pxeboot/vmlinuz": b"k" * 9000,
            **(extra or {}),
        },
    )
    code = folder(path.parent, {"code.img": b"c" * 512}) / "code.img"
    said = ["-V", LABEL, "-J", "-joliet-long", "-R", "-b", "images/boot.img", "-c", "images/boot.cat"]
    said += ["-no-emul-boot", "-boot-load-size", 4, "-boot-info-table"]
    if newer:
        said += ["--grub2-boot-info", "--grub2-mbr", code, "-partition_offset", 16, "-appended_part_as_gpt"]
        said += ["-append_partition", 2, EFI, image, "-iso_mbr_part_type", "EBD0A0A2-B9E5-4433-87C0-68B6B72699C7"]
        said += ["-eltorito-alt-boot", "-e", "--interval:appended_partition_2:all::", "-no-emul-boot"]
    else:
        said += [
            "-isohybrid-mbr",
            ISOHYBRID / "isohdpfx.bin",
            "-eltorito-alt-boot",
            "-e",
            "images/efiboot.img",
            "-no-emul-boot",
        ]
        said += ["-isohybrid-gpt-basdat"]
    run("xorriso", "-as", "mkisofs", "-quiet", *said, "-o", path, tree)
    run("implantisomd5", "-f", path)
    return path


def hypervisor_disc(path: Path) -> Path:
    """Names in capitals without Rock Ridge, as its maker does it."""
    tree = path.with_suffix(".tree")
    boot_image(tree / "EFIBOOT.IMG", {"BOOTX64.EFI": b"e" * 5000})
    build = "build=8.0.2-0.0.22380479\n"
    folder(tree, {"BOOT.CFG": LOADER + build, "EFI/BOOT/BOOT.CFG": LOADER + build, "ISOLINUX.BIN": b"b" * 4096})
    said = ["-V", "ESXI-8.0.2-22380479", "-relaxed-filenames", "-J", "-b", "ISOLINUX.BIN", "-c", "BOOT.CAT"]
    said += ["-no-emul-boot", "-boot-load-size", 4, "-boot-info-table", "-eltorito-alt-boot", "-e", "EFIBOOT.IMG"]
    run("genisoimage", "-quiet", *said, "-no-emul-boot", "-o", path, tree)
    return path


def inner_file(image: Path, name: str) -> str:
    """A file of a boot image, read by another program."""
    done = subprocess.run(["mtype", "-i", str(image), f"::/EFI/BOOT/{name}"], capture_output=True, check=True)
    return done.stdout.decode()


def taken_out(disc: Path, name: str, to: Path) -> Path:
    """A file of a disc, taken out by another program."""
    run("xorriso", "-osirrox", "on", "-indev", disc, "-extract", f"/{name}", to)
    return to


def boots(disc: Path) -> list[str]:
    """What firmware starts from a disc, as another program tells it, but for places and sizes."""
    said = ["xorriso", "-indev", str(disc), "-report_el_torito", "plain", "-report_system_area", "plain"]
    done = subprocess.run(said, capture_output=True, check=True).stdout.decode()
    lines = [" ".join(one.split()) for one in done.splitlines()]
    kept = ("El Torito img path", "El Torito img opts", "System area summary", "Partition offset", "MBR partition path")
    rows = [one.rpartition(" ")[0].split()[:8] for one in lines if one.startswith("El Torito boot img")]
    return [one for one in lines if one.startswith(kept)] + [" ".join(one) for one in rows]
