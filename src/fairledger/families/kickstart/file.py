"""Files that are laid down: a script that looks for the medium, or asks the server that the answer file came from."""

from __future__ import annotations

import shlex
from collections.abc import Iterator

from fairledger.families.interface import Reader, Words
from fairledger.families.kickstart.fields import only
from fairledger.families.kickstart.lines import has
from fairledger.intent.file import CARRIED, File

_SECTION, _NAME = "post", "%post"
_OUTSIDE, _STOPS = "--nochroot", "--erroronfail"
_HEAD = f"""
# lays down the files that the medium carries; stops the installation where one is not found
root=/mnt/sysroot; [ -d "$root/etc" ] || root=/mnt/sysimage
at=/tmp/fair-ledger; mkdir -p "$at/medium" "$at/got"; from=
for one in /run/install/repo /run/install/sources/mount-*; do
  [ -z "$from" ] && [ -d "$one/{CARRIED}" ] && from=$one
done
for one in /dev/disk/by-label/*; do
  [ -z "$from" ] && mount -o ro "$one" "$at/medium" 2>/dev/null || continue
  if [ -d "$at/medium/{CARRIED}" ]; then from=$at/medium; else umount "$at/medium"; fi
done
url=$(sed -n 's/.*inst\\.ks=\\(https\\{{0,1\\}}:[^ ]*\\)\\/.*/\\1/p' /proc/cmdline)
lay() {{
  file=$from/{CARRIED}/$1
  if [ -z "$from" ]; then file=$at/got/$1; curl -fsS -o "$file" "$url/{CARRIED}/$1" || exit 1; fi
  install -D -m "$3" "$file" "$root$2" || exit 1
  chroot "$root" chown "$4" "$2" || exit 1
}}
"""
_TAIL = '[ -z "$from" ] || umount "$at/medium" 2>/dev/null || true\n'
_USUAL_MODE, _USUAL_OWNER = "0644", "root:root"


def canonical(value: tuple[File, ...], words: Words) -> tuple[File, ...] | None:
    """What is laid down, each under the path that it has on the medium; no two of one name."""
    if not _can(words):
        return None
    kept = []
    for at, one in enumerate(value):
        if not _why_not(one, value[:at]):
            mode, owner = _mode(one), _owner(one)
            usual = (mode == _USUAL_MODE, owner == _USUAL_OWNER)
            kept.append(
                File(
                    source=one.carried,
                    to=one.to,
                    mode=None if usual[0] else mode,
                    owner=None if usual[1] else owner,
                )
            )
    return tuple(kept) or None


def _can(words: Words) -> bool:
    # the hypervisor's scripts have neither the folders nor the tools
    return words.target.line in ("el", "fedora") and has(words, _NAME, _OUTSIDE)


def _mode(one: File) -> str:
    return (one.mode or _USUAL_MODE).rjust(4, "0")


def _owner(one: File) -> str:
    owner = one.owner or _USUAL_OWNER
    return owner if ":" in owner else f"{owner}:{owner}"


def _why_not(one: File, before: tuple[File, ...]) -> str:
    """Why it cannot be laid down; empty where it can."""
    if one.to is None:
        return "it only goes along"
    if not one.to.startswith("/") or any(sign < " " for sign in one.to) or "/../" in one.to:
        return "it is no whole path of a file, such as /etc/larkmoor.conf"
    if one.fits:
        return one.fits
    if not one.name:
        return "its name must be of plain letters, digits, - _ and ."
    if any(other.name.casefold() == one.name.casefold() for other in before):
        return f"another file is called {one.name}, and both would lie in one folder of the medium"
    return ""


def translate(value: tuple[File, ...], words: Words) -> None:
    """One script for all of them."""
    laid = []
    for at, one in enumerate(value):
        path = ("file", at)
        words.told += [(*path, field) for field in ("source", "owner", "mode", "on_medium")]
        if one.to is not None and one.on_medium is not None:
            words.needless((*path, "on_medium"), "a place on the medium", "what is laid down has its own there")
        why = _why_not(one, value[:at]) if _can(words) else "its installer's scripts reach no medium"
        if one.to is None:
            continue
        if why:
            words.cannot((*path, "to"), f"the file for {one.to}", why, "choose another path, or fetch it in a command")
            continue
        laid.append((at, one))
    if not laid:
        return
    block = words.out.block(_SECTION, _NAME, words.origin("file", laid[0][0]), again=True)
    for option in (_OUTSIDE, _STOPS):
        block.put(option, "true", words.origin("file", laid[0][0]))
    block.put("body", _HEAD + "".join(_line(one) for _, one in laid) + _TAIL, words.origin("file", laid[0][0]))


def _line(one: File) -> str:
    said = (one.name, str(one.to), _mode(one), _owner(one))
    return f"lay {' '.join(map(shlex.quote, said))}\n"


def recognise(reader: Reader) -> tuple[File, ...] | None:
    """The same script; the first of its kind."""
    for root in reader.find(_SECTION, _NAME, ""):
        body = root.child("body")
        text = body.value if body is not None else None
        if not isinstance(text, str) or not text.startswith(_HEAD) or not only(root, _OUTSIDE, _STOPS, "body"):
            continue
        found = tuple(_laid(text.removeprefix(_HEAD)))
        if found and text == _HEAD + "".join(map(_line, found)) + _TAIL:
            for at in range(len(found)):
                reader.places[("file", at)] = body if body is not None else root
            for seat in root.children:
                reader.take(seat, "file", 0)
            reader.take_block(root)
            return found
    return None


def _laid(text: str) -> Iterator[File]:
    """What the lines of the script lay down."""
    for line in text.split("\n"):
        words = shlex.split(line) if line.startswith("lay ") and line.count("'") % 2 == 0 else []
        if len(words) == 5:
            _, name, to, mode, owner = words
            try:
                yield File(
                    source=f"{CARRIED}/{name}",
                    to=to,
                    mode=None if mode == _USUAL_MODE else mode,
                    owner=None if owner == _USUAL_OWNER else owner,
                )
            except ValueError:
                return
