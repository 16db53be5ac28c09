"""Files that go along with the answer file: whether they are there, and whether they are found once they are wanted."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.checks.claims import PRACTICE, WINDOWS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.file import CARRIED
from fairledger.model.finding import Severity
from fairledger.model.showing import visible
from fairledger.storage.looking import inside, is_file, is_folder

_FILE = "[[file]]\nsource = 'branding/gone.png'\nto = 'C:\\Larkmoor\\gone.png'\n"


@rule(
    "file-missing",
    Severity.ERROR,
    "A file that is to go along with the answer file does not lie where the draft names it.",
    source=PRACTICE,
    fires=_FILE,
    silent='[identity]\nname = "LMR-DESK-01"\n',
)
def file_missing(view: View) -> Iterator[Hit]:
    """What a draft names beside itself, or an answer file lays down from the folder beside it."""
    draft = not view.file
    for one, place in view.going_along:
        path = view.folder / one.source
        there = inside(view.folder, one.source) and (is_file(path) or (is_folder(path) and one.to is None))
        if not there:
            what = "is a folder, and one file is laid down" if is_folder(path) else "does not lie there"
            hint = "bring it" if not draft else "bring it, or name another; the path counts from the draft's folder"
            yield Hit(place, f"{visible(one.source)} {what}", hint, None if draft else Severity.WARNING)


@rule(
    "file-out-of-reach",
    Severity.ERROR,
    "Files that go along with the answer file are not found on this route once the system is laid down.",
    source=f"{WINDOWS}, in which passes setup is connected to a share",
    fires=f'[draft]\ntarget = "windows-11-24h2"\nroute = "share"\n{_FILE}',
    silent=f'[draft]\ntarget = "windows-11-24h2"\nroute = "stick"\n{_FILE}',
)
def file_out_of_reach(view: View) -> Iterator[Hit]:
    """The first of them on a route that leaves nothing connected."""
    route = view.route
    for one, place in view.going_along if route is not None and not route.carries else ():
        if one.to is not None and route is not None:
            told = f"on the route {route.name} nothing is connected when {visible(str(one.to))} is laid down"
            yield Hit(place, told, f"use a stick or disc that holds {CARRIED}, or fetch it in a command")
            return
