"""The values of the job, as the documents of docs/formats hold them: catalogue, pack, release, inventory.

All are frozen records. Sizes are in bytes, memory in MiB, times carry a zone, digests are lower-case hex SHA-256.
"""

import enum
from datetime import date, datetime
from typing import Annotated, Any

import msgspec
from msgspec import Meta

from .versions import Scheme

Slug = Annotated[str, Meta(pattern=r"^[A-Za-z0-9][A-Za-z0-9._-]*$", max_length=100)]
Digest = Annotated[str, Meta(pattern=r"^[0-9a-f]{64}$")]
Size = Annotated[int, Meta(ge=0, le=1 << 50)]
Label = Annotated[str, Meta(min_length=1, max_length=200)]
VersionText = Annotated[str, Meta(min_length=1, max_length=200)]
Path = Annotated[str, Meta(min_length=1, max_length=1000)]


class Packaging(enum.StrEnum):
    """How a kind of content is placed: whole, unpacked into a folder of its own, or unpacked onto the game folder."""

    ARCHIVE = "archive"
    FOLDER = "folder"
    OVERLAY = "overlay"


class Channel(enum.StrEnum):
    """How finished a build or game version is said to be."""

    STABLE = "stable"
    BETA = "beta"
    ALPHA = "alpha"


class Need(enum.StrEnum):
    """What a side asks of a mod."""

    REQUIRED = "required"
    OPTIONAL = "optional"
    UNSUPPORTED = "unsupported"


class Side(enum.StrEnum):
    """The two halves of a game: what a player runs, and what a server runs."""

    CLIENT = "client"
    SERVER = "server"


class Reach(enum.StrEnum):
    """How far a mod is felt."""

    OWN = "own"
    SHARED = "shared"
    PROGRESS = "progress"


class SaveEffect(enum.StrEnum):
    """What a mod does to saved worlds."""

    NONE = "none"
    ADDS = "adds"
    LOSES = "loses-on-removal"


class Redistribution(enum.StrEnum):
    """Whether a mod's file may be passed on."""

    ALLOWED = "allowed"
    LINK_ONLY = "link-only"


class Outdated(enum.StrEnum):
    """What a game does with a mod that is marked for an older version of it."""

    REFUSED = "refused"
    USUALLY_RUNS = "usually-runs"


class Record(msgspec.Struct, frozen=True, kw_only=True, omit_defaults=False, gc=False):
    """Base of all values. They are trees, never circles, so the collector of circles need not walk them."""


class Sides(Record, frozen=True, kw_only=True):
    """What each half of the game asks of a mod."""

    client: Need = Need.REQUIRED
    server: Need = Need.REQUIRED

    def on(self, side: Side) -> bool:
        """Whether a rig of this side gets the mod."""
        return (self.client if side == Side.CLIENT else self.server) != Need.UNSUPPORTED


# --- game definition ---------------------------------------------------------------------------------------------


class GameVersion(Record, frozen=True, kw_only=True):
    """A version of a game; ``runtime`` is the major version of the runtime it needs."""

    label: VersionText
    channel: str = "stable"
    released: date | None = None
    runtime: int | None = None


class LoaderVersion(Record, frozen=True, kw_only=True):
    """A version of a loader and the game versions it loads."""

    label: VersionText
    game_versions: str | None = None
    recommended: bool = False


class Loader(Record, frozen=True, kw_only=True):
    """What loads mods into a game."""

    slug: Slug
    name: Label
    versions: tuple[LoaderVersion, ...] = ()


class Kind(Record, frozen=True, kw_only=True):
    """A kind of content: where it goes and how it is packaged. ``manifest`` is the file that marks a mod's folder.

    Of an ``exclusive`` kind (a full overhaul, a total conversion), a pack can hold one only.
    """

    slug: Slug
    name: Label
    folder: str = ""
    packaging: Packaging = Packaging.ARCHIVE
    manifest: str | None = None
    exclusive: bool = False


class Memory(Record, frozen=True, kw_only=True):
    """What the game itself needs and what a mod adds on average, in MiB."""

    base_mib: int = 2048
    per_mod_mib: int = 0


class DataFolders(Record, frozen=True, kw_only=True):
    """Where a game keeps what is not mods, as folders below its own."""

    settings: tuple[Path, ...] = ()
    saves: tuple[Path, ...] = ()
    logs: tuple[Path, ...] = ()


