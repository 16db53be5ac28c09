"""Optional features and capabilities: their names, the releases that have them, and where they come from."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.offers import named, offers
from fairledger.catalog.passes import pass_names
from fairledger.checks.calls import calls_to
from fairledger.checks.claims import WINDOWS_TOOLS
from fairledger.checks.rule import Hit, rule
from fairledger.checks.view import View
from fairledger.intent.features import FEATURES
from fairledger.model.finding import Severity
from fairledger.model.places import Placed, line_below
from fairledger.model.showing import visible
from fairledger.model.suggest import slipped

_KINDS = {"on": "feature", "off": "feature", "add": "capability", "remove": "capability"}


def _names(view: View) -> Iterator[tuple[str, str, Placed]]:
    found = view.intent.get(FEATURES)
    for field in _KINDS if found is not None else ():
        for at, name in enumerate(getattr(found, field)):
            if isinstance(name, str):
                yield field, name, view.intent.placed("features", field, at)
    for here, _, call in calls_to(view, _OPTIONS):
        for field, option in _OPTIONS[call.program]:
            for name in call.named(option):
                yield field, name, line_below(here.place, call.row)


_OPTIONS = {
    "dism": (("on", "/featurename"), ("add", "/capabilityname")),
    **dict.fromkeys(("enable-windowsoptionalfeature", "disable-windowsoptionalfeature"), (("on", "-featurename"),)),
    **dict.fromkeys(("add-windowscapability", "remove-windowscapability"), (("add", "-name"),)),
}
"""Programs that name features or capabilities, and behind which word."""


@rule(
    "feature-name",
    Severity.WARNING,
    "The servicing tool knows no feature or capability of that name, or the release has none: nothing happens.",
    source=f"{WINDOWS_TOOLS}, names of features and capabilities",
    fires='[features]\non = ["Web-Server"]\n',
    silent='[features]\non = ["IIS-WebServerRole"]\nadd = ["OpenSSH.Server~~~~0.0.1.0"]\n',
)
def feature_name(view: View) -> Iterator[Hit]:
    """Names of another tool, names that were slipped on, names without their version, and those of other releases."""
    roles = {name.casefold(): meant for name, meant in offers().roles.items()}
    for field, name, spot in _names(view):
        kind = _KINDS[field]
        known = named(kind).get(name.casefold())
        if kind == "feature" and known is None and name.casefold() in roles:
            meant = roles[name.casefold()]
            told = f"{visible(name)} is a name of the server manager; the servicing tool knows none such"
            yield Hit(spot, told, f"write {meant}" if meant else "add it with a command of PowerShell", Severity.ERROR)
        elif kind == "capability" and known is None and "~" not in name:
            whole = [one.value for one in offers().lists[kind] if one.value.partition("~")[0] == name]
            told = f"the capability {visible(name)} is named without its version"
            yield Hit(spot, told, f"write {whole[0]}" if whole else "write it as in OpenSSH.Server~~~~0.0.1.0")
        elif known is None:
            meant = slipped(name, tuple(one.value for one in offers().lists[kind])) or ""
            if meant:
                yield Hit(spot, f"{visible(name)} is nearly {meant}", f"did you mean {meant}?")
        elif view.target is not None and not known.there(view.target):
            yield Hit(spot, f"{view.target.name} has no {kind} {known.value}", "leave it out for this target")


@rule(
    "feature-source",
    Severity.WARNING,
    "The image does not hold the feature: without a network it stays off, without a word.",
    source=f"{WINDOWS_TOOLS}, features whose files are not in the image",
    fires='[features]\non = ["NetFx3"]\n',
    silent='[features]\non = ["NetFx3"]\nsource = "medium"\n',
)
def feature_source(view: View) -> Iterator[Hit]:
    """Features that have to come from somewhere, where nothing says from where."""
    found = view.intent.get(FEATURES)
    route = view.route
    absent = route is not None and bool(route.passes) and pass_names(view.family.name)[0] not in route.passes
    if found is not None and found.source == "medium" and absent and route is not None:
        told = f"no medium is there on the route {route.name}: what it should bring stays off"
        yield Hit(view.intent.placed("features", "source"), told, "write a folder that the machine has")
    if found is None or found.source is not None or view.facts.network:
        return
    for field, name, spot in _names(view):
        known = named("feature").get(name.casefold()) if field == "on" else None
        if known is not None and view.target is not None and known.lacking(view.target):
            told = f"{known.value} is not in the image: it is fetched from the vendor's servers"
            yield Hit(spot, told, 'write source = "medium" in [features], which takes it from the medium')
