"""The fit table: per game version and loader, how much of a draft has a build there; and what moving there would do."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import reduce

from msgspec.structs import replace

from .edits import AddEntry, Edit, RemoveEntry, SetBuild, SetEnabled, SetGround, SetPin, Several, apply
from .explain import Impossible
from .fit import finished_enough, fits_ground, is_newer, loader_in_words, loader_versions, newest_first
from .model import Build, Catalogue, Entry, Loader, LoaderChoice, Mod, Pack
from .resolve import resolve
from .versions import sort_key


@dataclass(frozen=True, kw_only=True)
class Cell:
    """One ground: which enabled entries have a build there, which do not, and which would take another build.

    ``loader_version`` is the one that would be taken; without it the loader does not load that game version at all.
    """

    game_version: str
    loader: str | None
    loader_version: str | None
    open: bool
    fitting: tuple[str, ...]
    missing: tuple[str, ...]
    changing: tuple[str, ...]
    here: bool


@dataclass(frozen=True, kw_only=True)
class FitTable:
    """All cells, the newest game version first; ``newest_whole`` is the newest ground where every entry has a build."""

    cells: tuple[Cell, ...]
    newest_whole: tuple[str, str | None] | None


@dataclass(frozen=True, kw_only=True)
class Shift:
    """What a move does to one entry; ``by`` takes its place. Versions are None where it is not there."""

    mod: str
    name: str
    old: str | None
    new: str | None
    by: str | None = None
    by_name: str = ""


@dataclass(frozen=True, kw_only=True)
class Move:
    """What moving to another ground would do. ``edit`` is None where even what is left does not fit together."""

    edit: Edit | None
    raised: tuple[Shift, ...]
    lowered: tuple[Shift, ...]
    lost: tuple[Shift, ...]
    replaced: tuple[Shift, ...]
    added: tuple[Shift, ...]
    kept: int
    explanation: tuple[str, ...]


def fit_table(pack: Pack, catalogue: Catalogue) -> FitTable:
    """The table of a draft. A game without loaders has one column."""
    game, mods = catalogue.game(pack.game), catalogue.by_slug(pack.game)
    if game is None:
        return FitTable(cells=(), newest_whole=None)
    entries = [entry for entry in pack.entries if entry.enabled]
    columns = [
        _Column(
            mod=entry.mod,
            own=mods[entry.mod].build(entry.version) if entry.mod in mods else None,
            builds=_finished(mods.get(entry.mod), pack),
        )
        for entry in entries
    ]
    versions = sorted(game.versions, key=lambda v: sort_key(game.version_scheme, v.label), reverse=True)
    cells = tuple(
        _cell(pack, columns, version.label, loader) for version in versions for loader in game.loaders or (None,)
    )
    whole = next(((cell.game_version, cell.loader) for cell in cells if cell.open and not cell.missing), None)
    return FitTable(cells=cells, newest_whole=whole)


@dataclass(frozen=True, kw_only=True)
class _Column:
    """An entry: the build it has now, and all that are finished enough, newest first."""

    mod: str
    own: Build | None
    builds: Sequence[Build]


def _cell(pack: Pack, columns: Sequence[_Column], game_version: str, loader: Loader | None) -> Cell:
    choice = _choice(pack, loader, game_version)
    there = replace(pack, game_version=game_version, loader=choice)
    is_open = loader is None or choice is not None
    fitting: list[_Column] = []
    missing: list[_Column] = []
    for one in columns:
        (fitting if is_open and _first(one.builds, there) else missing).append(one)
    slug = loader.slug if loader else None
    return Cell(
        game_version=game_version,
        loader=slug,
        loader_version=choice.version if choice else None,
        open=is_open,
        fitting=tuple(one.mod for one in fitting),
        missing=tuple(one.mod for one in missing),
        changing=tuple(one.mod for one in fitting if one.own is not None and not fits_ground(one.own, there)),
        here=game_version == pack.game_version and slug == (pack.loader.slug if pack.loader else None),
    )


def _finished(mod: Mod | None, pack: Pack) -> list[Build]:
    """The builds of a mod that are finished enough, newest first."""
    ranked = newest_first(mod) if mod else []
    return [build for build in ranked if build.withdrawn is None and finished_enough(build, pack.channel_floor)]


def _choice(pack: Pack, loader: Loader | None, game_version: str) -> LoaderChoice | None:
    """The loader version for a game version: the pack's own if it loads it, else the best."""
    fitting = loader_versions(loader, game_version) if loader else []
    if loader is None or not fitting:
        return None
    own = pack.loader.version if pack.loader and pack.loader.slug == loader.slug else None
    return LoaderChoice(slug=loader.slug, version=min(fitting, key=lambda version: version.label != own).label)


def _first(builds: Sequence[Build], there: Pack) -> Build | None:
    return next((build for build in builds if fits_ground(build, there)), None)


