"""The portable section ``file``: files that the medium carries, and where they are laid down on the system."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from pathlib import PurePosixPath
from typing import ClassVar

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.pattern import pattern

CARRIED = "fair-ledger/files"
"""The folder of the medium, beside the answer file, that holds what is laid down."""
_NAME = pattern(r"[A-Za-z0-9_][A-Za-z0-9_.-]{0,99}")
_MODE = pattern(r"0?[0-7]{3}|[0-7]{4}")
_OWNER = pattern(r"[A-Za-z_][A-Za-z0-9_.-]*(:[A-Za-z_][A-Za-z0-9_.-]*)?")


class File(Part, frozen=True, kw_only=True):
    """A file, or a folder with all that is in it, which lies beside the draft and goes along with the answer file."""

    source: str
    """Where it lies: its path from the draft's folder on, with ``/``."""
    to: str | None = None
    """Its whole path on the installed system, its name with it; without one it only goes along on the medium."""
    on_medium: str | None = None
    """Its path on the medium from the answer file on, for what only goes along: ``$WinPEDriver$/net``, say. Without one
    it lies there as it lies beside the draft."""
    owner: str | None = None
    """Whose it is, as ``user`` or ``user:group``, where the family has owners."""
    mode: str | None = None
    """Its rights in octal digits, where the family has them."""

    KEY: ClassVar[str] = "source"

    def __post_init__(self) -> None:
        """Refuses what cannot be, with a `ValueError`."""
        for path in (self.source, self.on_medium):
            if path is not None and _leads_elsewhere(path):
                raise ValueError(f"{path!r} leads elsewhere: name what lies beside the draft, with /")

    @property
    def fits(self) -> str:
        """What of its owner and rights is none; empty where both can be."""
        if self.mode is not None and not _MODE.fullmatch(self.mode):
            return f"{self.mode!r} are no rights: write octal digits, such as 0644"
        if self.owner is not None and not _OWNER.fullmatch(self.owner):
            return f"{self.owner!r} is no owner: write user, or user:group"
        return ""

    @property
    def carried(self) -> str:
        """Its path on the medium, from the answer file on; empty where it has none."""
        if self.to is None:
            return self.on_medium or self.source
        return f"{CARRIED}/{self.name}" if self.name else ""

    @property
    def name(self) -> str:
        """The name under which it is laid down; empty where it is not, or by no plain name."""
        if self.to is None:
            return ""
        last = self.to.replace("\\", "/").rpartition("/")[2]
        return last if _NAME.fullmatch(last) else ""


def _leads_elsewhere(path: str) -> bool:
    parts = PurePosixPath(path).parts
    return not parts or path.startswith("/") or "\\" in path or ":" in path or ".." in parts or "\0" in path


FILE: Section[tuple[File, ...]] = Section("file", File, many=True)
"""Files that the medium carries."""
