"""Which image is installed: by its name, its number, or another property."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.setting import Setting
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.image import IMAGE
from fairledger.model.sheet import visible
from fairledger.model.suggest import did_you_mean, nearest

_PROPERTIES = ("/IMAGE/NAME", "/IMAGE/INDEX", "/IMAGE/DESCRIPTION", "/IMAGE/DISPLAYNAME", "/IMAGE/FLAGS")


@rule(
    "image-both",
    "advice",
    "The image is chosen by its number and by its name; where they disagree, setup stops.",
    reads=("image",),
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
    "warning",
    "The target has no image of that name: setup finds nothing to install, and stops.",
    reads=("image",),
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
    if name not in target.images.values():
        close = bool(nearest(name, target.images.values(), alike=0.9))
        told = f"{target.name} has no image {visible(name)}"
        hint = did_you_mean(name, target.images.values()) or "look at the names on the medium"
        yield Hit(view.intent.placed("image", "edition"), told, hint, "error" if close else "")


def _is_property(setting: Setting) -> object:
    return setting.path.endswith("InstallFrom/MetaData/Key")


@rule(
    "image-property",
    "error",
    "The image is chosen by a property that no image has, or by a number that is none.",
    fires="[[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage.InstallFrom.MetaData]]\n"
    'Key = "/IMAGE/NAM"\nValue = "Windows 11 Pro"\n',
    silent="[[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage.InstallFrom.MetaData]]\n"
    'Key = "/IMAGE/NAME"\nValue = "Windows 11 Pro"\n',
)
def image_property(view: View) -> Iterator[Hit]:
    """Properties other than name, index, description, and what stands inside an image's own description."""
    for seat in view.where(_is_property):
        text = seat.text
        if text is None:
            continue
        bare = text.strip().upper()
        beside = seat.parent.child("Value") if seat.parent is not None else None
        if bare == "/IMAGE/INDEX" and beside is not None and beside.text and not _counts(beside.text):
            yield at(
                beside, f"{visible(beside.text)} is no number of an image", "write its number, or choose by /IMAGE/NAME"
            )
        if bare not in _PROPERTIES and not bare.startswith("/IMAGE/WINDOWS/"):
            yield at(seat, f"images have no property {visible(text)}", did_you_mean(bare, _PROPERTIES))


def _counts(text: str) -> bool:
    """Whether it is a number of an image: they are counted from 1."""
    return text.strip().isdecimal() and int(text.strip()[:9]) > 0
