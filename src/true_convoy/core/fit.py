"""Whether a build suits a pack's ground, always with the reason."""

import enum
from collections.abc import Iterable
from dataclasses import dataclass

from .model import (
    Build,
    Channel,
    Game,
    Loader,
    LoaderChoice,
    LoaderVersion,
    Mod,
    Outdated,
    Pack,
    PackBase,
)
from .ranges import in_range, in_words
from .versions import build_order, sort_key

_FINISHED = {Channel.STABLE: 0, Channel.BETA: 1, Channel.ALPHA: 2}


class Misfit(enum.StrEnum):
    """Why a build does not suit the ground."""

    GAME_VERSION = "game-version"
    LOADER = "loader"
    LOADER_VERSION = "loader-version"
    CHANNEL = "channel"


@dataclass(frozen=True, kw_only=True)
class Fit:
    """The answer for one build: no misfit means it fits."""

    misfit: Misfit | None
    build: Build
    pack: PackBase
    game: Game | None = None

    def __bool__(self) -> bool:
        return self.misfit is None

    @property
    def reason(self) -> str:
        """Why, as a sentence without its subject and full stop. Loaders have their names where the game is known."""
        build, pack = self.build, self.pack
        match self.misfit:
            case None:
                return "fits"
            case Misfit.GAME_VERSION:
                return f"is for game version {in_words(build.game_versions)}, the pack is on {pack.game_version}"
            case Misfit.LOADER:
                named = " or ".join(loader_name(self.game, slug) for slug in build.loaders)
                own = loader_name(self.game, pack.loader.slug) if pack.loader else "no loader"
                return f"is for {named}, the pack uses {own}"
            case Misfit.LOADER_VERSION:
                own = loader_name(self.game, pack.loader.slug) if pack.loader else ""
                has = pack.loader.version if pack.loader else None
                return f"needs {own} {in_words(build.loader_versions)}, the pack has {has}"
            case Misfit.CHANNEL:
                return f"is {build.channel}, the pack takes {pack.channel_floor} or better"


def fits_ground(build: Build, pack: PackBase, game: Game | None = None) -> Fit:
    """Whether a build runs on the pack's game version, loader and loader version."""
    return Fit(misfit=_ground_misfit(build, pack), build=build, pack=pack, game=game)


def fits(build: Build, pack: PackBase, game: Game | None = None) -> Fit:
    """Whether a build suits the ground and is finished enough for the pack's channel floor."""
    misfit = _ground_misfit(build, pack)
    if misfit is None and not finished_enough(build, pack.channel_floor):
        misfit = Misfit.CHANNEL
    return Fit(misfit=misfit, build=build, pack=pack, game=game)


def suits(build: Build, pack: PackBase) -> bool:
    """The same as ``fits`` where nobody asks for the reason; thousands of builds are asked."""
    return _ground_misfit(build, pack) is None and finished_enough(build, pack.channel_floor)


def finished_enough(build: Build, floor: Channel) -> bool:
    """Whether a build's channel is the floor or better."""
    return _FINISHED[build.channel] <= _FINISHED[floor]


def _ground_misfit(build: Build, pack: PackBase) -> Misfit | None:
    if not in_range(build.game_versions, pack.game_version):
        return Misfit.GAME_VERSION
    return _loader_misfit(build, pack)


def _loader_misfit(build: Build, pack: PackBase) -> Misfit | None:
    loader = pack.loader
    if build.loaders and (loader is None or loader.slug not in build.loaders):
        return Misfit.LOADER
    if loader is not None and loader.version is not None and not in_range(build.loader_versions, loader.version):
        return Misfit.LOADER_VERSION
    return None


def usually_runs(build: Build, pack: PackBase, game: Game | None) -> bool:
    """Whether a build misses the ground only by its mark for an older version of a game that is lenient there."""
    if game is None or game.outdated is not Outdated.USUALLY_RUNS or _loader_misfit(build, pack):
        return False
    now = sort_key(game.version_scheme, pack.game_version)
    older = (version.label for version in game.versions if sort_key(game.version_scheme, version.label) < now)
    return not in_range(build.game_versions, pack.game_version) and any(
        in_range(build.game_versions, label) for label in older
    )


def loader_name(game: Game | None, slug: str) -> str:
    """What people call a loader."""
    loader = game.loader(slug) if game else None
    return loader.name if loader else slug


def loader_in_words(game: Game | None, choice: LoaderChoice) -> str:
    """A loader with its version."""
    return f"{loader_name(game, choice.slug)} {choice.version or ''}".rstrip()


def loader_versions(loader: Loader, game_version: str) -> list[LoaderVersion]:
    """The versions of a loader that load a game version: recommended ones first, then the last of its list."""
    found = [version for version in loader.versions if in_range(version.game_versions, game_version)]
    return sorted(found, key=lambda version: (not version.recommended, -found.index(version)))


def is_newer(mod: Mod, version: str, than: str) -> bool:
    """Whether a version of a mod comes after another in the total order of its builds."""
    one, two = mod.build(version), mod.build(than)
    return build_order(mod.version_scheme, version, one.published if one else None) > build_order(
        mod.version_scheme, than, two.published if two else None
    )


def newest_first(mod: Mod) -> list[Build]:
    """All builds of a mod, newest first, in the total order of versions."""
    return sorted(mod.builds, key=lambda b: build_order(mod.version_scheme, b.version, b.published), reverse=True)


def newest_fitting(mod: Mod, pack: PackBase) -> Build | None:
    """The newest build that suits the pack and was not withdrawn, if any."""
    return next((build for build in newest_first(mod) if build.withdrawn is None and suits(build, pack)), None)


def nearest(mod: Mod, pack: Pack, game: Game | None = None) -> tuple[Build, Fit] | None:
    """For a mod without a fitting build: the newest build whose misfit is the smallest, with its reason."""
    order = [Misfit.CHANNEL, Misfit.LOADER_VERSION, Misfit.GAME_VERSION, Misfit.LOADER]
    judged: Iterable[tuple[Build, Fit]] = ((build, fits(build, pack, game)) for build in newest_first(mod))
    misfits = [(build, fit) for build, fit in judged if fit.misfit is not None]

    def distance(pair: tuple[Build, Fit]) -> int:
        # A build for another game version and another loader is further off than one for another loader alone.
        loader_too = pair[1].misfit is Misfit.GAME_VERSION and _loader_misfit(pair[0], pack) is Misfit.LOADER
        return len(order) if loader_too else order.index(pair[1].misfit or Misfit.LOADER)

    return min(misfits, key=distance, default=None)
