"""The records of a catalog."""

# annotations are kept as types here, not as texts: decoding would compile every one of them at each start

from functools import cached_property
from typing import Literal

from msgspec import Struct

from fairledger.model.kinds import SECRET_KINDS

Priority = Literal["critical", "high", "medium", "low"]


class Setting(Struct, frozen=True, kw_only=True, omit_defaults=True, dict=True):
    """One setting of a component: what may be written there, and what it does."""

    path: str
    """Children joined by ``/``, without brackets."""
    kind: str
    about: str = ""
    words: str = ""
    """By which people look for it."""
    passes: tuple[str, ...] = ()
    """Where it may stand; empty means wherever its component may."""
    usual_pass: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    """Allowed values with their meanings (which may be empty)."""
    min: int | None = None
    max: int | None = None
    max_length: int | None = None
    pattern: str = ""
    key: str = ""
    """What tells the items of a list apart: a child, an attribute (``@name``), or nothing."""
    ordinal: bool = False
    """Whether it is a pure ordinal of its list, numbered last if nobody gives it."""
    repeats: bool = False
    """Whether the items of this list are plain values."""
    required: bool = False
    """Whether its group or item is refused or useless without it."""
    default: str = ""
    """What the installer takes when nothing is said."""
    empty: bool = False
    """Whether an empty value means something."""
    since: tuple[str, ...] = ()
    """First target of each line that knows it; empty means always."""
    until: tuple[str, ...] = ()
    """Last target of each line that knows it."""
    deprecated: tuple[str, ...] = ()
    """First target of each line that calls it out of date."""
    example: str = ""
    form: str = ""
    """How it is written where that matters: ``flag`` (alone, there or not), ``bare`` (with a value or without),
    ``word`` (by its place), ``rest`` (all that is left of the line), ``entry`` (a line of its own),
    ``line`` (a line ``name = value``), ``body``."""
    lines: tuple[str, ...] = ()
    """The lines of releases that have it; empty means all of its component's."""
    refers: str = ""
    """``COMPONENT/SETTING`` whose values, in the same file, are the only ones that make sense here."""
    besides: tuple[str, ...] = ()
    """Values that make sense all the same."""
    needs: tuple[str, ...] = ()
    """Settings beside it without which it is refused or useless; one of ``a|b`` is enough."""
    excludes: tuple[str, ...] = ()
    """Settings beside it that cannot stand together with it."""
    usual: tuple[str, ...] = ()
    """Names that are usual there, of which one may be slipped on; others are no mistake."""
    instead: str = ""
    """What to use where it is out of date or gone."""
    alias: str = ""
    """The setting that this is only another name of."""
    related: tuple[str, ...] = ()
    """``COMPONENT/SETTING``, or a path of its own component: what one looks at in the same breath."""
    whose: str = ""
    """The setting beside it that names the account whose password it is."""
    policy: str = ""
    """Why central policy is usually the better place for it; empty where it is not."""
    also: str = ""
    """The kind of value that may stand there instead, of a group or list that takes one."""
    only: str = ""
    """``SETTING=VALUE|VALUE``: it means something only where a setting beside it says one of these."""
    traits: tuple[str, ...] = ()
    """What is asked of it instead of its name: words of the table of traits."""
    says: dict[str, str] = {}
    """What single values of it mean, in words of that table."""
    gone: dict[str, tuple[str, ...]] = {}
    """Choices that are gone, with the first release of each line that lacks them."""
    came: dict[str, tuple[str, ...]] = {}
    """Choices, or usual names, that came later, with the first release of each line that has them."""
    rare: bool = False
    """Whether a short name usually means another setting."""
    passed_over: bool = False
    """Whether releases that do not have it pass over it, instead of refusing the file."""
    sure: bool = True

    @cached_property
    def name(self) -> str:
        """The last part of the path."""
        return self.path.rsplit("/", 1)[-1]

    @property
    def parent(self) -> str:
        """The path of the group or list around it; empty at the top."""
        return self.path.rpartition("/")[0]

    @cached_property
    def secret(self) -> bool:
        """Whether its values are never shown."""
        return self.kind in SECRET_KINDS


_NONE: dict[str, Setting] = {}


