"""What a file says, against the medium that it is for."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.meant import target_named
from fairledger.catalog.routes import Route, places_of
from fairledger.catalog.setup_keys import releases_of
from fairledger.checks.claims import KICKSTART, WINDOWS
from fairledger.checks.medium import called, choice, image_of, known_medium, medium_of, named_at
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.image import IMAGE
from fairledger.intent.source import SOURCE
from fairledger.model.finding import Severity
from fairledger.model.holdings import ImageFacts, MediumFacts
from fairledger.model.showing import visible
from fairledger.model.suggest import nearest

_DESK = "--medium media/desk.toml"
_GATE = "--medium media/gate.toml"
_HEAD = "#version=RHEL9\n"


@rule(
    "medium-unknown",
    Severity.WARNING,
    "The medium that the file is for cannot be looked at: nothing is known of what it holds, and nothing is checked "
    "against it.",
    source="the medium itself",
    fires='[draft]\ntarget = "windows-11-24h2"\nmedium = "gone.iso"\n',
    silent='[draft]\ntarget = "windows-11-24h2"\n',
)
def medium_unknown(view: View) -> Iterator[Hit]:
    """Media that are not there, and parts of those that are of which nobody knows anything."""
    known = known_medium(view)
    if known is None:
        return
    if known.facts is None:
        told = f"nothing is checked against the medium {visible(str(view.facts.medium))}: {known.trouble}"
        hint = known.remedy or "name another, or a file of facts made of it"
        yield Hit(named_at(view), told, hint)
        return
    facts = known.facts
    for one in facts.problems:
        told = f"{called(facts)}: {visible(one)}"
        yield Hit(named_at(view), told, "what depends on it is not checked", Severity.ADVICE)
    for told, hint in _unknown_parts(view, facts):
        yield Hit(named_at(view), f"{told}: what the file uses of it is not checked", hint, Severity.ADVICE)


def _unknown_parts(view: View, facts: MediumFacts) -> Iterator[tuple[str, str]]:
    """What nobody knows of a medium that is there, and what would tell it."""
    image = image_of(view, facts)
    held = facts.held_by(image)
    if facts.family is None:
        yield f"nobody knows what {called(facts)} installs", "name the medium that is meant"
    if facts.systems is not None and image is None and facts.chosen(*choice(view)) != ():
        several = f"nobody knows which of the {len(facts.systems)} images of {called(facts)} is installed"
        yield several, "choose one: [image]"
    elif image is not None and held is None and not facts.problems:
        told = f"nobody looked into image {image.index} of {called(facts)}"
        yield told, f"make the facts again: fairledger medium MEDIUM --index {image.index} --facts FILE"
    elif held is not None:
        parts = [part for part in ("components", "features", "packages", "apps") if getattr(held, part) is None]
        if parts:
            told = f"nobody knows the {_and(parts)} of image {held.image} of {called(facts)}"
            yield told, "name a medium that tells them"
        if held.unclear:
            names = ", ".join(held.unclear)
            yield f"the names of {names} are abbreviated alike in the image", "nobody can tell them apart there"
    source = view.intent.get(SOURCE)
    if source is not None and source.kind == "disc":
        every = ("repositories", "packages", "groups", "environments")
        parts = [part for part in every if getattr(facts.tree, part) is None]
        if parts:
            yield f"nobody knows which {_and(parts)} {called(facts)} carries", "name the whole medium, or its facts"


def _and(parts: list[str]) -> str:
    *others, last = parts
    return f"{', '.join(others)} and {last}" if others else last


@rule(
    "medium-release",
    Severity.WARNING,
    "The medium installs another system than the one that the file was made and checked for.",
    source="the medium itself",
    given=_DESK,
    fires='[draft]\ntarget = "windows-server-2025"\n',
    silent='[draft]\ntarget = "windows-11-24h2"\n',
)
def medium_release(view: View) -> Iterator[Hit]:
    """Media of other families and releases."""
    facts, target = medium_of(view), view.target
    if facts is None or facts.family is None:
        return
    named = " or ".join(target_named(one).name for one in facts.targets) or facts.release or "another system"
    build = f", build {facts.build}" if facts.build else ""
    if facts.family != view.family.name:
        told = f"{called(facts)} installs {visible(named)}, which reads no file of this kind"
        yield Hit(named_at(view), told, "name the medium that is meant", Severity.ERROR)
    elif target is not None and target.id not in facts.targets:
        told = f"{called(facts)} installs {visible(named)}{build}, and the file is for {target.name}"
        hint = "name the medium that is meant, or carry the file to that release: fairledger carry"
        other = bool(facts.targets) and all(target_named(one).line != target.line for one in facts.targets)
        yield Hit(named_at(view), told, hint, Severity.ERROR if other else None)


@rule(
    "medium-architecture",
    Severity.ERROR,
    "The medium is for machines of another architecture: its installer passes over what the file says, or does not "
    "start.",
    source=f"{WINDOWS}, processorArchitecture",
    given=_DESK,
    fires='[draft]\ntarget = "windows-11-24h2"\narch = "arm64"\n',
    silent='[draft]\ntarget = "windows-11-24h2"\narch = "amd64"\n',
)
def medium_architecture(view: View) -> Iterator[Hit]:
    """Media for other architectures than those of the file."""
    facts = medium_of(view)
    if facts is None or facts.arch is None:
        return
    own = {root.block.variant for root in view.seats.roots} - {"", *view.limits.side_architectures}
    wanted = {view.facts.arch, *(view.facts.others or ())} if view.facts.arch is not None else own
    if wanted and facts.arch not in wanted:
        told = f"{called(facts)} is for {visible(facts.arch)}, and the file for {', '.join(sorted(map(str, wanted)))}"
        yield Hit(named_at(view), told, "name the medium that is meant, or another arch in [draft]")


@rule(
    "image-not-on-medium",
    Severity.ERROR,
    "The medium has no image of that name or number: setup finds nothing to install, and stops.",
    source=f"{WINDOWS}, InstallFrom/MetaData",
    given=_DESK,
    fires='[image]\nedition = "Education"\n',
    silent='[image]\nedition = "Pro"\n',
)
def image_not_on_medium(view: View) -> Iterator[Hit]:
    """Editions, names and numbers that no image of the medium has."""
    facts = medium_of(view)
    image = view.intent.get(IMAGE)
    if facts is None or facts.systems is None or image is None or image.file is not None:
        return
    edition, index = choice(view)
    there = ", ".join(f"{one.index} {visible(one.title)}" for one in _nearest_first(edition, facts.systems))
    if index is not None and not facts.chosen(None, index):
        told = f"{called(facts)} has no image {index}"
        yield Hit(view.intent.placed("image", "index"), told, f"there are: {there}")
    if edition is not None and not facts.chosen(edition, None):
        told = f"{called(facts)} has no edition or image called {visible(edition)}"
        yield Hit(view.intent.placed("image", "edition"), told, f"there are: {there}")
    elif edition is not None and index is not None and facts.chosen(None, index) and not facts.chosen(edition, index):
        (one, *_) = facts.chosen(None, index) or ()
        told = f"image {index} of {called(facts)} is {visible(one.title)}, not {visible(edition)}"
        yield Hit(view.intent.placed("image", "index"), told, "leave the number out")


def _nearest_first(edition: str | None, images: tuple[ImageFacts, ...]) -> list[ImageFacts]:
    """Images, those first whose names are most like what was asked for."""
    names = [one.title for one in images]
    close = nearest(edition, names, most=len(names), alike=0.3) if edition is not None else ()
    return sorted(images, key=lambda one: close.index(one.title) if one.title in close else len(close))


@rule(
    "language-not-on-medium",
    Severity.WARNING,
    "The image does not have the display language: setup takes another one, or asks.",
    source=f"{WINDOWS}, UILanguage",
    given=_DESK,
    fires='[image]\nedition = "Pro"\n[locale]\nlanguage = "pt-PT"\n',
    silent='[image]\nedition = "Pro"\n[locale]\nlanguage = "en-GB"\n',
)
def language_not_on_medium(view: View) -> Iterator[Hit]:
    """Display languages that the images do not name."""
    facts = medium_of(view)
    if facts is None:
        return
    one = image_of(view, facts)
    images = (one,) if one is not None else facts.systems or ()
    spoken = {language for image in images for language in image.languages}
    folded = {language.casefold() for language in spoken}
    for seat in view.having("display-language") if spoken else ():
        if seat.text and seat.text.casefold() not in folded:
            told = f"{called(facts)} speaks {', '.join(sorted(spoken))}, and not {visible(seat.text)}"
            yield at(seat, told, "take one of these, or add the language pack to the image")


@rule(
    "key-not-for-medium",
    Severity.ERROR,
    "The product key chooses an edition that the medium does not have: setup finds no image for it.",
    source="the vendor's list of setup keys for volume activation, and the medium's list of images",
    given=_DESK,
    fires='[answers.windowsPE.Microsoft-Windows-Setup.UserData.ProductKey]\nKey = "NPPR9-FWDCX-D2C8J-H872K-2YT43"\n',
    silent='[image]\nedition = "Pro"\n[licence]\naccept = true\nkey = "published"\n',
)
def key_not_for_medium(view: View) -> Iterator[Hit]:
    """Published keys of editions that are not on it; of other keys nobody knows the edition."""
    facts, target = medium_of(view), view.target
    if facts is None or facts.systems is None or target is None or target.id not in facts.targets:
        return
    there = {one.edition for one in facts.systems}
    if None in there:
        return
    for seat in view.having("edition-key"):
        edition = releases_of(seat.text).get(target.id) if seat.text else None
        if edition is not None and not any(_same(edition, str(one)) for one in there):
            told = f"the key is published for {edition}, which is not on {called(facts)}"
            yield at(seat, told, f"there are: {', '.join(sorted(map(str, there)))}")


def _same(edition: str, other: str) -> bool:
    """Whether an edition is meant by a key; servers have one key for both of their forms."""
    return edition == other.removesuffix(" (Core)")


@rule(
    "label-not-the-mediums",
    Severity.ERROR,
    "The installer looks for a volume with another label than the medium has; labels count to the letter, and it finds "
    "nothing.",
    source=f"{KICKSTART}, harddrive --partition, and the installer's boot options",
    given=_GATE,
    fires=_HEAD + "harddrive --partition=LABEL=lmr-gate-9 --dir=/\n",
    silent=_HEAD + "harddrive --partition=LABEL=LMR-GATE-9 --dir=/\n",
)
def label_not_the_mediums(view: View) -> Iterator[Hit]:
    """Labels of the drive that packages come from, and of what the medium's own menus start."""
    facts = medium_of(view)
    if facts is None or facts.label is None:
        return
    source = view.intent.get(SOURCE)
    wanted = source.partition if source is not None else None
    if isinstance(wanted, str) and wanted.startswith("LABEL="):
        told = wanted.removeprefix("LABEL=")
        if told != facts.label:
            alike = told.casefold() == facts.label.casefold()
            message = f"packages come from the volume {visible(told)}, and {called(facts)} is {visible(facts.label)}"
            hint = f"write LABEL={facts.label}" if alike else "write its label, if the packages are on it"
            yield Hit(view.intent.placed("source", "partition"), message, hint, None if alike else Severity.WARNING)
    for entry in facts.entries or ():
        for label in entry.labels:
            if label != facts.label:
                message = f"{called(facts)} is labelled {visible(facts.label)}, and its entry {visible(entry.title)} "
                message += f"looks for {visible(label)}"
                yield Hit(named_at(view), message, f"correct {visible(entry.file)}, or the label", Severity.WARNING)


