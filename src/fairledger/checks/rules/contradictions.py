"""Settings that cancel each other out, values that the release ignores, and what is out of range."""

from __future__ import annotations

from collections.abc import Iterator

from fairledger.catalog.spoken import spoken_by, spoken_in
from fairledger.catalog.values import known_language, nearest_language
from fairledger.checks.claims import PRACTICE, SELF, WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View
from fairledger.intent.access import ACCESS
from fairledger.intent.features import FEATURES
from fairledger.intent.firewall import FIREWALL
from fairledger.intent.identity import IDENTITY
from fairledger.intent.locale import LOCALE
from fairledger.intent.packages import PACKAGES
from fairledger.intent.services import SERVICES
from fairledger.model.finding import Severity
from fairledger.model.places import Placed
from fairledger.model.showing import visible

_LINUX = "#version=RHEL9\n"
_TWO_LANGUAGES = (
    "[answers.windowsPE.Microsoft-Windows-International-Core-WinPE]\nUILanguage = 'en-US'\n"
    "[answers.oobeSystem.Microsoft-Windows-International-Core]\nUILanguage = 'de-DE'\n"
)
_STATIC = "network --device=eno1 --bootproto=static --ip=192.0.2.30 --netmask=255.255.255.0"


def _both(one: tuple[object, ...], other: tuple[object, ...], place: Placed, words: str) -> Iterator[Hit]:
    others = set(other)
    for name in one:
        if name in others:
            yield Hit(place, f"{visible(str(name))} is {words}", "take one of the two out")


@rule(
    "service-both",
    Severity.ERROR,
    "A service is both switched on and switched off.",
    source=SELF,
    fires=_LINUX + "services --enabled=chronyd,sshd --disabled=chronyd\n",
    silent=_LINUX + "services --enabled=sshd --disabled=chronyd\n",
)
def service_both(view: View) -> Iterator[Hit]:
    """Services in both lists."""
    found = view.intent.get(SERVICES)
    if found is not None:
        place = view.intent.placed("services", "enabled", 0)
        yield from _both(found.enabled, found.disabled, place, "both enabled and disabled")


@rule(
    "package-both",
    Severity.WARNING,
    "A package is both wanted and left out.",
    source=SELF,
    fires=_LINUX + "%packages\nchrony\n-chrony\n%end\n",
    silent=_LINUX + "%packages\nchrony\n-cockpit\n%end\n",
)
def package_both(view: View) -> Iterator[Hit]:
    """Packages and groups in both lists."""
    found = view.intent.get(PACKAGES)
    if found is not None:
        place = view.intent.placed("packages", "packages", 0)
        yield from _both(found.packages, found.exclude, place, "both installed and left out")
        yield from _both(found.groups, found.exclude_groups, place, "both installed and left out")


@rule(
    "feature-both",
    Severity.ERROR,
    "A feature is both switched on and off, or added and removed.",
    source=SELF,
    fires='[features]\non = ["TelnetClient"]\noff = ["TelnetClient"]\n',
    silent='[features]\non = ["TelnetClient"]\n',
)
def feature_both(view: View) -> Iterator[Hit]:
    """Features in both lists."""
    found = view.intent.get(FEATURES)
    if found is not None:
        yield from _both(found.on, found.off, view.intent.placed("features", "on", 0), "both on and off")
        yield from _both(found.add, found.remove, view.intent.placed("features", "add", 0), "both added and removed")


@rule(
    "setup-language",
    Severity.WARNING,
    "Setup itself does not speak this language: it stops and asks, or goes on in the medium's own.",
    source=f"{WINDOWS}, SetupUILanguage, and the languages of the vendor's media",
    fires='[locale]\nlanguage = "en-GB"\nsetup_language = "de-CH"\n',
    silent='[locale]\nlanguage = "de-CH"\nsetup_language = "de-DE"\n',
)
def setup_language(view: View) -> Iterator[Hit]:
    """Languages of setup that are formats only."""
    locale = view.intent.get(LOCALE)
    spoken = locale.setup_language if locale else None
    if not view.limits.speaks_some or not isinstance(spoken, str) or not known_language(spoken):
        return
    own = spoken_by(view.target) if view.target is not None else ()
    media = own or spoken_in(view.family.name)
    if spoken not in media:
        which = view.target.name if view.target is not None and own else "any release"
        told = f"setup does not speak {spoken}: there is no medium of {which} in that language"
        first = spoken.partition("-")[0]
        near = [tag for tag in sorted(media) if tag.startswith(f"{first}-")]
        hint = f"set {view.called('locale.setup_language')} to {' or '.join(near[:3]) or 'en-US'}"
        yield Hit(view.intent.placed("locale", "setup_language"), told, hint)


