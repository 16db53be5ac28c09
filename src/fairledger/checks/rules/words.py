"""Languages, keyboards, time zones."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import cache

from fairledger.catalog.setting import Setting
from fairledger.catalog.targets import name_of, reached
from fairledger.catalog.values import (
    iana_zones,
    known_language,
    known_layout,
    language_of,
    meant_languages,
    values,
    windows_zones,
)
from fairledger.checks.calls import calls_to
from fairledger.checks.claims import PRACTICE, WINDOWS
from fairledger.checks.rule import Hit, at, rule
from fairledger.checks.view import View, judge
from fairledger.intent.locale import LOCALE
from fairledger.model.finding import Severity
from fairledger.model.kinds import KINDS
from fairledger.model.pattern import pattern
from fairledger.model.places import line_below
from fairledger.model.showing import quoted, visible
from fairledger.model.suggest import did_you_mean, nearest, slipped

_LINUX = "#version=RHEL9\n"
_LANGUAGES = ("language", "fallback", "formats", "system", "setup_language")
_PAIR = pattern(r"([0-9a-fA-F]{4}):([0-9a-fA-F]{8})")


def _meant_language(tag: str) -> str:
    """Which languages a tag that is none may mean."""
    meant = meant_languages(tag)
    return f"did you mean {' or '.join(meant)}?" if meant else did_you_mean(tag, values().languages)


_SERVICE = pattern(r"[0-9a-fA-F]{4}:(\{[0-9a-fA-F-]{36}\}){2}")


@rule(
    "fallback-same",
    Severity.ADVICE,
    "The fallback of the display language is the language itself, which says nothing.",
    source=f"{WINDOWS}, UILanguageFallback",
    fires='[locale]\nlanguage = "en-GB"\nfallback = "en-GB"\n',
    silent='[locale]\nlanguage = "pt-PT"\nfallback = "en-US"\n',
)
def fallback_same(view: View) -> Iterator[Hit]:
    """Fallback and language are one."""
    locale = view.intent.get(LOCALE)
    fallback, language = (locale.fallback, locale.language) if locale is not None else (None, None)
    if isinstance(fallback, str) and isinstance(language, str) and fallback.casefold() == language.casefold():
        spot = view.intent.placed("locale", "fallback")
        told = f"the fallback language is the display language itself ({visible(language)})"
        yield Hit(spot, told, "name another language, or leave it out")
        return
    for seat in view.having("fallback-language"):  # what another pass says is in no section
        beside = seat.parent.having("display-language") if seat.parent is not None else None
        if seat.text and beside is not None and beside.text and seat.text.casefold() == beside.text.casefold():
            told = f"the fallback language is the display language itself ({visible(seat.text)})"
            yield at(seat, told, "name another language, or leave it out")


@rule(
    "language-unknown",
    Severity.ERROR,
    "There is no such language in such a region.",
    source="BCP 47, and the languages that the target's vendor lists",
    fires='[locale]\nlanguage = "en-UK"\n',
    silent='[locale]\nlanguage = "en-GB"\n',
    by_itself=True,
)
def language_unknown(view: View) -> Iterator[Hit]:
    """Well-formed language tags that do not exist; others are the catalog's business."""
    locale = view.intent.get(LOCALE)
    told: set[str] = set()
    for field in _LANGUAGES:
        tag = getattr(locale, field, None)
        if not isinstance(tag, str) or tag in told or not KINDS["locale"].accepts(tag) or known_language(tag):
            continue
        told.add(tag)
        severity = None if "-" in tag else Severity.WARNING
        hint = _meant_language(tag)
        yield Hit(view.intent.placed("locale", field), f"there is no language {visible(tag)}", hint, severity)
    for seat, tag in view.judged(_no_language):  # what one pass says otherwise is in no section
        if tag not in told:
            told.add(tag)
            yield at(seat, f"there is no language {visible(tag)}", _meant_language(tag))


@judge
def _no_language(setting: Setting | None, text: str) -> str:
    if setting is not None and "languages" in setting.traits:
        tags = [one.strip().partition(".")[0].partition("@")[0].replace("_", "-") for one in text.split(",")]
        return next((tag for tag in tags if "-" in tag and not known_language(tag)), "")
    plain = setting is not None and setting.kind == "locale" and "-" in text and KINDS["locale"].accepts(text)
    return text if plain and not known_language(text) else ""