def preview_move(pack: Pack, catalogue: Catalogue, game_version: str, loader: str | None) -> Move:
    """What moving the draft to a game version and loader would do, as one edit that can be undone.

    An entry without a build there is replaced by a counterpart that the catalogue names and that has one, else turned
    off; what nothing needs then goes. A pin that cannot hold goes.
    """
    return _Moving(pack, catalogue, game_version, loader).move()


@dataclass
class _Moving:
    """A move while it is worked out: first what has no build there, then what the solver makes of the rest."""

    pack: Pack
    catalogue: Catalogue
    game_version: str
    loader: str | None
    edits: list[Edit] = field(default_factory=list)
    raised: list[Shift] = field(default_factory=list)
    lowered: list[Shift] = field(default_factory=list)
    lost: list[Shift] = field(default_factory=list)
    replaced: list[Shift] = field(default_factory=list)
    added: list[Shift] = field(default_factory=list)
    kept: int = 0

    def __post_init__(self) -> None:
        self.mods = self.catalogue.by_slug(self.pack.game)
        game = self.catalogue.game(self.pack.game)
        loader = game.loader(self.loader) if game and self.loader else None
        choice = _choice(self.pack, loader, self.game_version)
        if choice is None and self.loader:
            choice = LoaderChoice(slug=self.loader)
        self.named = f" with {loader_in_words(game, choice)}" if choice else ""
        self.there = replace(self.pack, game_version=self.game_version, loader=choice)

    def move(self) -> Move:
        floor = self.pack.channel_floor
        self.edits.append(SetGround(game_version=self.game_version, loader=self.there.loader, channel_floor=floor))
        for entry in self.pack.entries:
            if entry.enabled:
                self.take_along(entry)
        trial = reduce(apply, self.edits, self.pack)
        answer = resolve(trial, self.catalogue)
        if isinstance(answer, Impossible):
            return self.told(None, answer.explanation)
        for entry in trial.entries:
            if entry.enabled:
                self.settle(entry, answer.builds.get(entry.mod))
        for slug in answer.added:
            self.bring(slug, answer.builds[slug], trial.entry(slug))
        label = f"moved to game version {self.game_version}{self.named}"
        return self.told(Several(edits=tuple(self.edits), label=label), ())

    def take_along(self, entry: Entry) -> None:
        mod = self.mods.get(entry.mod)
        if _first(_finished(mod, self.pack), self.there) is not None:
            held = mod.build(entry.version) if mod else None
            if entry.pin and (held is None or not fits_ground(held, self.there)):
                self.edits.append(SetPin(mod=entry.mod, pin=None))
            return
        other = self.counterpart(mod) if entry.chosen else None
        if other is None:
            self.lost.append(self.shift(entry, None))
            self.edits.append(SetEnabled(mod=entry.mod, enabled=False))
            return
        slug, version = other
        self.replaced.append(self.shift(entry, version, by=slug))
        self.edits.append(RemoveEntry(mod=entry.mod))
        if self.pack.entry(slug) is None and all(shift.by != slug for shift in self.replaced[:-1]):
            self.edits.append(AddEntry(mod=slug, version=version))

    def counterpart(self, mod: Mod | None) -> tuple[str, str] | None:
        for slug in mod.counterparts if mod else ():
            build = _first(_finished(self.mods.get(slug), self.pack), self.there)
            if build is not None:
                return slug, build.version
        return None

    def settle(self, entry: Entry, new: str | None) -> None:
        if new is None:
            # It came along with something that is lost.
            self.edits.append(RemoveEntry(mod=entry.mod))
            self.lost.append(self.shift(entry, None))
        elif entry.version is None or new == entry.version:
            self.kept += 1
        else:
            newer = is_newer(self.mods[entry.mod], new, entry.version)
            (self.raised if newer else self.lowered).append(self.shift(entry, new))
            self.edits.append(SetBuild(mod=entry.mod, version=new))

    def bring(self, slug: str, version: str, off: Entry | None) -> None:
        self.added.append(Shift(mod=slug, name=self.mods[slug].name, old=None, new=version))
        if off is None:
            self.edits.append(AddEntry(mod=slug, version=version, chosen=False))
        else:
            self.edits += [SetEnabled(mod=slug, enabled=True), SetPin(mod=slug, pin=None)]
            self.edits.append(SetBuild(mod=slug, version=version))

    def shift(self, entry: Entry, new: str | None, by: str | None = None) -> Shift:
        name = self.mods[entry.mod].name if entry.mod in self.mods else entry.mod
        return Shift(
            mod=entry.mod, name=name, old=entry.version, new=new, by=by, by_name=self.mods[by].name if by else ""
        )

    def told(self, edit: Edit | None, explanation: tuple[str, ...]) -> Move:
        lists = {name: tuple(getattr(self, name)) for name in ("raised", "lowered", "lost", "replaced", "added")}
        return Move(edit=edit, kept=self.kept, explanation=explanation, **lists)
