"""Boot entries: what the menus of boot loaders start, with which arguments."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec import Struct

from fairledger.model.pattern import pattern

_MENU_ENTRY = pattern(r"""^\s*menuentry\s+(?:'([^']*)'|"([^"]*)"|(\S+))""")
_KERNEL = ("linux", "linuxefi", "linux16")
_MOST = 50
_ANSWERS = ("inst.ks", "ks", "inst.ks.all")
"""Arguments that name an answer file. (The installer's own boot options.)"""
_ROOTS = ("inst.stage2", "stage2", "inst.repo", "repo", "root")
"""Arguments that name the volume from which the installer starts."""


class BootEntry(Struct, frozen=True, kw_only=True):
    """One entry of a menu."""

    file: str
    title: str
    arguments: str

    @property
    def answers(self) -> str | None:
        """The answer file that it names, if it names one."""
        pairs = (word.partition("=") for word in self.arguments.split())
        return next((value for name, equals, value in pairs if equals and name in _ANSWERS), None)

    @property
    def labels(self) -> tuple[str, ...]:
        """The labels of the volumes from which it wants to start; loaders write blanks in them as ``\\x20``."""
        pairs = (word.partition("=") for word in self.arguments.split())
        places = [value.partition("LABEL=")[2].partition(":")[0] for name, _, value in pairs if name in _ROOTS]
        return tuple(one.replace("\\x20", " ") for one in places if one)


def entries_in(name: str, data: bytes) -> tuple[BootEntry, ...]:
    """The entries of a menu: of a boot loader's configuration file, by the file's name."""
    text = data.decode("utf-8", "replace")
    low = name.lower()
    if low.endswith("grub.cfg"):
        found = _grub(name, text)
    elif low.endswith("boot.cfg"):
        found = _loader(name, text)
    elif low.endswith("linux.cfg"):
        found = _syslinux(name, text)
    else:
        found = iter(())
    return tuple(one for one, _ in zip(found, range(_MOST), strict=False))


def _grub(name: str, text: str) -> Iterator[BootEntry]:
    title = None
    for line in text.splitlines():
        entry, words = _MENU_ENTRY.match(line), line.split(None, 2)
        if entry is not None:
            title = next((one for one in entry.groups() if one is not None), "")
        elif title is not None and words and words[0] in _KERNEL:
            yield BootEntry(file=name, title=title, arguments=words[2].strip() if len(words) > 2 else "")
            title = None


def _syslinux(name: str, text: str) -> Iterator[BootEntry]:
    title = shown = None
    for line in text.splitlines():
        word, _, rest = line.strip().partition(" ")
        if word.lower() == "label":
            title, shown = rest.strip(), None
        elif word.lower() == "menu" and rest.strip().lower().startswith("label "):
            shown = rest.strip()[6:].replace("^", "").strip()
        elif word.lower() == "append" and title is not None:
            yield BootEntry(file=name, title=shown or title, arguments=rest.strip())
            title = None


def _loader(name: str, text: str) -> Iterator[BootEntry]:
    """The hypervisor's loader: one entry, ``name=value`` by lines."""
    said = settings_in(text)
    if "kernelopt" in said or "kernel" in said:
        yield BootEntry(file=name, title=said.get("title", ""), arguments=said.get("kernelopt", ""))


def settings_in(text: str) -> dict[str, str]:
    """What stands as ``name=value`` in lines; the first of each name."""
    out: dict[str, str] = {}
    for line in text.splitlines():
        key, equals, value = line.partition("=")
        if equals:
            out.setdefault(key.strip().lower(), value.strip())
    return out


_STARTS_INSTALLER = ("inst.stage2", "stage2", "inst.repo", "repo", "inst.ks", "ks")
_OTHERWISE = ("inst.rescue", "rescue")


def wants_argument(entry: BootEntry) -> bool:
    """Whether an entry starts an installer, so that it can be told of an answer file."""
    words = entry.arguments.split()
    names = {word.partition("=")[0] for word in words}
    loader = entry.file.lower().endswith("boot.cfg")
    return (loader or not names.isdisjoint(_STARTS_INSTALLER)) and names.isdisjoint(_OTHERWISE)


def given_argument(name: str, data: bytes, argument: str) -> bytes:
    """A menu whose entries that start an installer have an argument; one of the same name is replaced.

    Everything else stays as it is, to the byte.
    """
    low = name.lower()
    lines = data.decode("utf-8", "surrogateescape").splitlines(keepends=True)
    out = []
    for line in lines:
        body = line.rstrip("\r\n")
        words = body.split()
        first = words[0].lower() if words else ""
        if low.endswith("boot.cfg"):
            starts = body.partition("=")[0].strip().lower() == "kernelopt"
        elif low.endswith("grub.cfg"):
            starts = first in _KERNEL and _installs(words[2:])
        else:
            starts = first == "append" and _installs(words[1:])
        out.append(_with(body, argument) + line[len(body) :] if starts else line)
    return "".join(out).encode("utf-8", "surrogateescape")


def _installs(words: list[str]) -> bool:
    names = {word.partition("=")[0] for word in words}
    return not names.isdisjoint(_STARTS_INSTALLER) and names.isdisjoint(_OTHERWISE)


def _with(line: str, argument: str) -> str:
    """A line with the argument in the place of the first of the same name, without others; else at its end."""
    name, loader = argument.partition("=")[0], "kernelopt="
    lead = loader if line.startswith(loader) else ""
    parts = pattern(r"(\s+)").split(line.removeprefix(lead))
    places = [at for at, part in enumerate(parts) if part.partition("=")[0] == name and "=" in part]
    for at in reversed(places[1:]):
        del parts[at - 1 : at + 1]  # with the blanks before it
    if places:
        parts[places[0]] = argument
        return lead + "".join(parts)
    gap = "" if line.endswith(("=", " ")) else " "
    return f"{line}{gap}{argument}"