@rule(
    "name-slipped",
    Severity.WARNING,
    "The name is nearly a usual one: a group, service or account group of that name is hardly there.",
    source=PRACTICE,
    fires=_LINUX + "firewall --enabled --service=shh\n",
    silent=_LINUX + "firewall --enabled --service=ssh,station\n",
)
def name_slipped(view: View) -> Iterator[Hit]:
    """Names that differ from a usual one by a single slip of the finger."""
    made = {seat.text for seat in view.having("makes-group")}
    for seat, (word, meant) in view.judged(_slip):
        if word not in made:
            yield at(seat, f"{visible(word)} is not a usual name, and nearly {meant}", f"did you mean {meant}?")


@judge
def _slip(setting: Setting | None, text: str) -> tuple[str, str] | None:
    if setting is None or not setting.usual:
        return None
    words = [word.strip("\"' ").removesuffix(".service") for word in text.split(",")]
    return next(((word, meant) for word in words if (meant := slipped(word, setting.usual))), None)


@rule(
    "keyboard-unknown",
    Severity.WARNING,
    "The keyboard is not among those known; setup may refuse it.",
    source="the keyboards that the target's vendor lists",
    fires='[locale]\nlanguage = "en-GB"\nkeyboards = ["0809:0000f809"]\n',
    silent='[locale]\nlanguage = "en-GB"\nkeyboards = ["gb", "us"]\n',
    by_itself=True,
)
def keyboard_unknown(view: View) -> Iterator[Hit]:
    """Layout numbers, names and language tags that are not in the lists."""
    locale = view.intent.get(LOCALE)
    told: set[str] = set()
    language = locale.language if locale is not None else None
    for place, name in enumerate(locale.keyboards if locale else ()):
        if not isinstance(name, str):
            continue
        spot = view.intent.placed("locale", "keyboards", place)
        pair = _PAIR.fullmatch(name)
        if _SERVICE.fullmatch(name):
            continue  # a text service: anybody's program may bring one
        if pair:
            if not known_layout(pair[2]):
                own = pair[2][0] in "abcdABCD"
                hint = "a layout of your own must be in the image" if own else did_you_mean(pair[2], _layouts())
                yield Hit(
                    spot, f"there is no keyboard layout {pair[2]}", hint, Severity.ADVICE if own else Severity.ERROR
                )
            elif language_of(pair[1]) is None:
                yield Hit(spot, f"the language number {pair[1]} is not known", "is it the number you mean?")
        elif name == language:
            continue  # told of the language
        elif name.rpartition(":")[2].partition("(")[0] not in _bases() and not known_language(name) and "{" not in name:
            hint = did_you_mean(name, (*values().keyboards, *values().languages))
            plausible = re.fullmatch(r"[a-z]{2,6}(\([a-z0-9_-]+\))?", name)
            severity = Severity.WARNING if plausible and "did you mean" not in hint else Severity.ERROR
            hint = _meant(view, name) or hint
            told.add(name)
            yield Hit(spot, f"there is no keyboard {visible(name)}", hint or "is it the name you mean?", severity)
    for seat, name in view.judged(_no_input):
        if name in told:
            continue
        yield at(seat, f"{visible(name)} is no language with its keyboard", "write it as in en-GB, or 0809:00000809")
    for seat, name in view.judged(_no_key_map):
        yield at(seat, f"no key map of the console is called {visible(name)}", did_you_mean(name, _bases()))


def _meant(view: View, word: str) -> str:
    """What somebody may mean who does not know the names of keyboards, as it is written there."""
    from fairledger.catalog.lists import KEYBOARDS, by_meaning  # only where something is wrong

    numbered = bool(view.file) and view.limits.drive_letters
    rows = by_meaning(KEYBOARDS, word) if word.isalpha() else ()
    names = [one.windows if numbered else one.linux for one in rows]
    return f"did you mean {' or '.join(name for name in names if name)}?" if any(names) else ""


@judge
def _no_key_map(setting: Setting | None, text: str) -> str:
    if setting is None or "console-map" not in setting.traits:
        return ""
    base = re.split(r"[-_(.]", text.strip("\"' "))[0].rstrip("0123456789").lower()
    return text if base not in _bases() and base not in values().key_maps else ""


