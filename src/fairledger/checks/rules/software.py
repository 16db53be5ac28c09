"""Packages, ports and members: lists whose items are spelt so that nothing bears that name."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fairledger.catalog.setting import Setting
from fairledger.checks.claims import KICKSTART
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.model.finding import Severity
from fairledger.model.sheet import visible

_HEAD = "#version=RHEL9\n"


@rule(
    "package-name",
    Severity.ERROR,
    "A line of the package section holds one name; with a comma or several names nothing bears it, and setup stops.",
    source=f"{KICKSTART}, %packages",
    fires=_HEAD + "%packages\nchrony, rsync\n%end\n",
    silent=_HEAD + "%packages\nchrony\nrsync\n%end\n",
)
def package_name(view: View) -> Iterator[Hit]:
    """Packages with a space or a comma in their names."""
    for seat in view.where(_is_package):
        if seat.text is not None and re.search(r"[\s,;]|^$|^\^", seat.text.strip()):
            told = f"nothing is called {visible(seat.text.strip())!r}"
            yield at(seat, told, "write each package on a line of its own")
    for seat in view.where(_is_group):
        if seat.text is not None and seat.text.strip().endswith("-environment"):
            told = f"{visible(seat.text.strip())} is an environment, not a group"
            yield at(seat, told, f"write @^{visible(seat.text.strip())}")


def _is_group(setting: Setting) -> object:
    return setting.form == "entry" and setting.name == "group"


def _is_package(setting: Setting) -> object:
    return setting.form == "entry" and setting.name in ("package", "exclude", "environment")
