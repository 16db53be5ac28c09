"""Which image is installed: by its name, its number, or another property."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.checks.claims import CATALOG, WINDOWS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.image import IMAGE
from fairledger.model.finding import Severity
from fairledger.model.sheet import visible
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