@rule(
    "answers-on-medium",
    Severity.WARNING,
    "An answer file stands on the medium already, which the installer takes by itself: it may never read this one.",
    source=f"{WINDOWS}, how setup looks for answer files; {KICKSTART}, the volume OEMDRV",
    given="--medium media/taken.toml",
    fires='[image]\nedition = "Pro"\n',
    silent='[draft]\ntarget = "windows-11-24h2"\nroute = "generalise"\n',
)
def answers_on_medium(view: View) -> Iterator[Hit]:
    """Answer files on the medium, on routes on which it is there."""
    facts = medium_of(view)
    route = view.route
    if facts is None or (route is not None and (route.passes or route.typed)):
        return  # it is told which file it takes
    sooner = route is not None and _before_discs(view, route)
    for one in facts.answers or ():
        if one.first and sooner:
            told = f"{visible(one.path)} stands on {called(facts)} already"
            hint = "leave it out of a stick that is made of it; a stick beside it is looked at before"
            yield Hit(named_at(view), told, hint, Severity.ADVICE)
        elif one.first is not False:
            sure = "" if one.first else ", if the volume is labelled so"
            told = f"{visible(one.path)} stands on {called(facts)} already, and the installer takes it by itself{sure}"
            hint = "take it away, or write this one in its place"
            yield Hit(named_at(view), told, hint, None if one.first else Severity.ADVICE)


def _before_discs(view: View, route: Route) -> bool:
    """Whether the installer looks where a route leads before it looks at discs."""
    places = [one.routes for one in places_of(view.target)] if view.target is not None else []
    first = next((at for at, routes in enumerate(places) if route.name in routes), len(places))
    return first < next((at for at, routes in enumerate(places) if "disc" in routes), 0)