class Game(Record, frozen=True, kw_only=True):
    """A game definition: everything that is particular to a game, as data.

    ``load_order`` says that the order of the mods decides which file wins. ``own_files`` are globs of files the game
    itself installs; ``folders`` are those it reads, in the spelling it reads them. ``sides`` are the halves it has.
    """

    slug: Slug
    name: Label
    version_scheme: Scheme = Scheme.GENERIC
    versions: tuple[GameVersion, ...]
    loaders: tuple[Loader, ...] = ()
    kinds: tuple[Kind, ...] = ()
    memory: Memory = Memory()
    outdated: Outdated = Outdated.REFUSED
    load_order: bool = False
    own_files: tuple[str, ...] = ()
    folders: tuple[str, ...] = ()
    data_folders: DataFolders = DataFolders()
    sides: tuple[Side, ...] = (Side.CLIENT, Side.SERVER)

    def kind(self, slug: str) -> Kind:
        """The kind with this slug; a kind the game does not name is placed whole in ``mods``."""
        return next((kind for kind in self.kinds if kind.slug == slug), Kind(slug=slug, name=slug, folder="mods"))

    def loader(self, slug: str) -> Loader | None:
        """The loader with this slug, if the game has it."""
        return next((loader for loader in self.loaders if loader.slug == slug), None)

    def runtime_for(self, label: str) -> int | None:
        """The runtime major version of a game version, where it is known."""
        return next((version.runtime for version in self.versions if version.label == label), None)


# --- mods and builds ---------------------------------------------------------------------------------------------


class Target(Record, frozen=True, kw_only=True):
    """A mod and a range of its versions."""

    mod: Slug
    versions: str | None = None


class Requires(Record, frozen=True, kw_only=True, tag_field="kind", tag="requires"):
    """One mod, or any one of several, must be there. Either ``mod`` or ``any`` is given."""

    mod: Slug | None = None
    versions: str | None = None
    any: tuple[Target, ...] = ()

    @property
    def targets(self) -> tuple[Target, ...]:
        """The ways to meet the requirement, in the author's order."""
        return self.any if self.mod is None else (Target(mod=self.mod, versions=self.versions), *self.any)


class Suggests(Record, frozen=True, kw_only=True, tag_field="kind", tag="suggests"):
    """Goes well with another mod."""

    mod: Slug
    versions: str | None = None


class Clashes(Record, frozen=True, kw_only=True, tag_field="kind", tag="clashes"):
    """Must not be together with another mod in a range."""

    mod: Slug
    versions: str | None = None
    reason: str = ""


class Bundles(Record, frozen=True, kw_only=True, tag_field="kind", tag="bundles"):
    """Carries a version of another mod inside itself."""

    mod: Slug
    version: VersionText | None = None


class Bridges(Record, frozen=True, kw_only=True, tag_field="kind", tag="bridges"):
    """A compatibility patch between mods."""

    mods: tuple[Slug, ...]


class After(Record, frozen=True, kw_only=True, tag_field="kind", tag="after"):
    """Loads after another mod."""

    mod: Slug


class Before(Record, frozen=True, kw_only=True, tag_field="kind", tag="before"):
    """Loads before another mod."""

    mod: Slug


Relation = Requires | Suggests | Clashes | Bundles | Bridges | After | Before


class BuildFile(Record, frozen=True, kw_only=True):
    """The file of a build. Without ``url`` only a person can fetch it, from the mod's page."""

    name: Annotated[str, Meta(min_length=1, max_length=255)]
    size: Size = 0
    sha256: Digest | None = None
    url: str | None = None


class ContentFile(Record, frozen=True, kw_only=True):
    """A file inside an archive, or one of the pack's own: size in bytes and SHA-256."""

    path: Path
    size: Size = 0
    sha256: Digest | None = None


class KnownSetting(Record, frozen=True, kw_only=True):
    """A setting that a build reads: in which file, under which key, and which values it takes."""

    file: Path
    key: str
    default: Any = None
    minimum: float | None = None
    maximum: float | None = None
    choices: tuple[str, ...] = ()
    about: str = ""


