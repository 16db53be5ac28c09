"""Which image is installed: by its name, its number, or another property."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.setting import Setting
from fairledger.checks.claims import CATALOG, WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.image import IMAGE
from fairledger.model.finding import Severity
from fairledger.model.showing import visible
from fairledger.model.suggest import did_you_mean, nearest


@rule(
    "image-both",
    Severity.ADVICE,
    "The image is chosen by its number and by its name; where they disagree, setup stops.",
    source=f"{WINDOWS}, InstallFrom/MetaData",
    fires='[image]\nedition = "Pro"\nindex = 6\n',
    silent='[image]\nedition = "Pro"\n',
)
def image_both(view: View) -> Iterator[Hit]:
    """Images chosen twice."""
    image = view.intent.get(IMAGE)
    if image is not None and image.edition is not None and image.index is not None:
        told = "the image is chosen both by its name and by its number"
        yield Hit(view.intent.placed("image", "index"), told, "leave the number out: it changes from medium to medium")


@rule(
    "image-unknown",
    Severity.WARNING,
    "The target has no image of that name: setup finds nothing to install, and stops.",
    source=f"{CATALOG}, names of images by edition",
    fires='[image]\nedition = "Windows 11 Proo"\n',
    silent='[image]\nedition = "Pro"\n',
)
def image_unknown(view: View) -> Iterator[Hit]:
    """Names that begin like those of the vendor's own images, and are none of them."""
    image = view.intent.get(IMAGE)
    name = image.edition if image else None
    target = view.target
    folded = {one.casefold(): one for one in target.images.values()} if target is not None else {}
    if isinstance(name, str) and folded.get(name.casefold(), name) != name:
        spot = view.intent.placed("image", "edition")
        yield Hit(spot, f"the image is spelt {folded[name.casefold()]} on the medium", "spell it so")
        return
    if (
        target is None
        or not isinstance(name, str)
        or not target.image_prefix
        or not name.startswith(target.image_prefix)
    ):
        return
    if not target.edition_of(name):
        close = bool(nearest(name, target.images.values(), alike=0.9))
        told = f"{target.name} has no image {visible(name)}"
        hint = did_you_mean(name, target.images.values()) or "look at the names on the medium"
        yield Hit(view.intent.placed("image", "edition"), told, hint, Severity.ERROR if close else None)


@rule(
    "share-without-account",
    Severity.WARNING,
    "A folder on a share is named without an account that may read it: setup has no name there, and finds nothing.",
    source=f"{WINDOWS}, InstallFrom/Credentials",
    fires="[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage.InstallFrom]\n"
    "Path = '\\\\lmr-files-01\\images\\install.wim'\n",
    silent="[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage.InstallFrom]\nPath = 'D:\\install.wim'\n",
)
def share_without_account(view: View) -> Iterator[Hit]:
    """Paths of shares beside which an account could stand, and does not."""
    for seat in view.where(_is_path):
        component = view.catalog.component(seat.block.component)
        if seat.parent is None or seat.setting is None or component is None or not (seat.text or "").startswith("\\\\"):
            continue
        beside = component.inside(seat.setting.parent).values()
        wanted = next((one.name for one in beside if "reads-share" in one.traits), "")
        if wanted and seat.parent.child(wanted) is None:
            told = f"{visible(seat.text or '')} is on a share, and nobody is named who may read it"
            yield at(seat, told, f"add {wanted}, or use a medium")


def _is_path(setting: Setting) -> object:
    return setting.kind == "path"
