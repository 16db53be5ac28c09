"""Media that were made, started for real in a virtual machine: by BIOS and by UEFI, as far as a small Linux.

What its kernel was told by the remastered disc's menus, and the answer file that it found by the answer disc's label, are
read from the serial line. ``make real`` installs what is needed and runs this.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
from pathlib import Path

import pytest
from installers import ISOHYBRID, LABEL
from making import folder, run

from factories import GATE
from fairledger.delivery.machine import uefi_here

KERNEL = next((one for one in sorted(Path("/lib/modules").glob("*-amd64")) if "cloud" not in one.name), None)
PROGRAMS = ("qemu-system-x86_64", "qemu-img", "xorriso", "grub-mkimage", "busybox", "cpio", "mformat")
MISSING = [one for one in PROGRAMS if shutil.which(one) is None]
MISSING += [] if KERNEL is not None and ISOHYBRID.exists() and uefi_here() else ["kernel, isolinux or ovmf"]
pytestmark = [
    pytest.mark.skipif(not os.environ.get("REAL"), reason="only make real runs it"),
    pytest.mark.skipif(bool(MISSING), reason=f"not installed: {', '.join(MISSING)}"),
]
MODULES = ("scsi_common", "scsi_mod", "cdrom", "libata", "libahci", "ahci", "sr_mod", "isofs")
INIT = f"""#!/bin/busybox sh
for one in proc sysfs devtmpfs; do /bin/busybox mkdir -p /$one; done
/bin/busybox mount -t proc none /proc; /bin/busybox mount -t devtmpfs none /dev
for one in {" ".join(MODULES)}; do /bin/busybox insmod /$one.ko; done
/bin/busybox sleep 3
echo "TOLD $(/bin/busybox cat /proc/cmdline)"
for one in /dev/sr0 /dev/sr1; do
  label=$(/bin/busybox dd if=$one bs=1 skip=32808 count=32 2>/dev/null)
  case $label in
    OEMDRV*) /bin/busybox mkdir -p /mnt; /bin/busybox mount -t iso9660 -o ro $one /mnt
      /bin/busybox sed 's/^/FOUND /' /mnt/ks.cfg;;
  esac
done
/bin/busybox poweroff -f
"""
ARGUMENTS = f"inst.stage2=hd:LABEL={LABEL} console=ttyS0 panic=-1"
GRUB = f"""set timeout=0
search --no-floppy --set=root -l '{LABEL}'
menuentry 'Install' {{
\tlinux /images/pxeboot/vmlinuz {ARGUMENTS} from=uefi
\tinitrd /images/pxeboot/initrd.img
}}
"""
ISOLINUX = f"serial 0\ndefault linux\nlabel linux\n  kernel vmlinuz\n  append initrd=initrd.img {ARGUMENTS} from=bios\n"
PARTS = ("iso9660", "fat", "part_gpt", "part_msdos", "normal", "linux", "search", "search_label", "serial", "all_video")


def small_linux(at: Path) -> Path:
    """A first file system that tells what it was told, and what it finds."""
    assert KERNEL is not None
    root = folder(at / "root", {"init": INIT})
    (root / "bin").mkdir()
    shutil.copy(str(shutil.which("busybox")), root / "bin" / "busybox")
    for name in MODULES:
        shutil.copy(next(KERNEL.rglob(f"{name}.ko")), root / f"{name}.ko")
    (root / "init").chmod(0o755)
    names = "\n".join(str(one.relative_to(root)) for one in root.rglob("*")).encode()
    packed = subprocess.run(
        ["cpio", "-o", "-H", "newc", "--quiet"], cwd=root, input=names, capture_output=True, check=True
    )
    (at / "initrd.img").write_bytes(packed.stdout)
    return at / "initrd.img"


def installer(at: Path) -> Path:
    """A disc that starts it by either firmware, as those of Enterprise Linux are made."""
    assert KERNEL is not None
    kernel = Path(f"/boot/vmlinuz-{KERNEL.name}").read_bytes()
    initrd = small_linux(at).read_bytes()
    modules = Path("/usr/lib/syslinux/modules/bios/ldlinux.c32").read_bytes()
    told = "[general]\nfamily = Red Hat Enterprise Linux\nversion = 9.4\narch = x86_64\n"
    files = {"isolinux/vmlinuz": kernel, "isolinux/initrd.img": initrd, "images/pxeboot/vmlinuz": kernel}
    files |= {"images/pxeboot/initrd.img": initrd, "isolinux/isolinux.bin": (ISOHYBRID / "isolinux.bin").read_bytes()}
    files |= {"isolinux/ldlinux.c32": modules, "isolinux/isolinux.cfg": ISOLINUX, "EFI/BOOT/grub.cfg": GRUB}
    tree = folder(at / "tree", {**files, ".treeinfo": told})
    run("grub-mkimage", "-O", "x86_64-efi", "-p", "/EFI/BOOT", "-o", tree / "EFI/BOOT/BOOTX64.EFI", *PARTS)
    image = tree / "images/efiboot.img"
    image.write_bytes(bytes(6 << 20))
    run("mformat", "-i", image, "::")
    run("mmd", "-i", image, "::/EFI", "::/EFI/BOOT")
    run("mcopy", "-i", image, tree / "EFI/BOOT/BOOTX64.EFI", tree / "EFI/BOOT/grub.cfg", "::/EFI/BOOT/")
    said = ["-V", LABEL, "-J", "-R", "-b", "isolinux/isolinux.bin", "-c", "isolinux/boot.cat", "-no-emul-boot"]
    said += ["-boot-load-size", 4, "-boot-info-table", "-isohybrid-mbr", ISOHYBRID / "isohdpfx.bin"]
    said += ["-eltorito-alt-boot", "-e", "images/efiboot.img", "-no-emul-boot", "-isohybrid-gpt-basdat"]
    run("xorriso", "-as", "mkisofs", "-quiet", *said, "-o", at / "el9.iso", tree)
    return at / "el9.iso"


@pytest.mark.parametrize("firmware", ["bios", "uefi"])
def test_a_remastered_disc_starts_and_the_answer_disc_is_found_by_its_label(program, tmp_path, firmware):
    installer(tmp_path).rename(program.folder / "el9.iso")
    wipes = ("--wipes", "disk sda")
    draft = GATE.format("lmr-gate-03").replace('target = "el-9"', f'target = "el-9"\nfirmware = "{firmware}"\n')
    program.file("gate.toml", draft.replace("plan = {}", 'plan = {}\ntable = "gpt"') if firmware == "uefi" else draft)
    program("deliver", "gate.toml", "--to", "iso:new.iso", "--from", "el9.iso", *wipes)
    to = ("deliver", "gate.toml", "--to", "machine:lab", "--from", "new.iso", *wipes, "--format", "json")
    command = json.loads(program(*to).stdout)["machines"][0]["command"]
    # a machine within a machine may have the faster way, and not be able to go it
    command = [one.replace("accel=kvm:tcg", "accel=tcg") for one in command]
    subprocess.run([*command, "-display", "none", "-no-reboot"], check=True, timeout=200, stdin=subprocess.DEVNULL)
    log = (program.folder / "lab/lmr-gate-03.log").read_text(errors="replace")
    told = next(line for line in log.splitlines() if "TOLD " in line)
    assert f"inst.ks=hd:LABEL={LABEL}:/ks.cfg" in told
    assert f"from={firmware}" in told
    assert any("FOUND network" in line and "lmr-gate-03" in line for line in log.splitlines())
