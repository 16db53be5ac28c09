"""Languages, formats, keyboards, time zone and home region in the words of Windows setup."""

from __future__ import annotations

import re

from fairledger.catalog.seats import Seat
from fairledger.catalog.spoken import spoken_by
from fairledger.catalog.targets import known_target
from fairledger.catalog.values import (
    Keyboard,
    find_language,
    iana_zone,
    keyboard_of,
    known_language,
    language_number,
    language_of,
    nearest_language,
    region_of,
    values,
    windows_zone,
    windows_zones,
)
from fairledger.families.interface import Reader, Words
from fairledger.families.keyboards import keyboards_of
from fairledger.families.windows.command_lines import (
    AS_SYSTEM,
    FIRST_SIGN_IN,
    REGISTRY,
    add_command,
    commands_at,
    registry_form,
)
from fairledger.families.windows.names import INTERNATIONAL, INTERNATIONAL_PE, SHELL
from fairledger.intent.locale import Locale
from fairledger.model.pattern import pattern
from fairledger.model.target import Target
from fairledger.model.values import SecretRef, Template, Text, concat, form, formed, join, split, takes, unformed

_PAIR = pattern(r"([0-9a-fA-F]{4}):([0-9a-fA-F]{8}|(?:\{[0-9a-fA-F-]{36}\}){2})")
_REGION = (
    r'reg add "HKCU\Control Panel\International\Geo" /v Nation /t REG_SZ /d {} /f',
    'powershell.exe -NoProfile -Command "Set-WinHomeLocation -GeoId {}"',
)
"""Of the releases before and after that command came."""
_UTC = r"reg add HKLM\SYSTEM\CurrentControlSet\Control\TimeZoneInformation /v RealTimeIsUniversal /t REG_DWORD /d 1 /f"
_FIELDS = (
    ("keyboards", "InputLocale"),
    ("system", "SystemLocale"),
    ("language", "UILanguage"),
    ("fallback", "UILanguageFallback"),
    ("formats", "UserLocale"),
)


def canonical(value: Locale, words: Words) -> Locale | None:
    """One language spread over all fields, keyboards and zone in the installer's spelling."""
    language = value.language
    keyboards = tuple(_from_windows(one, language) for one in _typed_with(value, words))
    zone = value.time_zone
    made = Locale(
        language=language,
        fallback=value.fallback,
        formats=value.formats or language,
        system=value.system or language,
        setup_language=value.setup_language or _spoken(language, words.target),
        keyboards=split(join(keyboards, ";"), ";"),
        time_zone=_iana(_windows(zone)) if zone is not None else None,
        utc_clock=value.utc_clock or None,
        region=value.region if isinstance(value.region, str) and value.region in values().regions else None,
    )
    return made if made != Locale() else None


def translate(value: Locale, words: Words) -> None:
    """Both international components get the same languages, the shell gets the time zone."""
    language = value.language
    keyboards = _typed_with(value, words)
    told: dict[str, Text | None] = {
        "keyboards": join(keyboards, ";") or None,
        "system": value.system or language,
        "language": language,
        "fallback": value.fallback,
        "formats": value.formats or language,
    }
    setup = value.setup_language or _spoken(language, words.target)
    if setup is not None:
        origin = words.origin("locale", "setup_language" if value.setup_language else "language")
        words.out.block("windowsPE", INTERNATIONAL_PE, origin).put("SetupUILanguage/UILanguage", setup, origin)
    for pass_, component in (("windowsPE", INTERNATIONAL_PE), ("oobeSystem", INTERNATIONAL)):
        for field, setting in _FIELDS:
            text = told[field]
            if text is not None:
                origin = words.origin("locale", field if getattr(value, field) else "language")
                words.out.block(pass_, component, origin).put(setting, text, origin)
    if value.time_zone is not None:
        origin = words.origin("locale", "time_zone")
        words.out.block("specialize", SHELL, origin).put("TimeZone", _windows(value.time_zone), origin)
    why = "setup has no setting for it"
    words.leave_out(("locale",), value, ("languages", "console_keyboard"), why)
    if value.encoding == "UTF-8":
        words.told.append(("locale", "encoding"))  # every text of the system is of all alphabets
    else:
        words.leave_out(("locale",), value, ("encoding",), why)
    if value.utc_clock:
        add_command(words, AS_SYSTEM, _UTC, "Hardware clock in universal time", words.origin("locale", "utc_clock"))
    if value.region is not None:
        _translate_region(value.region, words)


