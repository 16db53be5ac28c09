"""Trees of packages: which repositories stand on a medium, and which packages, groups and environments they offer.

Sources: the repository metadata (``repomd.xml``) and group files (``comps``) as the distributions publish them.
"""

from __future__ import annotations

import bz2
import gzip
import io
import lzma
from collections.abc import Callable, Iterator
from typing import IO, Any

from lxml import etree

from fairledger.model.holdings import TreeFacts

_INDEX = "repodata/repomd.xml"
_MOST_INDEX = 1 << 20
_MOST_GROUPS = 16 << 20
_MOST_UNPACKED = 64 << 20
_MOST_ELEMENTS = 2_000_000
_UNPACKERS: dict[str, Callable[[IO[bytes]], Any]] = {
    ".gz": lambda file: gzip.GzipFile(fileobj=file),
    ".xz": lzma.LZMAFile,
    ".bz2": bz2.BZ2File,
}
_REPOSITORY = "{http://linux.duke.edu/metadata/repo}"
_GROUPS = ("group", "group_gz", "group_xz", "group_bz2")


class Trees:
    """What is told of the trees of a medium, file by file."""

    def __init__(self) -> None:
        self._repositories: list[str] = []
        self._packages: set[str] = set()
        self._groups: set[str] = set()
        self._environments: set[str] = set()
        self._wanted: set[str] = set()
        self._unread = False

    def name(self, path: str) -> None:
        """A file that stands there."""
        if path.endswith(".rpm"):
            self._packages.add(path.rpartition("/")[2].rsplit("-", 2)[0])
        elif f"/{path.lower()}".endswith(f"/{_INDEX}"):
            self._repositories.append(path[: -len(_INDEX)].rstrip("/"))

    def wants(self, path: str) -> int:
        """How many bytes of a file tell something of packages."""
        if f"/{path.lower()}".endswith(f"/{_INDEX}"):
            return _MOST_INDEX
        return _MOST_GROUPS if path in self._wanted else 0

    def read(self, path: str, data: bytes) -> None:
        """What one of those files says; one that cannot be read leaves its part unknown."""
        try:
            if path.lower().endswith(_INDEX):
                self._index(path[: -len(_INDEX)], data)
            else:
                self._comps(path, data)
        except (etree.XMLSyntaxError, ValueError, OSError, EOFError, lzma.LZMAError):
            self._unread = True

    @property
    def wanted(self) -> frozenset[str]:
        """The files of groups that nobody has read."""
        return frozenset(self._wanted)

    def _index(self, above: str, data: bytes) -> None:
        found = dict(_groups_of(_parsed(data)))
        if not found:
            return
        best = next((found[kind] for kind in _GROUPS if kind in found), None)
        if best is None:
            self._unread = True  # packed in a form that cannot be read here
        else:
            self._wanted.add(above + best)

    def _comps(self, path: str, data: bytes) -> None:
        self._wanted.discard(path)
        unpack = next((one for ending, one in _UNPACKERS.items() if path.endswith(ending)), None)
        if unpack is not None:
            with unpack(io.BytesIO(data)) as file:
                data = file.read(_MOST_UNPACKED)
        root = _parsed(data)
        self._groups |= {text for one in root.iterfind("group") if (text := (one.findtext("id") or "").strip())}
        self._environments |= {
            text for one in root.iterfind("environment") if (text := (one.findtext("id") or "").strip())
        }

    def told(self, treeinfo: bytes) -> TreeFacts | None:
        """All of it; None where no tree stands there."""
        if not treeinfo and not self._repositories and not self._packages:
            return None
        unread = self._unread or bool(self._wanted)
        return TreeFacts(
            repositories=tuple(sorted(self._repositories)),
            packages=tuple(sorted(self._packages)),
            groups=None if unread else tuple(sorted(self._groups)),
            environments=None if unread else tuple(sorted(self._environments)),
        )


def _parsed(data: bytes) -> etree._Element:
    if b"<!ENTITY" in data or data.count(b"<") > _MOST_ELEMENTS:
        raise ValueError("no file of groups")
    # the document type of group files is named in them, and neither fetched nor followed
    return etree.fromstring(data, etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False))


def _groups_of(root: etree._Element) -> Iterator[tuple[str, str]]:
    for one in root.iterfind(f"{_REPOSITORY}data"):
        place = one.find(f"{_REPOSITORY}location")
        kind, href = one.get("type", ""), place.get("href", "") if place is not None else ""
        if kind.startswith("group") and href and ".." not in href:
            yield kind, href
