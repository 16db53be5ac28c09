"""The image in the words of Windows setup."""

from __future__ import annotations

from fairledger.families.fields import number_of, text_of
from fairledger.families.interface import Reader, Words
from fairledger.families.windows.fields import truth_of
from fairledger.families.windows.names import SETUP
from fairledger.intent.image import Image
from fairledger.model.finding import Severity
from fairledger.model.suggest import did_you_mean
from fairledger.model.target import Target
from fairledger.model.values import Text

_OS = "ImageInstall/OSImage"
_LIST = f"{_OS}/InstallFrom/MetaData"
_NAME, _INDEX = "/IMAGE/NAME", "/IMAGE/INDEX"


def canonical(value: Image, words: Words) -> Image | None:
    """An edition by its short name where the target has it."""
    compact = value.compact if _compresses(words) else None
    made = Image(edition=_short(value.edition, words.target), index=value.index, file=value.file, compact=compact)
    return made if made != Image() else None


def translate(value: Image, words: Words) -> None:
    """The image is chosen by its name, its index, or both."""
    if value.edition is not None:
        name = _whole(value.edition, words.target)
        if isinstance(name, str) and not name.startswith(words.target.image_prefix):
            editions = words.target.editions
            hint = did_you_mean(name, editions) or "write an edition, or an image's whole name"
            words.field_error(("image", "edition"), f"{words.target.name} has no edition {name!r}", hint)
        _put(words, "edition", _NAME, name)
    if value.index is not None:
        _put(words, "index", _INDEX, str(value.index) if isinstance(value.index, int) else value.index)
    if value.file is not None:
        origin = words.origin("image", "file")
        words.out.block("windowsPE", SETUP, origin).put(f"{_OS}/InstallFrom/Path", value.file, origin)
    if value.compact is not None and _compresses(words):
        origin = words.origin("image", "compact")
        words.out.block("windowsPE", SETUP, origin).put(f"{_OS}/Compact", str(value.compact).lower(), origin)
    elif value.compact is not None:
        words.cannot(("image", "compact"), "image.compact", "setup cannot do it", "leave it out", Severity.ADVICE)


def recognise(reader: Reader) -> Image | None:
    """Name and index, each once."""
    fields: dict[str, object] = {}
    for item in reader.find("windowsPE", SETUP, _LIST):
        key, value = item.child("Key"), item.child("Value")
        named = (key.text or "").strip().upper() if key else ""
        if named == _NAME and "edition" not in fields and text_of(value):
            fields["edition"] = _short(text_of(value), reader.target)
            reader.take(value, "image", "edition")
            reader.take(item, whole=True)
        elif named == _INDEX and "index" not in fields and number_of(value) is not None:
            fields["index"] = number_of(value)
            reader.take(value, "image", "index")
            reader.take(item, whole=True)
    path = reader.first("windowsPE", SETUP, f"{_OS}/InstallFrom/Path")
    if text_of(path):
        fields["file"] = text_of(path)
        reader.take(path, "image", "file")
    compact = reader.first("windowsPE", SETUP, f"{_OS}/Compact")
    if truth_of(compact) is not None:
        fields["compact"] = truth_of(compact)
        reader.take(compact, "image", "compact")
    return Image(**fields) if fields else None  # type: ignore[arg-type]


def chosen(reader: Reader) -> Text | None:
    """The name of the image that a file chooses."""
    for item in reader.seats.find("windowsPE", SETUP, _LIST):  # also where it has been taken
        key = item.child("Key")
        if key is not None and (key.text or "").strip().upper() == _NAME:
            return _short(text_of(item.child("Value")), reader.target)
    return None


def _compresses(words: Words) -> bool:
    return words.catalog.setting(SETUP, f"{_OS}/Compact") is not None


def _put(words: Words, field: str, key: str, value: Text) -> None:
    origin = words.origin("image", field)
    item = words.out.block("windowsPE", SETUP, origin).add(_LIST, origin)
    item.put("Key", key, origin)
    item.put("Value", value, origin)


def _whole(edition: Text, target: Target) -> Text:
    return target.images.get(edition, edition) if isinstance(edition, str) else edition


def _short(name: Text | None, target: Target | None) -> Text | None:
    if target is None or not isinstance(name, str):
        return name
    return next((edition for edition, image in target.images.items() if image == name), name)
