"""Licence terms, and the keys with which setup goes on."""

from __future__ import annotations

import re
from collections.abc import Iterator

from fairledger.catalog.passes import pass_names
from fairledger.catalog.seats import Seat
from fairledger.catalog.setting import Setting
from fairledger.catalog.setup_keys import releases_of
from fairledger.catalog.targets import name_of
from fairledger.checks.claims import CATALOG, PRACTICE
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.disk import DISK
from fairledger.intent.image import IMAGE
from fairledger.intent.licence import LICENCE
from fairledger.model.finding import Severity
from fairledger.model.pattern import pattern
from fairledger.model.values import SecretRef

_PLACEHOLDER_KEYS = pattern(r"(?i)(.)\1{4}(-\1{5}){4}|(x{5}|.*your.*|.*<.*>.*|key|product.?key|change.?me)(-.*)?")
_PUBLISHED_KEY = '"published"'
_PUBLISHED = '[image]\nedition = "Pro"\n[licence]\naccept = true\nkey = "published"\n'


@rule(
    "key-form",
    Severity.ERROR,
    "The product key has the wrong form.",
    source="the form of the vendor's product keys",
    fires='[licence]\naccept = true\nkey = "BCDFG-HJKMP-QRTVW"\n',
    silent='[licence]\naccept = true\nkey = { env = "DESK_KEY" }\n',
    by_itself=True,
)
def key_form(view: View) -> Iterator[Hit]:
    """Keys that cannot be one. The key itself is never told."""
    pattern = view.limits.product_key_pattern
    licence = view.intent.get(LICENCE)
    key = licence.key if licence is not None else None
    sources = key.sources if isinstance(key, SecretRef) else ()
    taken = {source.name for source in sources}
    for seat in view.where(_is_key) if pattern else ():
        if not seat.text or seat.text in taken or _stands_for_one(seat.text):
            continue
        if not re.fullmatch(pattern, seat.text.strip()):
            yield at(seat, "the product key has the wrong form", _GROUPS)
        elif odd := _odd(seat.text, view.limits.product_key_without):
            yield at(seat, f"the product key holds {odd}, which no key has", "look at it again: copied, not typed")
    for source in sources if pattern else ():
        if source.kind != "value" or not isinstance(source.name, str) or _stands_for_one(source.name):
            continue
        spot = view.intent.placed("licence", "key")
        held = source.name.strip()
        if not re.fullmatch(pattern, held):
            yield Hit(spot, "the product key has the wrong form", _GROUPS)
        elif odd := _odd(held, view.limits.product_key_without):
            yield Hit(spot, f"the product key holds {odd}, which no key has", "look at it again: copied, not typed")


_GROUPS = 'a key has five groups of five letters or digits; "published" stands for the vendor\'s own'


def _odd(key: str, never: str) -> str:
    """What stands in a key and in none; at most three of it, so that nothing of the rest is told."""
    found = sorted({char for char in key.upper() if char in never})
    return " or ".join(found[:3])


@rule(
    "key-placeholder",
    Severity.ERROR,
    "A placeholder stands where the product key belongs: setup refuses it.",
    source=PRACTICE,
    fires="[licence]\naccept = true\nkey = 'XXXXX-XXXXX-XXXXX-XXXXX-XXXXX'\n",
    silent='[licence]\naccept = true\nkey = { env = "KEY" }\n',
    always=True,
)
def key_placeholder(view: View) -> Iterator[Hit]:
    """Keys of one character, or counting up."""
    licence = view.intent.get(LICENCE)
    for field in ("key", "activation_key"):
        secret = getattr(licence, field) if licence is not None else None
        if not isinstance(secret, SecretRef) or not secret.literal:
            continue
        if _stands_for_one(str(secret.sources[0].name)):
            told = "a placeholder stands where the product key belongs"
            yield Hit(view.intent.placed("licence", field), told, "refer to the real one as a secret, or leave it out")


def _stands_for_one(key: str) -> bool:
    """Whether a key is none, but shows where one belongs: of one character, counting up, or in words."""
    if _PLACEHOLDER_KEYS.fullmatch(key.strip()):
        return True
    text = key.strip().replace("-", "")
    return len(set(text)) <= 2 or text.startswith(("12345", "ABCDE"))


@rule(
    "key-of-other-edition",
    Severity.ERROR,
    "The product key is published for another edition or release than the image's: setup finds no image for it.",
    source="the vendor's list of setup keys for volume activation",
    fires=_PUBLISHED + "[[answers.windowsPE.Microsoft-Windows-Setup.ImageInstall.OSImage.InstallFrom.MetaData]]\n"
    'Key = "/IMAGE/NAME"\nValue = "Windows 11 Enterprise"\n',
    silent=_PUBLISHED,
)
def key_of_other_edition(view: View) -> Iterator[Hit]:
    """Keys that a vendor publishes, beside an image that they are not for."""
    target, image = view.target, view.intent.get(IMAGE)
    for seat in view.where(_is_setup_key) if target is not None else ():
        releases = releases_of(_held(seat))
        if not releases or target is None:
            continue
        named = image.edition if image is not None and isinstance(image.edition, str) else ""
        edition = target.edition_of(named)
        meant = releases.get(target.id)
        if meant is None:
            name, other = next(iter(releases.items()))
            told = f"the product key is the one that is published for {name_of(name)} {other}"
            yield at(
                seat,
                f"{told}, and this is {target.name}",
                f"write the published one: {view.called('licence.key', _PUBLISHED_KEY)}",
            )
        elif edition and meant != edition.removesuffix(" (Core)"):
            told = f"the product key is the one that is published for the edition {meant}, and the image is {edition}"
            yield at(
                seat,
                told,
                f"write the published one, {view.called('licence.key', _PUBLISHED_KEY)}, or the edition that is meant",
            )


def _is_key(setting: Setting) -> object:
    return setting.kind == "key"


def _is_setup_key(setting: Setting) -> object:
    return "edition-key" in setting.traits


def _held(seat: Seat) -> str:
    """The key itself, if it stands in the file."""
    if isinstance(seat.value, SecretRef):
        return next((str(one.name) for one in seat.value.sources if one.kind == "value"), "")
    return seat.text or ""


@rule(
    "licence-not-accepted",
    Severity.ERROR,
    "Nobody accepts the licence terms: setup stops and shows them.",
    source=f"{CATALOG}, what each installer says of its terms",
    fires='[image]\nedition = "Pro"\n[licence]\naccept = false\n',
    silent='[image]\nedition = "Pro"\n[licence]\naccept = true\n',
)
def licence_not_accepted(view: View) -> Iterator[Hit]:
    """Hands-free installations without accepted terms."""
    if not view.limits.licence_must_be_accepted:
        return
    licence = view.intent.get(LICENCE)
    if licence is not None and licence.accept:
        return
    first = pass_names(view.family.name)[0]
    if licence is not None and licence.accept is False:
        yield Hit(
            view.intent.placed("licence", "accept"),
            "the licence terms are refused",
            f"accept them: {view.called('licence.accept', 'true')}",
        )
        return
    roots = [root for root in view.seats.roots if root.block.pass_ == first]
    disks, image = view.intent.get(DISK), view.intent.get(IMAGE)
    alone = any(root.block.pass_ == first for root in view.blocks("installs"))
    if roots and (disks or image or alone) and not any(view.having("from-server")):  # which asks for no consent
        told = "nobody accepts the licence terms; setup stops at them"
        yield Hit(roots[0].place, told, f"answer it: {view.called('licence.accept', 'true')}")
