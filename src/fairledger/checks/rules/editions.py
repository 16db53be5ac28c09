"""What an edition does not have: remote desktop, virtual machines, domains."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.checks.calls import calls_of, calls_to
from fairledger.checks.claims import WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.features import FEATURES
from fairledger.intent.image import IMAGE
from fairledger.intent.join import JOIN
from fairledger.model.finding import Severity
from fairledger.model.places import line_below

_SMALL = ("Home", "Core", "Starter", "Single Language")
_HOME = (
    '[image]\nedition = "{}"\n[join]\ndomain = "larkmoor.example"\naccount = "joiner"\npassword = {{ env = "PW" }}\n'
)
_OPENED = "[answers.specialize.Microsoft-Windows-TerminalServices-LocalSessionManager]\nfDenyTSConnections = false\n"
_GROUP = (
    "[[answers.specialize.Networking-MPSSVC-Svc.FirewallGroups.FirewallGroup]]\n"
    '"@keyValue" = "rdp"\nActive = true\nGroup = "@FirewallAPI.dll,-28752"\nProfile = "all"\n'
)


@rule(
    "edition-lacks",
    Severity.WARNING,
    "The edition is one for homes: it takes no sessions from elsewhere, joins no domain, and runs no virtual machines.",
    source="the vendor's comparison of editions",
    fires=_HOME.format("Home"),
    silent=_HOME.format("Pro"),
)
def edition_lacks(view: View) -> Iterator[Hit]:
    """What only larger editions have, in a file for a small one."""
    image = view.intent.get(IMAGE)
    named = image.edition if image is not None and isinstance(image.edition, str) else ""
    edition = view.target.edition_of(named) if view.target is not None and named else ""
    if not edition.startswith(_SMALL):
        return
    hint = "install another edition, or leave it out"
    join, features = view.intent.get(JOIN), view.intent.get(FEATURES)
    if join is not None and join.domain:
        yield Hit(view.intent.placed("join", "domain"), f"the edition {edition} joins no domain", hint)
    for seat in view.saying("lets-sessions-in"):
        yield at(seat, f"the edition {edition} takes no remote desktop sessions", hint)
    for place, name in enumerate(features.on if features is not None else ()):
        if isinstance(name, str) and name.casefold().startswith("microsoft-hyper-v"):
            spot = view.intent.placed("features", "on", place)
            yield Hit(spot, f"the edition {edition} has no virtual machines", hint)
    for here, _, call in calls_to(view, ("dism",)):
        if any(word.lower().startswith("/featurename:microsoft-hyper-v") for word in call.words):
            told = f"the edition {edition} has no virtual machines"
            yield Hit(line_below(here.place, call.row), told, hint)


@rule(
    "sessions-let-in-nowhere",
    Severity.WARNING,
    "Remote desktop sessions are accepted, and the firewall lets none of them in.",
    source=f"{WINDOWS}, fDenyTSConnections, FirewallGroups",
    fires=_OPENED,
    silent=_OPENED + _GROUP,
)
def sessions_let_in_nowhere(view: View) -> Iterator[Hit]:
    """Sessions that are accepted, without the firewall's group for them."""
    opened = list(view.saying("lets-sessions-in"))
    if not opened:
        return
    texts = [seat.text or "" for seat in view.having("firewall-group")]
    bodies = " ".join(" ".join((call.program, *call.words)).lower() for _, _, call in calls_of(view))
    through = any("-28752" in text or "remote desktop" in text.lower() for text in texts)
    through = through or "advfirewall" in bodies or "-netfirewall" in bodies or any(view.saying("unprotected"))
    if not through:
        hint = "switch its group on: @FirewallAPI.dll,-28752, or with a command"
        yield at(opened[0], "remote desktop is accepted, and the firewall stays closed for it", hint)