def recognise(reader: Reader) -> Locale | None:
    """What the installed system gets; setup's own answers count where they agree or stand alone."""
    fields: dict[str, Text | tuple[Text, ...]] = {}
    for field, setting in _FIELDS:
        seats = [
            *_texts(reader, "oobeSystem", INTERNATIONAL, setting),
            *_texts(reader, "specialize", INTERNATIONAL, setting),
            *_texts(reader, "windowsPE", INTERNATIONAL_PE, setting),
        ]
        if not seats:
            continue
        value = _text(seats[0])
        if field == "keyboards" and not all(takes(one, _KEYBOARD) for one in split(value, ";")):
            continue  # an answer's own placeholder, which is filled in setup's words
        fields[field] = value
        for seat in seats:
            if _text(seat) == value:
                reader.take(seat, "locale", field)
    setup = _texts(reader, "windowsPE", INTERNATIONAL_PE, "SetupUILanguage/UILanguage")
    if setup:
        fields["setup_language"] = _text(setup[0])
        reader.take(setup[0], "locale", "setup_language")
    language = fields.get("language")
    typed = fields.get("keyboards")
    if isinstance(typed, str | Template):
        known = None if isinstance(language, tuple) else language
        fields["keyboards"] = tuple(_from_windows(one, known) for one in split(typed, ";"))
    _recognise_zone(reader, fields)
    clock: bool | None = None
    for item, line in commands_at(reader, AS_SYSTEM, REGISTRY):
        if registry_form(line) == registry_form(_UTC):
            clock = True
            reader.take(item, "locale", "utc_clock", whole=True)
    form = _region(reader.target)
    for item, line in commands_at(reader, FIRST_SIGN_IN, form.partition(" ")[0]):
        match = re.fullmatch(re.escape(form).replace(r"\{\}", r"(\d{1,9})"), line)
        region = region_of(int(match[1])) if match else None
        if region is not None and "region" not in fields:
            fields["region"] = region
            reader.take(item, "locale", "region", whole=True)
    made = Locale(**fields, utc_clock=clock)  # type: ignore[arg-type]
    return made if made != Locale() else None


def _recognise_zone(reader: Reader, fields: dict[str, Text | tuple[Text, ...]]) -> None:
    for pass_ in ("specialize", "oobeSystem"):
        for seat in _texts(reader, pass_, SHELL, "TimeZone"):
            zone = _text(seat)
            base = zone.removesuffix("_dstoff") if isinstance(zone, str) else zone
            if base == zone and takes(zone, _ZONE) and fields.setdefault("time_zone", _iana(zone)) == _iana(zone):
                reader.take(seat, "locale", "time_zone")


def _translate_region(region: Text, words: Words) -> None:
    number = values().regions.get(region) if isinstance(region, str) else None
    if number is None:
        why = "its number is not known" if isinstance(region, str) else "setup needs a number, known beforehand"
        words.cannot(
            ("locale", "region"),
            f"the home region {region}",
            why,
            "leave it out; formats follow the language",
        )
        return
    line = _region(words.target).format(number)
    add_command(words, FIRST_SIGN_IN, line, f"Home region {region}", words.origin("locale", "region"))


def _typed_with(value: Locale, words: Words) -> tuple[Text, ...]:
    """The keyboards as setup writes them; without any, the tag of the language stands for its usual input."""
    language = value.language
    named = keyboards_of(value)
    if not named and isinstance(language, str) and known_language(language):
        return (language,)
    return tuple(_to_windows(one, language, words.target.build) for one in named)


