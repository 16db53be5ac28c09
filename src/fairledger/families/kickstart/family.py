"""What the family offers to the rest of the program."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fairledger.catalog.catalog import catalog_of
from fairledger.catalog.common import Common
from fairledger.catalog.meant import target_named
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.seats import Seats
from fairledger.catalog.targets import covers
from fairledger.catalog.tidy import Chosen
from fairledger.families.casting import Cast
from fairledger.families.interface import Family, Reading, Scripted
from fairledger.model.facts import Facts
from fairledger.model.finding import Finding
from fairledger.model.sheet import Block, Node, Sheet
from fairledger.model.target import Limits, Target
from fairledger.model.values import Scalar
from fairledger.profiles.seed import Salt

if TYPE_CHECKING:
    from fairledger.catalog.address import Spot
    from fairledger.intent.intent import Intent

_LINUX = Limits(
    scripts="sh",
    admin_group="wheel",
    name_servers=3,  # resolv.conf(5)
    packages_fetched=True,
    source_forms=("hd:", "nfs:", "cdrom"),
    machine_name_length=64,
    machine_name_dots=True,
    account_name_length=32,
    account_name_forbids=" \"/\\[]:;|=,+*?<>@!#$%&'()`{}~^",
    mounts=True,
    home_above_mib=50 * 1024,
    firmware_partition_for=("uefi",),
    unknown_commands_refused=True,
    extends_by_itself=True,
    reserved_for=("bios",),
    boot_partition_for=("bios",),
    locked_without_password=True,
    joins_with_account=False,
    accounts_there=("root", "bin", "daemon", "nobody"),
    system_least_mib=3072,
)
_HYPERVISOR = Limits(
    scripts="sh",
    machine_name_length=63,
    machine_name_dots=True,
    licence_must_be_accepted=True,
    unknown_commands_refused=True,
    product_key_pattern=r"[A-Za-z0-9]{5}(-[A-Za-z0-9]{5}){4}",
    takes_whole_disk=True,
)
_LIMITS = {"el": _LINUX, "fedora": _LINUX, "esxi": _HYPERVISOR, "esx": _HYPERVISOR}


class Kickstart(Family):
    """The family ``kickstart``."""

    name = "kickstart"
    hiding = "passwords in it are hashed; weak ones can be guessed from their hashes all the same"

    def limits(self, target: Target | None) -> Limits:
        """What the line's installer can and cannot do."""
        if target is None:
            return replace(_LINUX, licence_must_be_accepted=False)
        # Enterprise Linux has no Btrfs from its release 8 on
        late = target.line == "el" and covers(target, ("el-8",), ())
        return replace(_LINUX, formats_gone=("btrfs",)) if late else _LIMITS[target.line]

    def chosen(self, intent: Intent, target: Target, facts: Facts) -> tuple[Chosen, ...]:  # noqa: ARG002
        """By services, packages and the firewall."""
        from fairledger.families.kickstart.tidy import chosen

        return chosen(intent, target)

    def read(
        self,
        data: bytes,
        file: str,
        root: Path | None = None,
        own: Own = NOTHING,
        common: Common | None = None,  # noqa: ARG002 - its commands are too small to be shared
    ) -> Reading:
        """Reads an answer file."""
        from fairledger.families.kickstart.read import FileReader

        return FileReader(file, root, own=own).read(data)

    def cast(self, sheet: Sheet, target: Target, own: Own = NOTHING) -> tuple[Cast, ...]:
        """The answer file, with holes."""
        from fairledger.families.kickstart.write import Writer

        return (Writer(target, catalog_of(self.name, target, own)).cast(sheet),)

    def stamp(self, target: Target, told: str) -> tuple[int, str]:
        """At the top, with the line by which the installer's own tools tell the release."""
        named = {"el": "RHEL", "fedora": "F"}.get(target.line)
        version = f"#version={named}{target.id.rpartition('-')[2]}\n" if named else ""
        return 0, f"{version}# {told}\n"

    def revise(self, text: str, seats: Seats, spot: Spot, value: Scalar | None) -> str:
        """The file's text with one answer changed."""
        from fairledger.families.kickstart.revise import Reviser

        reviser = Reviser(text, seats)
        return reviser.unset(spot) if value is None else reviser.set(spot, value)

    def guess(self, reading: Reading) -> tuple[Target, str] | None:
        """The release that the file names, or the newest of the line whose own commands it uses."""
        named = reading.hints.get("target")
        return (target_named(named), reading.hints["basis"]) if named else None

    def conceal(self, block: Block, way: tuple[Node, ...], secret: str, *, form: str, salt: Salt) -> str:
        """Hashes a plain password where the command says that it is a hash."""
        from fairledger.families.kickstart.hashes import hashed

        if form == "hash" or self.readable(block, way):
            return secret
        who = next((node.value for node in block.children if node.name == "--name"), "root")
        return hashed(secret, block.component, salt(str(who)))

    def mended(
        self,
        text: str,
        sheet: Sheet,  # noqa: ARG002 - the findings tell
        findings: Sequence[Finding],
    ) -> tuple[str, str] | None:
        """A section that is not closed gets its end, where the next one begins or the file ends."""
        from fairledger.families.kickstart.statements import SourceText

        if not any(finding.rule == "section-open" for finding in findings):
            return None
        source = SourceText(text)
        for one in source.statements:
            if one.body is not None and not one.closed:
                ends = one.body_start + len(one.body.rstrip())
                before = text[:ends].rstrip("\n")
                rest = text[ends:].removeprefix("\n")
                name = f"%end for {one.name} in line {source.position(one.start)[0]}"
                return f"{before}\n%end\n{rest}", name
        return None

    def comments(self, text: str) -> list[tuple[int, str]]:
        """Lines that begin with a number sign, outside scripts."""
        from fairledger.families.kickstart.statements import SourceText

        source = SourceText(text)
        inside = {
            line
            for one in source.statements
            if one.body is not None
            for line in range(source.position(one.start)[0], source.position(one.body_start + len(one.body))[0] + 1)
        }
        rows = enumerate(text.splitlines(), 1)
        told = [(number, line.strip().lstrip("#").strip()) for number, line in rows if line.lstrip().startswith("#")]
        return [one for one in told if one[0] not in inside and one[1] and not one[1].startswith("version=")]

    def scripted(self, seats: Seats) -> tuple[Scripted, ...]:
        """What scripts before setup write into files that are taken in."""
        from fairledger.families.kickstart.scripted import scripted

        return scripted(seats)

    def extra_fault(self, text: str) -> tuple[str, str]:
        """All that is not one unknown section with its end."""
        from fairledger.families.kickstart.write import fault

        return fault(text)

    def readable(self, block: Block, way: tuple[Node, ...]) -> bool:
        """Whether a secret stands readable: unless its command says that it is a hash."""
        if way[-1].name not in ("password", "--password"):
            return True
        return not any(node.name == "--iscrypted" for node in block.children)

    def disagrees(self, reading: Reading, target: Target) -> str:
        """Another release in the first lines, or commands of another line."""
        named = reading.hints.get("target")
        return reading.hints["basis"] if named and named != target.id and self._differ(named, target) else ""

    def _differ(self, named: str, target: Target) -> bool:
        """Whether a file for one is not for the other: in a line without releases in its files, lines count."""
        return target_named(named).line != target.line or target.line in ("el", "fedora")

    def hides(self, setting_parent: str, component: str) -> bool:
        """Whether the command takes a hash."""
        return not setting_parent and component in ("rootpw", "user", "sshpw", "bootloader")
