"""What nobody answers, so that the installer stops and asks."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.passes import pass_names
from fairledger.catalog.setting import Setting
from fairledger.catalog.values import known_language
from fairledger.checks.claims import KICKSTART, WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.disk import DISK
from fairledger.intent.image import IMAGE
from fairledger.intent.licence import LICENCE
from fairledger.intent.locale import LOCALE
from fairledger.intent.source import SOURCE
from fairledger.model.finding import Severity
from fairledger.model.places import Origin, Place

_DISK = (
    '[disk]\nfate = "wipe"\npartition = [{ role = "firmware", size = "300 MiB" }, { role = "system", size = "rest" }]\n'
)
_CORE = "[answers.windowsPE.Microsoft-Windows-International-Core-WinPE]\n"
_HEAD = "#version=RHEL9\n"


@rule(
    "image-open",
    Severity.ADVICE,
    "Nothing says which image is installed: setup asks, unless the medium has only one or the machine brings a key.",
    source=f"{WINDOWS}, ImageInstall, InstallFrom/MetaData",
    fires=_DISK,
    silent=_DISK + '[image]\nedition = "Pro"\n',
)
def image_open(view: View) -> Iterator[Hit]:
    """Files that lay a disk out and choose no image, neither by a property nor by a key."""
    image, licence = view.intent.get(IMAGE), view.intent.get(LICENCE)
    disks = view.intent.get(DISK)
    if not view.limits.installs_to_stated_partition or not disks or disks[0].fate == "ask":
        return
    chosen = (image is not None and (image.edition or image.index)) or (licence is not None and licence.key)
    if not chosen and not any(view.having("chooses-image")):
        told = "nothing says which of the medium's images is installed"
        yield Hit(view.intent.placed("disk", 0), told, "name it: image.edition, or image.index")


@rule(
    "locale-incomplete",
    Severity.ADVICE,
    "Some of the questions on language are answered and others not: the page with them comes up all the same.",
    source=f"{WINDOWS}, International-Core-WinPE",
    fires="[answers.oobeSystem.Microsoft-Windows-International-Core]\nUILanguage = 'en-GB'\nUserLocale = 'en-GB'\n",
    silent="[answers.oobeSystem.Microsoft-Windows-International-Core]\nUILanguage = 'en-GB'\nUserLocale = 'en-GB'\n"
    "SystemLocale = 'en-GB'\nInputLocale = 'en-GB'\n",
)
def locale_incomplete(view: View) -> Iterator[Hit]:
    """Components on languages with at least half of their answers, in the passes that show the page."""
    locale = view.intent.get(LOCALE)
    if locale is not None and isinstance(locale.language, str) and not known_language(locale.language):
        return  # no keyboard follows from a language that does not exist
    first, last = pass_names(view.family.name)[0], pass_names(view.family.name)[-1]
    for root in view.seats.roots:
        known = root.component
        if known is None or root.block.pass_ not in (first, last):
            continue
        asked = [one.name for one in known.below("") if "language-page" in one.traits]
        lacking = [name for name in asked if root.child(name) is None]
        if 0 < len(lacking) <= len(asked) // 2:
            yield at(root, f"no answer for {', '.join(lacking)}", "answer it too, or setup asks")


@rule(
    "setup-language-open",
    Severity.WARNING,
    "Setup's own language is not said: it asks for it on its first page.",
    source=f"{WINDOWS}, SetupUILanguage",
    fires=_CORE + 'UILanguage = "en-GB"\nInputLocale = "en-GB"\n',
    silent=_CORE + 'UILanguage = "en-GB"\nSetupUILanguage = { UILanguage = "en-GB" }\n',
)
def setup_language_open(view: View) -> Iterator[Hit]:
    """Languages for the system, but none for setup itself, in a file that setup reads from its beginning."""
    locale = view.intent.get(LOCALE)
    first = pass_names(view.family.name)[0]
    if locale is None or locale.setup_language is not None or locale.language is None:
        return
    place = view.intent.place("locale", "language")
    roots = [(root, root.component) for root in view.seats.roots if root.block.pass_ == first]
    asked = [root for root, known in roots if known is not None and any(map(_is_setups, known.below("")))]
    if asked:
        message = "the language of setup itself is not said, and it asks for it"
        yield Hit(place if place.origin.line else asked[0], message, "answer it: locale.setup_language")


def _is_setups(setting: Setting) -> bool:
    return "setup-language" in setting.traits


@rule(
    "source-open",
    Severity.ADVICE,
    "Nothing says where packages come from: it works from a full medium, or with a boot parameter that says so.",
    source=f"{KICKSTART}, url, cdrom, nfs, harddrive; the boot parameter inst.repo",
    fires=_HEAD + "clearpart --all\npart / --size=20000 --grow\n",
    silent=_HEAD + "url --url=http://192.0.2.10/el9\nclearpart --all\npart / --size=20000 --grow\n",
)
def source_open(view: View) -> Iterator[Hit]:
    """Files that lay a disk out and name no source."""
    source = view.intent.get(SOURCE)
    if not view.limits.packages_fetched or not view.intent.get(DISK) or view.blocks("takes-in"):
        return
    if (source is None or source.kind is None) and not view.blocks("brings-system"):
        told = "nothing says where packages come from; the installer looks on its own medium"
        place = Place(None, None, None, Origin(view.seats.roots[0].node.origin.file, 1, 1))
        yield Hit(place, told, "name the source, or start the installer with inst.repo=")
