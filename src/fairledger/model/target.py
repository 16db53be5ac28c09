"""Targets: the operating-system releases that answer files are written for."""

# annotations are kept as types here, not as texts: decoding would compile every one of them at each start

from msgspec import Struct


class Target(Struct, frozen=True, kw_only=True):
    """One release of an operating system. Rows of the table of targets, in the order of their line."""

    id: str
    family: str
    line: str
    """Releases of one line follow each other: ``client``, ``server``, ``el``, ..."""
    name: str
    """As its vendor calls it."""
    called: tuple[str, ...] = ()
    """What people say besides the words of its name: ``rhel``."""
    build: str = ""
    """The vendor's build or version number."""
    architectures: tuple[str, ...]
    several: bool = False
    """Whether one answer file can serve machines of several of them."""
    edition_images: tuple[tuple[str, str], ...] = ()
    """Editions, and the names that their images have on the vendor's media."""
    shown_images: tuple[tuple[str, str], ...] = ()
    """Editions, and further names under which tools show their images, such as those of evaluation media."""
    edition_support: tuple[tuple[str, str], ...] = ()
    """Editions that are supported until another day than the rest, with that day."""
    image_prefix: str = ""
    """With what the names of all its images begin."""
    image_build: str = ""
    """The build that images of its media name, where that is another: those of the release that it is an update of."""
    released: str = ""
    """Year and month."""
    sure: bool = True
    """False where the release is newer than what is known for certain: findings about it are warnings at most."""
    supported_until: str = ""
    """Day on which the vendor's ordinary support ends; empty when unsure."""
    supported_longer: str = ""
    """The same for enterprise and education editions, where it differs."""
    least_disk_mib: int = 0
    """The smallest disk that its vendor speaks of; zero when unsure."""
    least_memory_mib: int = 0
    least_system_mib: int = 0
    """The smallest partition for the system."""
    least_recovery_mib: int = 0
    """What its recovery system wants, with the room that its updates need."""
    firmware: tuple[str, ...] = ()
    """The kinds of firmware from which it starts; empty means all."""

    @property
    def image_builds(self) -> tuple[str, ...]:
        """The builds that an image of it may name."""
        return (self.build, self.image_build) if self.image_build else (self.build,)

    @property
    def images(self) -> dict[str, str]:
        """The names of images by edition."""
        return dict(self.edition_images)

    def edition_of(self, image: str) -> str:
        """The edition by its own name or that of its image, also as tools show it; empty if there is none."""
        rows = (*self.edition_images, *self.shown_images)
        return next((edition for edition, name in rows if image in (edition, name)), "")

    @property
    def editions(self) -> tuple[str, ...]:
        """The editions by name."""
        return tuple(name for name, _ in self.edition_images)


class SetupPass(Struct, frozen=True, kw_only=True):
    """A phase of setup in which settings apply."""

    name: str
    when: str
    """When it runs, in a sentence."""
    belongs: str = ""
    """What is set there."""
    reached: str = ""
    """What leads there, in a sentence."""
    rights: str = ""
    """With what rights its commands run; empty where it has none."""
    runs_as: str = ""
    """Whom its commands run as; empty where it has none."""
    seen: str = ""
    """What whoever is at the machine sees of its commands; empty where that is nothing."""
    commands: str = ""
    """The moment of the section ``command`` that is nearest to that of its command lines, if it has any."""


class Limits(Struct, frozen=True, kw_only=True):
    """What a family's installer can and cannot do. Rules of the trade ask these, never a family's name."""

    machine_name_length: int
    machine_name_dots: bool = False
    """Whether a machine name may hold a domain."""
    one_growing_partition_last: bool = False
    """Only one partition of a disk may grow, and it must be the last one made."""
    grow_excludes_size: bool = False
    """A growing partition must not have a size of its own."""
    drive_letters: bool = False
    installs_to_stated_partition: bool = False
    """The file must say which partition receives the system."""
    sign_in_count: bool = False
    """Automatic sign-in goes on for ever unless it is counted."""
    locked_without_password: bool = False
    """Nobody can sign in with a password to an account that has none; else everybody can."""
    licence_must_be_accepted: bool = False
    product_key_pattern: str = ""
    """A regular expression for a whole key; empty where keys do not exist."""
    product_key_without: str = ""
    """What no product key of that form holds, since people mistake it for something else."""
    firmware_partition_for: tuple[str, ...] = ()
    """Firmware kinds that cannot start from a wiped disk without a firmware system partition."""
    active_partition_for: tuple[str, ...] = ()
    """Firmware kinds that need an active partition."""
    mounts: bool = False
    """Partitions are mounted at paths, and one must be mounted at the root."""
    formats_gone: tuple[str, ...] = ()
    """File systems that its installer no longer makes."""
    extends_by_itself: bool = False
    """Its installer makes an extended partition where a table has no room for more of the others."""
    takes_whole_disk: bool = False
    """Whatever stands on the disk that it installs to may be lost, also where that is not wiped; it can keep stores of
    data only."""
    reserved_for: tuple[str, ...] = ()
    """Firmware kinds whose disks have a reserved partition."""
    boot_partition_for: tuple[str, ...] = ()
    """Firmware kinds that need a small boot partition on GPT disks."""
    home_above_mib: int = 0
    """From which disk size on the installer's own plan has a separate home; zero where it has none."""
    unknown_commands_refused: bool = False
    """Whether the installer stops at a component it does not know, instead of passing over it."""
    lines_without_shell: bool = False
    """Command lines are started as they stand, without a shell that understands pipes and redirections."""
    scripts: str = ""
    """What its scripts are written in: ``cmd`` or ``sh``; empty where it runs none."""
    commands_restart: bool = False
    """A command can say that the machine restarts after it."""
    side_architectures: tuple[str, ...] = ()
    """What components may be for besides the machine's own architecture: programs of an older kind."""
    joins_with_account: bool = True
    """A domain is joined with an account that may add machines, which stands in the file."""
    groups_translated: tuple[str, ...] = ()
    """The languages in which well-known groups have names of their own."""
    administrator_translated: dict[str, str] = {}
    """By language: the name of the built-in administrator, where it is not the English one."""
    accounts_come_last: bool = False
    """No account has a profile before the first sign-in."""
    names_shared: bool = False
    """A machine and an account in it cannot have the same name."""
    groups_given: bool = False
    """An account of which no group is said gets one from the installer."""
    admin_group: str = ""
    """The group whose members have all rights; empty where there is none."""
    own_zones: bool = False
    """Time zones have names of its own, of which new ones come with new releases."""
    speaks_some: bool = False
    """Setup speaks the languages of its media only."""
    units_with_domain: bool = False
    """A place in a domain's tree is named down from the domain."""
    name_servers: int = 0
    """How many name servers are ever asked; zero where nobody says."""
    source_forms: tuple[str, ...] = ()
    """How sources may begin that are no addresses of the net."""
    packages_fetched: bool = False
    """Packages come from a source, which the file or a boot parameter names."""
    accounts_there: tuple[str, ...] = ()
    """Accounts that every system has."""
    system_least_mib: int = 0
    """What the system's partition has at least."""
    audit_passes: tuple[str, ...] = ()
    """Passes that run in audit mode only."""
    generalising_pass: str = ""
    """The pass that runs only when a machine is generalised."""
    account_name_length: int = 0
    account_name_forbids: str = ""
    """Characters that an account name cannot hold."""
