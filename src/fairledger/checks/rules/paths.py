"""Paths that lead nowhere."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.setting import Setting
from fairledger.checks.claims import PRACTICE
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View, judge
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.showing import visible

_WHOLE = pattern(r"(?:[A-Za-z]:\\|\\\\|%|\$|\.{1,2}\\|https?:).*", 16)  # over lines
_LOGO = "[answers.specialize.Microsoft-Windows-Shell-Setup.OEMInformation]\nLogo = '{}'\n"


@rule(
    "path-without-drive",
    Severity.WARNING,
    "A path begins neither with a drive nor with a share: where it leads depends on the folder that setup is in.",
    source=PRACTICE,
    fires=_LOGO.format(r"larkmoor\logo.bmp"),
    silent=_LOGO.format(r"C:\larkmoor\logo.bmp"),
)
def path_without_drive(view: View) -> Iterator[Hit]:
    """Folders without a root, and shares with a single backslash."""
    for seat, text in view.judged(_rootless) if view.limits.drive_letters else ():
        hint = f"write \\{text} for a share, or put the drive in front" if text[0] == "\\" else "put the drive in front"
        yield at(seat, f"the path {visible(text)} begins neither with a drive nor with a share", visible(hint))


@rule(
    "path-characters",
    Severity.WARNING,
    "A path holds characters that no file or folder can have in its name.",
    source="the vendor's naming conventions for files and paths",
    fires=_LOGO.format(r"C:\larkmoor\logo?.bmp"),
    silent=_LOGO.format(r"C:\larkmoor\logo.bmp"),
)
def path_characters(view: View) -> Iterator[Hit]:
    """Question marks, brackets and the like in paths of systems with drives."""
    for seat, match in view.judged(_forbidden) if view.limits.drive_letters else ():
        yield at(seat, f"no name holds {visible(match)}", "write the path without it")


@judge
def _forbidden(setting: Setting | None, text: str) -> str:
    bare = text.strip().removeprefix("\\\\?\\")
    return next((one for one in bare if one in '<>|?"'), "") if setting is not None and setting.kind == "path" else ""


@judge
def _rootless(setting: Setting | None, text: str) -> str:
    bare = text.strip()
    folders = setting is not None and setting.kind == "path" and "bare-name" not in setting.traits and "\\" in bare
    return bare if folders and not _WHOLE.match(bare) else ""
