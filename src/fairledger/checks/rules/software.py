"""Packages, ports and members: lists whose items are spelt so that nothing bears that name."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fairledger.catalog.setting import Setting
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.model.sheet import visible

_HEAD = "#version=RHEL9\n"
_MEMBERS = ("--bondslaves", "--bridgeslaves", "--teamslaves")


@rule(
    "package-name",
    "error",
    "A line of the package section holds one name; with a comma or several names nothing bears it, and setup stops.",
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


@rule(
    "member-itself",
    "error",
    "A bond or a bridge is made of other interfaces: it cannot be one of its own members.",
    fires=_HEAD + "network --device=eno1 --bondslaves=eno1,eno2\n",
    silent=_HEAD + "network --device=bond0 --bondslaves=eno1,eno2\n",
)
def member_itself(view: View) -> Iterator[Hit]:
    """Members of the device's own name."""
    for seat in view.where(_are_members):
        device = seat.parent.child("--device") if seat.parent is not None else None
        if device is not None and device.text and device.text in (seat.text or "").split(","):
            told = f"{visible(device.text)} is to be a member of itself"
            yield at(seat, told, "give the whole a name of its own, such as bond0")


def _are_members(setting: Setting) -> object:
    return setting.name in _MEMBERS
