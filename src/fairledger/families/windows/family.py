"""What the family offers to the rest of the program."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import cache, lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from fairledger.catalog.catalog import Catalog
from fairledger.catalog.common import Common
from fairledger.catalog.own import NOTHING, Own
from fairledger.catalog.seats import Seats
from fairledger.catalog.targets import all_targets
from fairledger.catalog.tidy import Chosen, Effect
from fairledger.families.casting import Cast
from fairledger.families.interface import Family, Reading
from fairledger.families.windows.later import called
from fairledger.families.windows.passwords import decode, encode
from fairledger.families.windows.servicing import SERVICING
from fairledger.model.facts import Facts
from fairledger.model.finding import Finding
from fairledger.model.sheet import Block, Companion, Node, Sheet
from fairledger.model.target import Limits, Target
from fairledger.model.values import Scalar
from fairledger.profiles.seed import Salt

if TYPE_CHECKING:
    from fairledger.catalog.address import Spot
    from fairledger.intent.intent import Intent

_HIDING = ("Password", "AdministratorPassword", "OfflineAdministratorPassword")
"""Groups whose ``PlainText`` may be false."""

_LIMITS = Limits(
    lines_without_shell=True,
    scripts="cmd",
    commands_restart=True,
    accounts_come_last=True,
    side_architectures=("wow64",),
    groups_translated=("de", "fr", "es", "pt", "sv", "da", "nb", "fi", "pl", "ru", "hu"),
    administrator_translated={
        "fr": "Administrateur",
        "es": "Administrador",
        "pt": "Administrador",
        "sv": "Administratör",
        "fi": "Järjestelmänvalvoja",
        "ru": "Администратор",
        "hu": "Rendszergazda",
    },
    names_shared=True,
    groups_given=True,
    admin_group="Administrators",
    own_zones=True,
    speaks_some=True,
    units_with_domain=True,
    machine_name_length=15,
    one_growing_partition_last=True,
    grow_excludes_size=True,
    drive_letters=True,
    installs_to_stated_partition=True,
    sign_in_count=True,
    licence_must_be_accepted=True,
    product_key_pattern=r"[A-Za-z0-9]{5}(-[A-Za-z0-9]{5}){4}",
    product_key_without="AEILOSUZ015",
    firmware_partition_for=("uefi",),
    reserved_for=("uefi",),
    active_partition_for=("bios",),
    account_name_length=20,
    accounts_there=("Administrator", "Guest", "DefaultAccount", "WDAGUtilityAccount"),
    system_least_mib=20480,
    generalising_pass="generalize",  # noqa: S106 - a pass of setup
    audit_passes=("auditSystem", "auditUser"),
    account_name_forbids='"/\\[]:;|=,+*?<>@',
)

_SIGNS = {(r"\setup\labconfig", "it speaks of LabConfig"): "Windows 11 "}
"""What stands in files for one line of releases only, told in words, with what the names of its images begin with."""


class Windows(Family):
    """The family ``windows``."""

    name = "windows"
    adds_up = True
    undoes = True
    hiding = (
        "passwords in it are encoded, which hides them from a glance and protects nothing: "
        "treat the file like the passwords themselves"
    )

    def limits(self, target: Target | None) -> Limits:  # noqa: ARG002 - all alike
        """What setup can and cannot do."""
        return _LIMITS

    def read(
        self,
        data: bytes,
        file: str,
        root: Path | None = None,  # noqa: ARG002 - takes nothing in
        own: Own = NOTHING,
        common: Common | None = None,
    ) -> Reading:
        """Reads an answer file."""
        from fairledger.families.windows.read import FileReader

        return FileReader(file, own, common).read(data)

    def cast(self, sheet: Sheet, target: Target, own: Own = NOTHING) -> tuple[Cast, ...]:  # noqa: ARG002 - all alike
        """The answer file and the scripts beside it, with holes."""
        from fairledger.families.windows.write import cast, script

        return (cast(sheet, own), *(script(one) for one in sheet.companions))

    def stamp(self, target: Target, told: str) -> tuple[int, str]:  # noqa: ARG002
        """Behind the first line, which says that it is XML."""
        return 1, f"<!-- {told} -->\n"

    def grammar(self, catalog: Catalog) -> bytes | None:
        """The grammar of a target's answer files."""
        from fairledger.families.windows.grammar import grammar

        return grammar(catalog)

    def settle(self, sheet: Sheet, facts: Facts) -> Sheet:
        """Gives every component the machines' architecture, where the draft named no other."""
        return replace(
            sheet,
            blocks=tuple(
                block
                if block.variant or block.pass_ == SERVICING
                else replace(block, variant=facts.arch or "amd64", also=facts.others or ())
                for block in sheet.blocks
            ),
        )

    def revise(self, text: str, seats: Seats, spot: Spot, value: Scalar | None) -> str:
        """The file's text with one answer changed."""
        from fairledger.families.windows.revise import Reviser

        reviser = Reviser(text, seats)
        return reviser.unset(spot) if value is None else reviser.set(spot, value)

    def guess(self, reading: Reading) -> tuple[Target, str] | None:
        """The newest target whose images bear the name that the file asks for, or that alone knows what it does."""
        image = reading.hints.get("image", "")
        found, basis = _newest_with(image), f"it installs the image {image!r}"
        if found is None:
            said = [node.value.casefold() for _, node in reading.sheet.scalars() if isinstance(node.value, str)]
            for (sign, told), prefix in _SIGNS.items():
                if any(sign in value for value in said):
                    found, basis = _newest_with(prefix), told
        return (found, basis) if found is not None else None

    def groups(self) -> dict[str, str]:
        """Well-known groups, and what other display languages call them."""
        from fairledger.families.windows.groups import spellings

        return spellings()

    def zone_name(self, iana: str) -> str:
        """Setup's own name of a time zone."""
        from fairledger.catalog.values import windows_zone

        return windows_zone(iana) or iana

    def conceal(  # one encoding for all machines
        self,
        block: Block,
        way: tuple[Node, ...],
        secret: str,
        *,
        form: str,  # noqa: ARG002
        salt: Salt,  # noqa: ARG002
    ) -> str:
        """Encodes a password where its group says that it is not plain text."""
        hidden = not self.readable(block, way)
        return encode(secret, way[-2].name) if hidden else secret

    def unveiled(self, sheet: Sheet) -> Sheet:
        """Passwords decoded, and said to be plain."""

        def plain(block: Block, way: tuple[Node, ...], value: Scalar) -> Scalar:
            group = way[-2] if len(way) > 1 else None
            if group is None or group.name not in _HIDING or not isinstance(value, str):
                return value
            known = decode(value.strip(), group.name) if not self.readable(block, way) else None
            if way[-1].name == "PlainText":
                held = group.text("Value")
                opened = held is None or decode(held.strip(), group.name) is not None
                return "true" if value.strip() == "false" and opened else value
            return value if known is None else known

        return sheet.map_values(plain)

    def mended(
        self,
        text: str,
        sheet: Sheet,
        findings: Sequence[Finding],  # noqa: ARG002 - the sheet tells
    ) -> tuple[str, str] | None:
        """Fixed attributes of components, and components without anything in them."""
        from fairledger.families.windows.mend import mended

        return mended(text, sheet)

    def comments(self, text: str) -> list[tuple[int, str]]:
        """What stands between comment marks."""
        rows = re.finditer(r"<!--(.*?)-->", text, re.DOTALL)
        return [(text.count("\n", 0, one.end()) + 1, one[1].strip()) for one in rows if one[1].strip()]

    def aged(self, intent: Intent, target: Target) -> Iterator[tuple[str, str, str, bool]]:
        """The ways past a requirement that a build is not known to honour."""
        from fairledger.families.windows.bypass import aged

        return aged(intent, target)

    def companions_of(self, sheet: Sheet) -> tuple[str, ...]:
        """What the launchers of our own form call."""
        names = (called(node.value) for _, node in sheet.scalars() if node.name in ("Path", "CommandLine"))
        return tuple(dict.fromkeys(name for name in names if name and ".." not in name))

    def veil(self, way: tuple[Node, ...]) -> str | None:
        """That a password is not plain."""
        group = way[-2] if len(way) > 1 else None
        held = group is not None and group.name in _HIDING and bool(group.text("Value"))
        return "false" if held and way[-1].name == "PlainText" else None

    def readable(self, block: Block, way: tuple[Node, ...]) -> bool:  # noqa: ARG002
        """Whether a secret stands readable: unless its group says ``PlainText`` is false."""
        if len(way) < 2 or way[-1].name != "Value":
            return True
        said = way[-2].text("PlainText")
        return said is None or said.strip() != "false"

    def companion(self, name: str, text: str) -> Companion:
        """A wireless profile's key is apart from the rest."""
        from fairledger.families.windows.wireless import parted

        return parted(name, text) if name.endswith(".xml") else Companion(name, text)

    def chosen(self, intent: Intent, target: Target, facts: Facts) -> tuple[Chosen, ...]:
        """Choices, apps and services, and how each reaches the machine."""
        from fairledger.families.windows.tidy_undo import chosen

        return chosen(intent, target, single=bool(facts.single_file))

    def spoken(self, body: str, interpreter: str, target: Target, *, sign_in: bool) -> tuple[tuple[str, ...], int]:
        """Choices, other changes, and the rest."""
        from fairledger.families.windows.script_effects import told

        return told(body, interpreter, target, sign_in=sign_in)

    def changes(self, body: str, interpreter: str) -> tuple[tuple[int, Effect], ...]:
        """In the listed forms of the prompt, batch files and PowerShell."""
        from fairledger.families.windows.script_effects import rows_of

        return tuple((row.number, one) for row in rows_of(body, interpreter) for one in row.effects)

    def taken_back(self, intent: Intent, target: Target, ending: str) -> str:
        """A batch file, or a script of PowerShell."""
        from fairledger.families.windows.tidy_undo import taken_back

        return taken_back(intent, target, ending)

    def unwrapped(self, line: str) -> tuple[str, tuple[str, ...]]:
        """What is noted down for later, adds to a log, or runs without a window."""
        from fairledger.families.windows.later import unwrapped

        return unwrapped(line)

    def meant(self, line: str) -> str:
        """Requirement bypasses and privacy choices."""
        from fairledger.families.windows.near import meant

        return meant(line) if "reg" in line[:40].lower() else ""

    def extra_fault(self, text: str) -> tuple[str, str]:
        """Elements that setup itself would read, and what is no element."""
        from fairledger.families.windows.extras import fault

        return fault(text)

    def garbled(self, block: Block, way: tuple[Node, ...]) -> bool:
        """Whether the encoding cannot be undone."""
        if len(way) < 2 or way[-2].name not in _HIDING or self.readable(block, way):
            return False
        value = way[-1].value
        return isinstance(value, str) and bool(value.strip()) and decode(value.strip(), way[-2].name) is None

    def disagrees(self, reading: Reading, target: Target) -> str:
        """The image of another release or line."""
        image = reading.hints.get("image", "")
        found = _newest_with(image)
        begins = bool(target.image_prefix) and image.startswith(target.image_prefix)
        return (
            f"it installs the image {image!r}" if found and image not in target.images.values() and not begins else ""
        )

    def hides(self, setting_parent: str, component: str) -> bool:  # noqa: ARG002
        """Whether setup knows an encoding for passwords in that group."""
        return setting_parent.rsplit("/", 1)[-1] in _HIDING


@lru_cache(maxsize=1000)
def _newest_with(image: str) -> Target | None:
    """The newest target that has an image of that name, else of a name that begins alike."""
    exact = [one for one in _own_targets() if image in one.images.values()]
    begins = [one for one in _own_targets() if one.image_prefix and image.startswith(one.image_prefix)]
    return next(reversed(exact or begins), None)


@cache
def _own_targets() -> tuple[Target, ...]:
    return tuple(target for target in all_targets() if target.family == "windows")
