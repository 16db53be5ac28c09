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
