"""What a file uses, against what the image or the tree of packages on its medium holds."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fnmatch import fnmatchcase

from fairledger.catalog.passes import pass_names
from fairledger.checks.calls import calls_to
from fairledger.checks.claims import KICKSTART, WINDOWS_TOOLS
from fairledger.checks.medium import called, held_of, medium_of
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.features import FEATURES
from fairledger.intent.packages import PACKAGES
from fairledger.intent.source import SOURCE
from fairledger.model.finding import Severity
from fairledger.model.places import line_below
from fairledger.model.showing import visible
from fairledger.model.suggest import did_you_mean

_DESK = "--medium media/desk.toml"
_GATE = "--medium media/gate.toml"
_HEAD = "#version=RHEL9\n"
_PRO = '[image]\nedition = "Pro"\n'
_SERVICING = (
    _PRO + "[[answers.servicing.servicing.package]]\n"
    '"@action" = "configure"\n[answers.servicing.servicing.package.assemblyIdentity]\n"@name" = "{}"\n'
    '"@version" = "10.0.26100.1"\n"@processorArchitecture" = "amd64"\n"@publicKeyToken" = "31bf3856ad364e35"\n'
    '"@language" = ""\n'
)


@rule(
    "component-not-in-image",
    Severity.ERROR,
    "The image has no such component: setup cannot apply what is said of it, and stops in that pass.",
    source="the image's own store of components",
    given=_DESK,
    fires=_PRO
    + "[answers.specialize.Microsoft-Windows-ServerManager-SvrMgrNc]\nDoNotOpenServerManagerAtLogon = true\n",
    silent=_PRO + '[identity]\nname = "LMR-DESK-01"\n',
)
def component_not_in_image(view: View) -> Iterator[Hit]:
    """Components of passes that run in the installed system, and that its store does not hold."""
    known = held_of(view)
    if known is None or known[2].lacking is None:
        return
    facts, image, held = known
    lacking, first = {*(held.lacking or ())}, pass_names(view.family.name)[0]
    for root in view.seats.roots:
        # the first pass runs in the setup system, which has a store of its own
        if root.block.component in lacking and root.block.pass_ != first:
            told = f"{visible(image.title)} on {called(facts)} has no component {root.block.component}"
            yield at(root, told, "leave it out for this image")


@rule(
    "feature-not-in-image",
    Severity.WARNING,
    "The image offers no feature of that name: it is not switched on, and nobody is told.",
    source=f"{WINDOWS_TOOLS}, and the image's own package manifests",
    given=_DESK,
    fires=_PRO + '[features]\non = ["SmbDirect"]\n',
    silent=_PRO + '[features]\non = ["TelnetClient"]\n',
)
def feature_not_in_image(view: View) -> Iterator[Hit]:
    """Features that no package manifest of the image offers."""
    known = held_of(view)
    if known is None or known[2].features is None:
        return
    facts, image, held = known
    folded = {name.casefold() for name in held.features or ()}
    found = view.intent.get(FEATURES)
    for field in ("on", "off") if found is not None else ():
        for place, name in enumerate(getattr(found, field)):
            if isinstance(name, str) and name.casefold() not in folded:
                told = f"{visible(image.title)} on {called(facts)} offers no feature {visible(name)}"
                hint = did_you_mean(name, held.features or ()) or "leave it out for this image"
                yield Hit(view.intent.placed("features", field, place), told, hint)


@rule(
    "package-not-in-image",
    Severity.WARNING,
    "The image has no such package: what is to be done with it, or with the features in it, is not done.",
    source=f"{WINDOWS_TOOLS}, and the image's own package manifests",
    given=_DESK,
    fires=_SERVICING.format("Larkmoor-Gauges-Package"),
    silent=_SERVICING.format("Microsoft-Windows-Foundation-Package"),
)
def package_not_in_image(view: View) -> Iterator[Hit]:
    """Packages that are neither in the image nor brought."""
    known = held_of(view)
    if known is None or known[2].packages is None:
        return
    facts, image, held = known
    folded = {name.casefold() for name in held.packages or ()}
    brought = {id(seat.parent) for seat in (*view.having("package-source"), *view.saying("brings-package"))}
    for seat in view.having("package-name"):
        package = seat.parent.parent if seat.parent is not None else None
        if seat.text and id(package) not in brought and seat.text.casefold() not in folded:
            told = f"{visible(image.title)} on {called(facts)} has no package {visible(seat.text)}"
            yield at(seat, told, did_you_mean(seat.text, held.packages or ()) or "say where it comes from")


_REMOVING = ("remove-appxprovisionedpackage", "remove-appxpackage", "get-appxpackage", "get-appxprovisionedpackage")


@rule(
    "app-not-in-image",
    Severity.ADVICE,
    "A command speaks of an app that the image does not have: there is nothing to be done.",
    source="the image's own folder of apps",
    given=_DESK,
    fires=_PRO + '[[command]]\nwhen = "installed"\ninterpreter = "powershell"\n'
    'body = "Get-AppxPackage Larkmoor.Gauges | Remove-AppxPackage"\n',
    silent=_PRO + '[[command]]\nwhen = "installed"\ninterpreter = "powershell"\n'
    'body = "Get-AppxPackage *BingWeather* | Remove-AppxPackage"\n',
)
def app_not_in_image(view: View) -> Iterator[Hit]:
    """Names of apps, also with signs that stand for others, that fit none."""
    known = held_of(view)
    if known is None or known[2].apps is None:
        return
    facts, image, held = known
    apps = [name.casefold() for name in held.apps or ()]
    for here, _, call in calls_to(view, _REMOVING):
        named = [*call.named("-name"), *call.named("-package"), *call.named("-packagename")]
        named += call.words[:1] if call.words and not call.words[0].startswith("-") else ()
        for name in named:
            short = name.casefold().partition("_")[0]
            if not _plain(short) or any(fnmatchcase(app, short) for app in apps):
                continue
            told = f"{visible(image.title)} on {called(facts)} has no app {visible(name)}"
            yield Hit(line_below(here.place, call.row), told, did_you_mean(short, held.apps or ()) or "leave it out")


def _plain(name: str) -> bool:
    """Whether a word is a name, rather than something that the shell works out."""
    return bool(name) and not any(sign in name for sign in "$(){}[]|@;`")


@rule(
    "package-not-on-medium",
    Severity.ERROR,
    "The packages come from the medium, and it does not carry this one: the installer stops, or goes on without it.",
    source=f"{KICKSTART}, %packages",
    given=_GATE,
    fires=_HEAD + "cdrom\n%packages\nlarkmoor-gauges\n%end\n",
    silent=_HEAD + "cdrom\n%packages\n@core\nchrony\n%end\n",
)
def package_not_on_medium(view: View) -> Iterator[Hit]:
    """Packages, groups and environments that no repository on the medium offers, where there is no other."""
    facts, source, wanted = medium_of(view), view.intent.get(SOURCE), view.intent.get(PACKAGES)
    if facts is None or source is None or wanted is None or source.kind != "disc":
        return
    if any(not str(one.url or "").startswith("file:") for one in source.repository):
        return  # nobody knows what another source offers
    mild = Severity.WARNING if wanted.ignore_missing else None
    tree = facts.tree
    environment = (wanted.environment,) if wanted.environment is not None else ()
    rows: tuple[tuple[str, Iterable[object], tuple[str, ...] | None], ...] = (
        ("packages", wanted.packages, tree.packages),
        ("groups", wanted.groups, tree.groups),
        ("environment", environment, tree.environments),
    )
    for field, names, offered in rows:
        for place, name in enumerate(names) if offered is not None else ():
            if isinstance(name, str) and not (_offered_as_package if field == "packages" else _offered)(
                name, offered or ()
            ):
                path = ("packages", field) if field == "environment" else ("packages", field, place)
                told = f"{called(facts)} carries no {visible(name)} among its {field.removesuffix('s')}s"
                hint = did_you_mean(name, offered or ()) or "name a source that has it"
                yield Hit(view.intent.placed(*path), told, hint, mild)


def _offered(name: str, offered: Iterable[str]) -> bool:
    return any(one == name or fnmatchcase(one, name) for one in offered)


def _offered_as_package(name: str, offered: Iterable[str]) -> bool:
    """Whether it is there: by its name, with an architecture behind it, or by a pattern."""
    if name.startswith("/") or "(" in name:
        return True  # it is asked for by what it holds
    short, _, arch = name.rpartition(".")
    return _offered(name, offered) or (arch in _ARCHITECTURES and _offered(short, offered))


_ARCHITECTURES = ("x86_64", "aarch64", "ppc64le", "s390x", "i686", "noarch")


@rule(
    "repository-not-on-medium",
    Severity.ERROR,
    "A package source is said to be on the medium, which has none there: the installer stops.",
    source=f"{KICKSTART}, repo --baseurl",
    given=_GATE,
    fires=_HEAD + "cdrom\nrepo --name=crb --baseurl=file:///run/install/repo/CRB\n",
    silent=_HEAD + "cdrom\nrepo --name=AppStream --baseurl=file:///run/install/repo/AppStream\n",
)
def repository_not_on_medium(view: View) -> Iterator[Hit]:
    """Folders of the medium without a repository."""
    facts, source = medium_of(view), view.intent.get(SOURCE)
    there = facts.tree.repositories if facts is not None else None
    if facts is None or source is None or there is None:
        return
    for place, one in enumerate(source.repository):
        folder = _on_medium(one.url) if isinstance(one.url, str) else None
        if folder is not None and folder not in there:
            told = f"{called(facts)} has no repository in {visible(folder or 'its top folder')}"
            hint = f"there are: {', '.join(name or 'the top folder' for name in there)}" if there else "take it out"
            yield Hit(view.intent.placed("source", "repository", place, "url"), told, hint)


_MOUNTED = ("file:///run/install/repo", "file:///run/install/sources/mount-0000-cdrom")


def _on_medium(url: str) -> str | None:
    """The folder of the medium that an address means; None where it means another place."""
    for mounted in _MOUNTED:
        if url == mounted or url.startswith(mounted + "/"):
            return url.removeprefix(mounted).strip("/")
    return None