@judge
def _no_input(setting: Setting | None, text: str) -> str:
    if setting is None or "keyboards" not in setting.traits:
        return ""
    parts = [part.strip() for part in text.split(";")]
    return next((part for part in parts if part.isalpha() and not known_language(part)), "")


@cache
def _bases() -> set[str]:
    """X names without their variants."""
    return {name.partition("(")[0] for name in values().keyboards}


def _layouts() -> list[str]:
    return [*(row.layout for row in values().keyboards.values()), *values().layout_names]


@rule(
    "time-zone-unknown",
    Severity.ERROR,
    "The installer does not know the time zone and refuses it or asks.",
    source="the time zones that the target's vendor lists, and the IANA database",
    fires='[locale]\ntime_zone = "Europe/Lisboa"\n',
    silent='[locale]\ntime_zone = "Europe/Lisbon"\n',
    by_itself=True,
)
def time_zone_unknown(view: View) -> Iterator[Hit]:
    """Zones that are neither IANA names nor the target's own."""
    for seat in view.where(_is_zone):
        own = view.family.zone_name(seat.text or "")
        if seat.text in iana_zones() and own != seat.text:
            yield at(seat, f"this installer does not know {visible(seat.text)} by that name", f"write {own}")
    for here, _, call in calls_to(view, _ZONE_OPTIONS):
        for name in (name for option in _ZONE_OPTIONS[call.program] for name in call.named(option)):
            if name.removesuffix("_dstoff") not in windows_zones():
                near = did_you_mean(name, windows_zones())
                yield Hit(line_below(here.place, call.row), f"there is no time zone {visible(name)}", near)
    locale = view.intent.get(LOCALE)
    zone = locale.time_zone if locale else None
    if not isinstance(zone, str):
        return
    if view.limits.own_zones and view.target is not None:
        since = values().zones_since.get(view.family.zone_name(zone))
        if since is not None and not reached(view.target, since):
            came = (
                f"came with {' and '.join(name_of(one) for one in since)}" if since else "is newer than every release"
            )
            young = f"the time zone {visible(zone)} {came}: the medium of {view.target.name} may not know it"
            other = "use a medium that has been updated since, or an older zone of the same hours"
            yield Hit(view.intent.placed("locale", "time_zone"), young, other, Severity.WARNING)
    if zone in iana_zones() or (view.limits.own_zones and zone in windows_zones()):
        return
    city = [name for name in iana_zones() if zone.strip() and name.casefold().endswith("/" + zone.strip().casefold())]
    close = city[:1] or list(nearest(zone, (*iana_zones(), *windows_zones()), 1))
    told = close if view.subject.draft is not None else [view.family.zone_name(name) for name in close]
    hint = f"did you mean {' or '.join(told)}?" if told else "fairledger values time-zone CITY"
    yield Hit(view.intent.placed("locale", "time_zone"), f"there is no time zone {quoted(zone)}", hint)


def _is_zone(setting: Setting) -> object:
    return setting.kind == "time-zone"


@rule(
    "encoding-unknown",
    Severity.WARNING,
    "The system has no such encoding of characters: the language falls back to one without accents.",
    source="the locales of the GNU C library",
    fires="#version=RHEL9\nlang en_GB.UFT-8\n",
    silent="#version=RHEL9\nlang en_GB.UTF-8\n",
    by_itself=True,
)
def encoding_unknown(view: View) -> Iterator[Hit]:
    """Encodings that no locale has."""
    locale = view.intent.get(LOCALE)
    said = locale.encoding if locale is not None else None
    if isinstance(said, str) and not re.fullmatch(_ENCODINGS, said.replace("-", "").replace("_", ""), re.IGNORECASE):
        told = f"there is no encoding {visible(said)}"
        yield Hit(view.intent.placed("locale", "language"), told, did_you_mean(said, ("UTF-8",)) or "write UTF-8")


_ENCODINGS = (
    r"utf8|iso8859\d{1,2}|koi8[rtu]|cp125\d|gb(k|2312|18030)|big5(hkscs)?|euc(jp|kr|tw)|tis620|armscii8"
    r"|georgianps|rk1048"
)


_ZONE_OPTIONS = {"tzutil": ("/s",), "set-timezone": ("-id", "-name")}
"""The options of programs that set the time zone."""
