"""What a medium is and holds, as values: None means that nobody knows it, and an empty tuple that there is none."""

# annotations are kept as types here, not as texts: decoding would compile every one of them at each start

from msgspec import Struct


class ImageFacts(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """An image on a medium, as its own file lists it."""

    index: int
    file: str = ""
    """Its image file on the medium."""
    name: str | None = None
    shown: str | None = None
    """The name under which setup shows it."""
    edition: str | None = None
    """The edition, as the catalog calls it."""
    edition_id: str | None = None
    """The vendor's identifier of the edition."""
    installation: str | None = None
    """``Client``, ``Server``, ``Server Core`` or ``WindowsPE``."""
    arch: str | None = None
    build: str | None = None
    languages: tuple[str, ...] = ()
    size: int | None = None
    """Bytes of its files, unpacked."""

    @property
    def installs(self) -> bool:
        """Whether it is a system rather than the setup that installs one."""
        return self.installation is not None and self.installation.casefold() != "windowspe"

    @property
    def title(self) -> str:
        """What people call it."""
        return self.name or self.shown or f"image {self.index}"


class HeldFacts(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """What one image holds."""

    image: int
    file: str = ""
    components: dict[str, tuple[str, ...]] | None = None
    """Components of the catalog that stand in the image's store, by their version."""
    lacking: tuple[str, ...] | None = None
    """Components of the catalog that were looked for in the store and are not there."""
    unclear: tuple[str, ...] = ()
    """Those whose abbreviated name stands for several, so that nobody can tell."""
    others: int | None = None
    """How many components of which the catalog knows nothing stand in the store."""
    packages: tuple[str, ...] | None = None
    features: tuple[str, ...] | None = None
    apps: tuple[str, ...] | None = None
    answers: tuple[str, ...] | None = None
    """Answer files in the image."""
    problems: tuple[str, ...] = ()
    """What of it could not be read."""

    @property
    def present(self) -> frozenset[str]:
        """The components that are there."""
        return frozenset(name for names in (self.components or {}).values() for name in names)


class AnswerFacts(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """An answer file on a medium."""

    path: str
    first: bool | None = None
    """Whether it is the one that the installer takes by itself."""


class BootFacts(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A boot entry that looks for volumes by their labels."""

    file: str
    title: str
    labels: tuple[str, ...]


class TreeFacts(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """What a tree of packages offers."""

    repositories: tuple[str, ...] | None = None
    """Their folders on the medium."""
    packages: tuple[str, ...] | None = None
    """Names without version and architecture."""
    groups: tuple[str, ...] | None = None
    environments: tuple[str, ...] | None = None


class MediumFacts(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True):
    """What a medium is and holds."""

    name: str = ""
    """As people name it: the file's or folder's name."""
    kind: str = ""
    label: str | None = None
    size: int | None = None
    boots: tuple[str, ...] | None = None
    family: str | None = None
    targets: tuple[str, ...] = ()
    """The releases that it may be."""
    release: str | None = None
    build: str | None = None
    arch: str | None = None
    languages: tuple[str, ...] | None = None
    channel: str | None = None
    edition: str | None = None
    """The edition that its own file says setup installs."""
    images: tuple[ImageFacts, ...] | None = None
    held: tuple[HeldFacts, ...] = ()
    """Of those images that were looked into."""
    tree: TreeFacts = TreeFacts()
    answers: tuple[AnswerFacts, ...] | None = None
    entries: tuple[BootFacts, ...] | None = None
    problems: tuple[str, ...] = ()

    @property
    def systems(self) -> tuple[ImageFacts, ...] | None:
        """The images that are installed; None where nobody knows which there are."""
        own = tuple(one for one in self.images or () if one.installs)
        return own or None

    def held_by(self, image: ImageFacts | None) -> HeldFacts | None:
        """What an image holds, if somebody looked."""
        if image is None:
            return None
        return next((one for one in self.held if (one.image, one.file) == (image.index, image.file)), None)

    def chosen(self, edition: str | None, index: int | None) -> tuple[ImageFacts, ...] | None:
        """The images that an edition (or an image's name) and a number mean; all without either. None if unknown."""
        own = self.systems
        if own is None:
            return None
        if index is not None:
            own = tuple(one for one in own if one.index == index)
        if edition is not None:
            own = tuple(one for one in own if edition in (one.edition, one.name, one.shown))
        return own