@rule(
    "display-language",
    Severity.ADVICE,
    "No medium has the display language: the system speaks the medium's until a language pack is put in.",
    source=f"{WINDOWS}, UILanguage, and the languages of the vendor's media",
    fires='[locale]\nlanguage = "de-CH"\n',
    silent='[locale]\nlanguage = "de-DE"\nformats = "de-CH"\n',
)
def display_language(view: View) -> Iterator[Hit]:
    """Languages that have to come from somewhere else."""
    locale = view.intent.get(LOCALE)
    tag = locale.language if locale else None
    media = spoken_by(view.target) if view.target is not None else ()
    if media and view.target is not None and isinstance(tag, str) and known_language(tag) and tag not in media:
        told = f"no medium of {view.target.name} has the display language {tag}"
        near = nearest_language(tag, media)
        hint = f"put its language pack in, or take {near} with formats of {tag}"
        yield Hit(view.intent.placed("locale", "language"), told, hint)


@rule(
    "languages-differ",
    Severity.ADVICE,
    "Setup lays down one display language, and the first start asks for another: the image must hold both.",
    source=f"{WINDOWS}, UILanguage in the passes windowsPE and oobeSystem",
    fires=_TWO_LANGUAGES,
    silent=_TWO_LANGUAGES.replace("de-DE", "en-US"),
)
def languages_differ(view: View) -> Iterator[Hit]:
    """Display languages of two passes that are not the same."""
    told = [seat for seat in view.having("display-language") if seat.text]
    other = next((seat for seat in told if seat.text != told[0].text), None)
    if other is not None:
        hint = "say the same in both, unless the image holds both languages"
        yield at(other, f"the display language is {visible(told[0].text or '')} before, and {other.text} here", hint)


@rule(
    "name-both",
    Severity.ERROR,
    "The machine's name is both given and to be made up.",
    source=SELF,
    fires='[identity]\nname = "LMR-DESK-01"\npattern = "LMR-{serial}"\n',
    silent='[identity]\nname = "LMR-DESK-01"\n',
)
def name_both(view: View) -> Iterator[Hit]:
    """Names that are said twice."""
    identity = view.intent.get(IDENTITY)
    if identity is not None and identity.name is not None and identity.pattern is not None:
        told = "the machine has a name and a pattern for one"
        yield Hit(view.intent.placed("identity", "pattern"), told, "keep one of the two")


@rule(
    "name-usual",
    Severity.ADVICE,
    "Every machine has this name until it gets one of its own: on a network they cannot be told apart.",
    source=PRACTICE,
    fires=_LINUX + "network --bootproto=dhcp --hostname=localhost.localdomain\n",
    silent=_LINUX + "network --bootproto=dhcp --hostname=lmr-gate-03\n",
)
def name_usual(view: View) -> Iterator[Hit]:
    """Names that are none."""
    identity = view.intent.get(IDENTITY)
    name = identity.name if identity else None
    if isinstance(name, str) and name.partition(".")[0].casefold() in ("localhost", "computer", "desktop", "server"):
        told = f"{visible(name)} is no name of its own"
        yield Hit(view.intent.placed("identity", "name"), told, "give the machine a name")


@rule(
    "protection-off",
    Severity.ADVICE,
    "Access control or the firewall is switched off for good.",
    source=PRACTICE,
    fires=_LINUX + "selinux --disabled\n",
    silent=_LINUX + "selinux --enforcing\nfirewall --enabled --service=ssh\n",
)
def protection_off(view: View) -> Iterator[Hit]:
    """Protection that is off."""
    for seat in view.saying("unprotected"):
        yield at(seat, f"{seat.name} = {seat.text} switches protection off", "leave it as the system sets it")
    access, firewall = view.intent.get(ACCESS), view.intent.get(FIREWALL)
    if access is not None and access.mode == "off":
        told = "access control is switched off"
        yield Hit(view.intent.placed("access", "mode"), told, "use permissive to find out what it would forbid")
    if firewall is not None and firewall.enabled is False:
        yield Hit(view.intent.placed("firewall", "enabled"), "the firewall is off", "let in what is needed instead")
    elif firewall is not None and firewall.enabled is None and firewall.services:
        return
