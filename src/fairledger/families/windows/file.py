"""Files that are laid down: commands of the system before its first start, which look for the medium on every drive."""

from __future__ import annotations

from fairledger.families.interface import Reader, Words
from fairledger.families.windows.command_lines import AS_SYSTEM, add_command, commands_at, on_drives
from fairledger.intent.file import CARRIED, File
from fairledger.model.pattern import pattern
from fairledger.model.values import Text, concat

_LONGEST = 259
"""Characters of the line of a command. (The vendor's settings reference.)"""
_CARRIED = CARRIED.replace("/", "\\")
_OPTIONS = " /i /h /y"
_TO = pattern(
    r"(?:[A-Za-z]:|%SystemDrive%|%SystemRoot%|%ProgramData%|%ProgramFiles%)(?:\\[^\\/:*?\"<>|&^%!\x00-\x1f]+)+"
)
_LINE = pattern(
    r"cmd\.exe /c \"for %d in \([A-Z ]+\) do @if exist (?P<path>%d:[\w\\.-]+) "
    r"xcopy (?P=path) \"(?P<folder>[^\"]+)\\\\\""
)


def canonical(value: tuple[File, ...], words: Words) -> tuple[File, ...] | None:  # noqa: ARG001
    """What is laid down, each under the path that it has on the medium; no two of one name."""
    kept = [File(source=one.carried, to=one.to) for at, one in enumerate(value) if not _why_not(one, value[:at])]
    return tuple(kept) or None


def _why_not(one: File, before: tuple[File, ...]) -> str:
    """Why it cannot be laid down; empty where it can."""
    if one.to is None:
        return "it only goes along"
    if not _TO.fullmatch(one.to):
        return "it is no whole path of a file, such as C:\\Larkmoor\\wallpaper.png"
    if not one.name:
        return "its name must be of plain letters, digits, - _ and ."
    if any(other.name.casefold() == one.name.casefold() for other in before):
        return f"another file is called {one.name}, and both would lie in one folder of the medium"
    if len(str(_line(one))) > _LONGEST:
        return "the path is too long for a command of setup"
    return ""


def _line(one: File) -> Text:
    path = f"%d:\\{_CARRIED}\\{one.name}"
    folder = str(one.to).rpartition("\\")[0]
    before, after = on_drives(path, f"xcopy {path} ")
    # a lone backslash before the quote would take it for a part of the path
    return concat(before, f'"{folder}\\\\"{_OPTIONS}', after)


def translate(value: tuple[File, ...], words: Words) -> None:
    """A command for each."""
    for at, one in enumerate(value):
        path = ("file", at)
        words.leave_out(path, one, ("owner", "mode"), "its installer's commands set neither")
        words.told += [(*path, field) for field in ("source", "on_medium")]
        if one.to is not None and one.on_medium is not None:
            words.needless((*path, "on_medium"), "a place on the medium", "what is laid down has its own there")
        why = _why_not(one, value[:at])
        if one.to is None:
            continue
        if why:
            words.cannot((*path, "to"), f"the file for {one.to}", why, "choose another path")
            continue
        add_command(words, AS_SYSTEM, _line(one), f"Lays down {one.name}", words.origin(*path))


def recognise(reader: Reader) -> tuple[File, ...] | None:
    """The same commands."""
    found: list[File] = []
    for item, line in commands_at(reader, AS_SYSTEM, "cmd.exe"):
        match = _LINE.match(line)
        if match is None:
            continue
        name = match["path"].rpartition("\\")[2]
        one = File(source=f"{CARRIED}/{name}", to=f"{match['folder']}\\{name}")
        if not _why_not(one, tuple(found)) and str(_line(one)) == line:
            reader.take(item, "file", len(found), whole=True)
            found.append(one)
    return tuple(found) or None