class Build(Record, frozen=True, kw_only=True):
    """One file of a mod, with its version. Missing ranges mean any version; no loaders means any loader and none.

    ``withdrawn`` says why its author took it back, where that happened. ``unwrap`` is a folder of the archive (with a
    closing slash) whose contents count as the archive's, and nothing else of it; ``wrap`` is put around them.
    """

    version: VersionText
    channel: Channel = Channel.STABLE
    published: datetime | None = None
    game_versions: str | None = None
    loaders: tuple[Slug, ...] = ()
    loader_versions: str | None = None
    file: BuildFile | None = None
    relations: tuple[Relation, ...] = ()
    contents: tuple[ContentFile, ...] = ()
    settings: tuple[KnownSetting, ...] = ()
    withdrawn: str | None = None
    unwrap: str = ""
    wrap: str = ""
    changelog: str = ""


class Link(Record, frozen=True, kw_only=True):
    """A page about a mod, with what it is called."""

    label: Label
    address: Annotated[str, Meta(pattern=r"^(https?://|/)", max_length=1000)]


class Mod(Record, frozen=True, kw_only=True):
    """A mod and its builds. ``successor`` takes over from it; ``counterparts`` do the same job, for another loader.

    ``instructions`` tell a person how to fetch a file of it that has no address, from ``page``.
    """

    slug: Slug
    game: Slug
    name: Label
    kind: Slug = "mod"
    version_scheme: Scheme = Scheme.SEMVER
    summary: str = ""
    description: str = ""
    authors: tuple[str, ...] = ()
    categories: tuple[str, ...] = ()
    licence: str | None = None
    redistribution: Redistribution = Redistribution.ALLOWED
    sides: Sides = Sides()
    reach: Reach = Reach.SHARED
    save_effect: SaveEffect = SaveEffect.NONE
    page: str | None = None
    links: tuple[Link, ...] = ()
    instructions: str = ""
    installs: Annotated[int, Meta(ge=0)] = 0
    abandoned: bool = False
    successor: Slug | None = None
    counterparts: tuple[Slug, ...] = ()
    builds: tuple[Build, ...]

    def build(self, version: str | None) -> Build | None:
        """The build of exactly this version text, if there is one."""
        # Asked for thousands of times in a large draft, where a generator would take most of the time.
        for build in self.builds:
            if build.version == version:
                return build
        return None


class Catalogue(Record, frozen=True, kw_only=True):
    """Games and mods, or the part of them a question is about. ``next`` is the address of a feed's next page."""

    games: tuple[Game, ...]
    mods: tuple[Mod, ...]
    next: str | None = None
    total: int | None = None

    def game(self, slug: str) -> Game | None:
        """The game with this slug, if it is here."""
        return next((game for game in self.games if game.slug == slug), None)

    def by_slug(self, game: str) -> dict[str, Mod]:
        """The mods of one game by slug."""
        return {mod.slug: mod for mod in self.mods if mod.game == game}


# --- pack --------------------------------------------------------------------------------------------------------


class LoaderChoice(Record, frozen=True, kw_only=True):
    """The loader a pack stands on; without a version, any."""

    slug: Slug
    version: VersionText | None = None


class Pin(Record, frozen=True, kw_only=True):
    """Holds an entry at its version."""

    reason: str = ""


class Entry(Record, frozen=True, kw_only=True):
    """One mod in a draft. ``version`` None means any fitting build; ``chosen`` False means brought along.

    Members may leave an ``optional`` entry out; one who has said nothing has it if it is there ``by_default``. Of the
    optional entries with the same ``one_of``, a member has exactly one. ``label`` is the curators' own, to group by.
    """

    mod: Slug
    version: VersionText | None = None
    pin: Pin | None = None
    enabled: bool = True
    chosen: bool = True
    optional: bool = False
    by_default: bool = True
    one_of: Annotated[str, Meta(max_length=100)] = ""
    sides: Sides | None = None
    keep: tuple[str, ...] = ()
    drop: tuple[str, ...] = ()
    order: int | None = None
    label: Annotated[str, Meta(max_length=60)] = ""
    note: str = ""


class SettingRule(enum.StrEnum):
    """Whether a setting is written always, only where a member has none, or never."""

    ENFORCE = "enforce"
    SEED = "seed"
    LEAVE = "leave"


class Setting(Record, frozen=True, kw_only=True):
    """A value for one key of a settings file."""

    file: Path
    key: str
    value: Any = None
    rule: SettingRule = SettingRule.SEED


