"""The portable section ``source``: where the installation comes from."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from typing import Any, ClassVar, Literal

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import Text


class Repository(Part, frozen=True, kw_only=True):
    """A further source of packages."""

    name: Text
    url: Text | None = None
    mirrors: Text | None = None
    """Address of a list of mirrors."""
    metalink: Text | None = None
    """Address of a list of mirrors with checksums."""
    proxy: Text | None = None
    keep: bool | None = None
    """The repository stays on the installed system."""
    verify: bool | None = None
    """False: its certificate is not verified, so that anybody may stand in for it."""
    authority: Text | None = None
    """File of the certificate by which others are verified."""
    client_certificate: Text | None = None
    """File of the certificate by which this machine is known."""
    client_key: Text | None = None
    """File of the key to that."""

    KEY: ClassVar[str] = "name"


_KINDS_BY_FIELD = {"url": ("url", "mirrors", "metalink"), "network-files": ("server",), "drive": ("partition",)}


class Source(Part, frozen=True, kw_only=True):
    """The tree that the installer takes packages from."""

    kind: Literal["url", "disc", "network-files", "drive", "image", "tree", "container"] | None = None
    """``image``: an archive or image of a whole system; ``tree``: a repository of whole trees of files (OSTree);
    ``container``: a system in a container image."""
    url: Text | None = None
    mirrors: Text | None = None
    """Address of a list of mirrors."""
    metalink: Text | None = None
    """Address of a list of mirrors with checksums."""
    proxy: Text | None = None
    server: Text | None = None
    folder: Text | None = None
    partition: Text | None = None
    checksum: Text | None = None
    """Of an image."""
    name: Text | None = None
    """Of the system in its own store, of trees and containers."""
    remote: Text | None = None
    """The name under which the source is kept for updates."""
    branch: Text | None = None
    transport: Text | None = None
    """How a container image is fetched: ``registry``, ``oci``, ..."""
    signed: bool | None = None
    """False: signatures are not verified."""
    verify: bool | None = None
    """False: the server's certificate is not verified, so that anybody may stand in for it."""
    authority: Text | None = None
    """File of the certificate by which the server is verified."""
    client_certificate: Text | None = None
    """File of the certificate by which this machine is known."""
    client_key: Text | None = None
    """File of the key to that."""
    repository: tuple[Repository, ...] = ()

    @classmethod
    def adjust(cls, fields: dict[str, Any]) -> dict[str, Any]:
        """Writes the kind that only one field can be for, where nobody says it."""
        said = next((kind for kind, names in _KINDS_BY_FIELD.items() if not fields.keys().isdisjoint(names)), None)
        return fields if said is None or "kind" in fields else {**fields, "kind": said}


SOURCE: Section[Source] = Section("source", Source, items="repository")