class Component(Struct, frozen=True, kw_only=True, omit_defaults=True, dict=True):
    """A component with its settings."""

    name: str
    passes: tuple[str, ...]
    usual_pass: str = ""
    about: str = ""
    words: str = ""
    complete: bool = False
    """Whether nothing is missing: an unknown setting is then an error, else a warning."""
    instead: str = ""
    """What to use where it is out of date or gone."""
    lines: tuple[str, ...] = ()
    """The lines of releases that have it in this form; empty means all of the family."""
    deprecated: tuple[str, ...] = ()
    """First target of each line that calls it out of date."""
    alias: str = ""
    """The component that this is only another name of."""
    architectures: tuple[str, ...] = ()
    """Empty means all that the target has."""
    since: tuple[str, ...] = ()
    until: tuple[str, ...] = ()
    key: str = ""
    """What tells apart repeated uses of the component in a pass."""
    repeats: bool = False
    """Whether the component may stand several times in a pass."""
    policy: str = ""
    """Why central policy is usually the better place for its settings."""
    sure: bool = True
    sure_passes: bool = True
    """False where other passes than the stated ones may do as well: nobody is told off for them."""
    unique: bool = False
    """Whether two uses with the same key are a mistake."""
    expected: str = ""
    """What is missing, in words, when neither it nor another component with the same words is there."""
    traits: tuple[str, ...] = ()
    """What is asked of it instead of its name: words of the table of traits."""
    asked_in: str = ""
    """The pass in which the installer asks for it; the first one if nothing is said."""
    priority: Priority = "critical"
    """How much the question counts: below ``high`` the installer goes on by itself."""
    alone: bool = False
    """Whether it means something without any setting."""
    excludes: tuple[str, ...] = ()
    """Components of the same pass beside which it cannot stand."""
    after: tuple[str, ...] = ()
    """Components that must stand before it."""
    section: str = ""
    """The section whose text must hold it; empty where it stands by itself."""
    ends: str = ""
    """The line that ends it, where it is a section that does not just end with the next one."""
    opened_by: str = ""
    """The word before its name that begins it, where several begin with the same."""
    needs: tuple[str, ...] = ()
    """Settings without which it is refused or useless; one of ``a|b`` is enough."""
    settings: tuple[Setting, ...] = ()

    @cached_property
    def section_like(self) -> bool:
        """Whether it is a section: something stands below the line that begins it."""
        return any(one.form in ("entry", "line", "body") for one in self.settings)

    def setting(self, path: str) -> Setting | None:
        """The setting at exactly that path."""
        return self._by_path.get(path)

    def ordinal_of(self, path: str) -> Setting | None:
        """What numbers the items of a list; None where nothing does."""
        return self._ordinals.get(path)

    @cached_property
    def _ordinals(self) -> dict[str, Setting]:
        return {one.parent: one for one in self.settings if one.ordinal}

    def below(self, path: str) -> tuple[Setting, ...]:
        """The settings directly inside a group or list (the top for an empty path)."""
        return self._inside.get(path, ())

    def required(self, path: str) -> tuple[Setting, ...]:
        """The settings directly inside a group or list (the top for an empty path) that must be there."""
        return self._required.get(path, ())

    @cached_property
    def _required(self) -> dict[str, tuple[Setting, ...]]:
        needed = {path: tuple(one for one in listed if one.required) for path, listed in self._inside.items()}
        return {path: listed for path, listed in needed.items() if listed}

    def inside(self, path: str) -> dict[str, Setting]:
        """The settings directly inside a group or list (the top for an empty path), by their names."""
        return self._named_inside.get(path, _NONE)

    @cached_property
    def _named_inside(self) -> dict[str, dict[str, Setting]]:
        return {path: {one.name: one for one in listed} for path, listed in self._inside.items()}

    @cached_property
    def _by_path(self) -> dict[str, Setting]:
        return {setting.path: setting for setting in self.settings}

    @cached_property
    def _inside(self) -> dict[str, tuple[Setting, ...]]:
        inside: dict[str, list[Setting]] = {}
        for setting in self.settings:
            inside.setdefault(setting.parent, []).append(setting)
        return {path: tuple(listed) for path, listed in inside.items()}

    def passes_of(self, setting: Setting) -> tuple[str, ...]:
        """Where a setting may stand."""
        return setting.passes or self.passes

    def usual_pass_of(self, setting: Setting) -> str:
        """Where a setting usually stands."""
        passes = self.passes_of(setting)
        wish = setting.usual_pass or self.usual_pass
        return wish if wish in passes else passes[0]