class Step(Record, frozen=True, kw_only=True):
    """What a person must do by hand, before or after files are placed."""

    id: Slug
    title: Label
    text: str = ""
    when: str = "after"
    sides: tuple[Side, ...] = (Side.CLIENT, Side.SERVER)


class Runtime(Record, frozen=True, kw_only=True):
    """What the pack asks of a machine; memory in MiB."""

    memory_min_mib: int | None = None
    memory_preferred_mib: int | None = None
    runtime_major: int | None = None


class PackBase(Record, frozen=True, kw_only=True):
    """What a pack and a release have in common."""

    slug: Slug
    name: Label
    game: Slug
    game_version: VersionText
    loader: LoaderChoice | None = None
    purpose: str = "group"
    channel_floor: Channel = Channel.STABLE
    settings: tuple[Setting, ...] = ()
    files: tuple[ContentFile, ...] = ()
    steps: tuple[Step, ...] = ()
    runtime: Runtime = Runtime()


class Accepted(Record, frozen=True, kw_only=True):
    """A caution the curator has accepted with a reason, for as long as its facts stay what their digest says."""

    code: Slug
    mods: tuple[Slug, ...] = ()
    facts: str
    reason: str


class Pack(PackBase, frozen=True, kw_only=True):
    """A draft: the curator's working list for the next release. ``fair`` says that it does not change progression.

    ``label`` groups packs in lists. ``emblem`` is the text its emblem is made of, the slug if empty; ``picture`` the
    checksum of a picture that is shown in its stead.
    """

    entries: tuple[Entry, ...]
    label: Annotated[str, Meta(max_length=60)] = ""
    emblem: Annotated[str, Meta(max_length=100)] = ""
    picture: Digest | None = None
    fair: bool = False
    accepted: tuple[Accepted, ...] = ()

    def entry(self, mod: str) -> Entry | None:
        """The entry of a mod, if it is in the pack."""
        return next((entry for entry in self.entries if entry.mod == mod), None)


# --- release -----------------------------------------------------------------------------------------------------


class Place(Record, frozen=True, kw_only=True):
    """A file to be in a rig: from ``source`` inside the archive (None: the whole file) to ``target``."""

    source: str | None = None
    target: Path
    size: Size
    sha256: Digest


class ReleaseEntry(Entry, frozen=True, kw_only=True):
    """An entry with its exact build, where its files go, and why it is there."""

    name: str = ""
    kind: str = "mod"
    sides: Sides = Sides()
    page: str | None = None
    instructions: str = ""
    file: BuildFile
    places: tuple[Place, ...] = ()
    required_by: tuple[str, ...] = ()
    save_effect: SaveEffect = SaveEffect.NONE


class Release(PackBase, frozen=True, kw_only=True):
    """A frozen draft. ``previous`` and ``digest`` are SHA-256 of RFC 8785 forms. Never changes."""

    entries: tuple[ReleaseEntry, ...]
    version: VersionText
    channel: str = "steady"
    published: datetime
    notes: str = ""
    previous: Digest | None = None
    digest: str = ""


# --- inventory ---------------------------------------------------------------------------------------------------


class RigFile(Record, frozen=True, kw_only=True):
    """A file found in a rig."""

    path: str
    size: Size
    sha256: Digest


class SettingValue(Record, frozen=True, kw_only=True):
    """What a rig's settings file holds for a key the release touches."""

    file: str
    key: str
    value: Any = None


class Machine(Record, frozen=True, kw_only=True):
    """Facts of the machine a rig is on; memory in MiB."""

    system: str = ""
    memory_mib: int | None = None
    runtime_major: int | None = None


class LastStart(Record, frozen=True, kw_only=True):
    """How the game's last start on a rig ended."""

    at: datetime
    outcome: str


class Inventory(Record, frozen=True, kw_only=True):
    """What a rig has. ``without`` are optional entries its owner leaves out, ``taking`` those taken, latest first."""

    release: Digest | None = None
    side: Side = Side.CLIENT
    taken: datetime | None = None
    files: tuple[RigFile, ...] = ()
    keepsakes: tuple[str, ...] = ()
    settings: tuple[SettingValue, ...] = ()
    optional: tuple[Slug, ...] = ()
    without: tuple[Slug, ...] = ()
    taking: tuple[Slug, ...] = ()
    steps_done: tuple[Slug, ...] = ()
    machine: Machine = Machine()
    last_start: LastStart | None = None
