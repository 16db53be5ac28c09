"""Makes the manual pages while the package is built, from the command line's own grammar."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from hatchling.builders.hooks.plugin.interface import BuildHookInterface


class ManualPages(BuildHookInterface[Any]):
    """Writes a page for the program and one for each command, and has them installed where ``man`` looks."""

    def initialize(self, version: str, build_data: dict[str, Any]) -> None:
        """Adds them to a wheel; a checkout that is installed as it is goes without."""
        if version == "editable" or self.target_name != "wheel":
            return
        root = Path(self.root)
        sys.path.insert(0, str(root / "src"))
        sys.path.insert(0, str(root / "tools"))
        from manual_pages import pages

        folder = Path(self.directory) / "man"
        folder.mkdir(parents=True, exist_ok=True)
        for name, text in pages().items():
            (folder / name).write_text(text, encoding="utf-8")
            build_data["shared_data"][str(folder / name)] = f"share/man/man1/{name}"
