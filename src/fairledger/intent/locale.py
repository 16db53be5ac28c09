"""The portable section ``locale``: languages, formats, keyboards, time zone, home region."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Locale(Part, frozen=True, kw_only=True):
    """What language a machine speaks. One language is enough; the rest follows it unless said."""

    language: Text | None = None
    """Display language, a tag such as ``en-GB``."""
    fallback: Text | None = None
    """Language for what the display language has no translation of."""
    formats: Text | None = None
    """Language whose dates, numbers and currency are used."""
    system: Text | None = None
    """Language for programs that do not know Unicode."""
    setup_language: Text | None = None
    """Language in which setup itself speaks."""
    keyboards: tuple[Text, ...] = ()
    """X names (``gb``, ``ch(fr)``), with another language than the display language's in front
    (``en-US:us``), or the installer's own spelling. The first one is the default."""
    time_zone: Text | None = None
    """IANA name such as ``Europe/Lisbon``."""
    languages: tuple[Text, ...] = ()
    """Further languages that the system supports."""
    encoding: Text | None = None
    """Of text; UTF-8 if nothing is said."""
    console_keyboard: Text | None = None
    """Key map of the text console, where it does not follow the first keyboard."""
    keyboard_switch: tuple[Text, ...] = ()
    """Keys that switch between keyboards, such as ``grp:alt_shift_toggle``."""
    utc_clock: bool | None = None
    """The hardware clock runs in UTC."""
    region: Text | None = None
    """Home region, two letters of ISO 3166."""


LOCALE: Section[Locale] = Section("locale", Locale)