def _spoken(language: Text | None, target: Target) -> Text | None:
    """The language of setup that comes nearest to one: no medium speaks all of them."""
    return formed(language, f"{_SETUP} {target.id}") if language is not None else None


_SETUP = "setup-language"


@form(_SETUP)
def _spoken_by(tag: str, target: str) -> str:
    row = known_target(target)
    return nearest_language(tag, spoken_by(row)) if row is not None and known_language(tag) else tag


def _region(target: Target | None) -> str:
    """The command that sets a home region, with a gap for its number."""
    old = target is not None and target.build.isdecimal() and int(target.build) < 9200
    return _REGION[0 if old else 1]


def _to_windows(name: Text, language: Text | None, build: str) -> Text:
    """A keyboard as setup writes it; one without a language of its own is typed in the one that is displayed."""
    tag, _, layout = name.rpartition(":") if isinstance(name, str) else ("", "", "")
    row = values().keyboards.get(layout)
    if row is not None and row.since and build.isdecimal() and int(build) < int(row.since):
        said = tag or (language if isinstance(language, str) else row.language)
        spoken = _typing(row, said)
        number = language_number(spoken)
        return f"{number}:{row.earlier}" if row.earlier and number else spoken
    if isinstance(language, Template) and len(split(name, ":")) == 1:
        return formed(concat(language, ":", name), _KEYBOARD)
    return formed(name, f"{_KEYBOARD} {language}" if isinstance(language, str) else _KEYBOARD)


_KEYBOARD = "windows-keyboard"


@form(_KEYBOARD)
def _typed(name: str, language: str = "") -> str:
    pair = _PAIR.fullmatch(":".join(name.split(":")[-2:]))
    if pair:
        return pair[0]
    *tags, layout = name.split(":")
    keyboard = values().keyboards.get(layout)
    if keyboard is None:
        return name if layout or not tags else tags[-1]
    tag = find_language(tags[-1] if tags else language) if tags or language else None
    if tags and tag is None:
        return name
    spoken = values().languages[_typing(keyboard, tag or keyboard.language)]
    usual = keyboard.service or keyboard.layout
    own = spoken.layout if spoken.keyboard == layout and spoken.layout else usual
    return f"{spoken.number}:{own}"


def _typing(keyboard: Keyboard, tag: str) -> str:
    """The language in which a keyboard types: a text service types its own, in whatever region."""
    own = keyboard.language.partition("-")[0]
    return keyboard.language if keyboard.service and tag.partition("-")[0] != own else tag


def _from_windows(typed: Text, language: Text | None) -> Text:
    if isinstance(typed, Template):
        whole = unformed(typed, _KEYBOARD)
        first, *rest = split(whole, ":")
        return rest[-1] if rest and first == language else whole
    match = _PAIR.fullmatch(typed.strip())
    tag = language_of(match[1]) if match else None
    name = keyboard_of(match[2]) if match else None
    if tag is None or name is None:
        return typed.strip()
    known = find_language(language) if isinstance(language, str) else None
    row = values().keyboards[name]
    usual = _typing(row, known) if known else row.language if not isinstance(language, Template) else None
    said = name if tag == usual else f"{tag}:{name}"
    return said if _typed(f"{tag}:{name}") == typed.strip() else typed.strip()  # another layout of the same people


def _windows(zone: Text) -> Text:
    return formed(zone, _ZONE)


_ZONE = "windows-zone"


@form(_ZONE)
def _plain_zone(zone: str) -> str:
    return windows_zone(zone) or zone


def _iana(zone: Text) -> Text:
    if isinstance(zone, Template) or zone not in windows_zones():
        return unformed(zone, _ZONE)
    return iana_zone(zone) or zone


def _texts(reader: Reader, pass_: str, component: str, path: str) -> list[Seat]:
    found = reader.find(pass_, component, path)
    return [seat for seat in found if seat.value and not isinstance(seat.value, SecretRef)]


def _text(seat: Seat) -> Text:
    value = seat.value
    assert isinstance(value, str | Template)
    return value.strip() if isinstance(value, str) else value
