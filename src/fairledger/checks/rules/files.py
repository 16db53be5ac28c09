"""Files that go along with the answer file: whether they are there, and whether they are found once they are wanted."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.tidy import choices_of, tidy
from fairledger.checks.claims import PRACTICE, WINDOWS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.branding import BRANDING
from fairledger.intent.drivers import DRIVERS
from fairledger.intent.features import FEATURES
from fairledger.intent.file import CARRIED
from fairledger.intent.image import IMAGE
from fairledger.model.finding import Severity
from fairledger.model.showing import visible
from fairledger.storage.looking import inside, is_file, is_folder

_FILE = "[[file]]\nsource = 'branding/gone.png'\nto = 'C:\\Larkmoor\\gone.png'\n"

_LOGO = "[branding]\nlogo = 'C:\\Larkmoor\\logo.bmp'\n"


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


@rule(
    "named-and-not-carried",
    Severity.WARNING,
    "What lies beside the draft is named where a path on the machine or the medium is meant, and nothing takes it "
    "there; or a file of the installed system is named that nothing lays down.",
    source=PRACTICE,
    fires=_LOGO,
    silent=_LOGO + "[[file]]\nsource = 'logo.bmp'\nto = 'C:\\Larkmoor\\logo.bmp'\n",
)
def named_and_not_carried(view: View) -> Iterator[Hit]:
    """Folders of drivers, sources of features, images and logos."""
    for path, said in _named(view):
        if not isinstance(said, str) or not said:
            continue
        here = said.replace("\\", "/")
        relative = not here.startswith(("/", "%")) and ":" not in here
        if relative and inside(view.folder, here) and (is_file(view.folder / here) or is_folder(view.folder / here)):
            told = f"{visible(said)} lies beside the draft, and nothing takes it along"
            hint = f'[[file]] source = "{visible(here)}" does, with on_medium; then name its place there'
            if path[0] == DRIVERS.name:
                name = visible(here.rstrip("/").rpartition("/")[2])
                hint = f'write [[file]] source = "{visible(here)}", on_medium = "$WinPEDriver$/{name}" instead: '
                hint += "setup looks there by itself"
            yield Hit(view.intent.placed(*path), told, hint)
    laid = {(one.to or "").casefold() for one, _ in view.going_along}
    for path, there in _on_the_machine(view):
        system = isinstance(there, str) and there.casefold().startswith(_SYSTEM)
        if isinstance(there, str) and there and there.casefold() not in laid and not system:
            told = f"nothing that is known here lays down {visible(there)}"
            hint = "lay it down with [[file]], unless the image or a command brings it"
            yield Hit(view.intent.placed(*path), told, hint, Severity.ADVICE)


def _on_the_machine(view: View) -> Iterator[tuple[tuple[str, str], object]]:
    """Files of the installed system that are named: the logo, and those of choices."""
    branding = view.intent.get(BRANDING)
    if branding is not None:
        yield ("branding", "logo"), branding.logo
    for section in tidy().groups:
        value = view.intent.sections.get(section)
        for name, choice in choices_of(section).items() if value is not None else ():
            if choice.kind == "path":
                yield (section, name), getattr(value, name)


_SYSTEM = ("c:\\windows\\", "%systemroot%\\", "%windir%\\")
"""Where the system's own files lie."""


def _named(view: View) -> Iterator[tuple[tuple[str | int, ...], object]]:
    """Paths that a file names, by their fields."""
    drivers, features, image = view.intent.get(DRIVERS), view.intent.get(FEATURES), view.intent.get(IMAGE)
    for field in ("setup", "image") if drivers is not None else ():
        yield from ((("drivers", field, at), one) for at, one in enumerate(getattr(drivers, field)))
    if features is not None:
        yield ("features", "source"), features.source
    if image is not None:
        yield ("image", "file"), image.file
