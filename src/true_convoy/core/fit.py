"""Whether a build suits a pack's ground, always with the reason."""

import enum
from collections.abc import Iterable
from dataclasses import dataclass

from .model import Build, Channel, Mod, Pack, PackBase
from .ranges import in_range, in_words
from .versions import build_order

_FINISHED = {Channel.STABLE: 0, Channel.BETA: 1, Channel.ALPHA: 2}


class Misfit(enum.StrEnum):
    """Why a build does not suit the ground."""

    GAME_VERSION = "game-version"
    LOADER = "loader"
    LOADER_VERSION = "loader-version"
    CHANNEL = "channel"


@dataclass(frozen=True, kw_only=True)
class Fit:
    """The answer for one build: no misfit means it fits; ``reason`` is a sentence without its full stop."""

    misfit: Misfit | None
    reason: str

    def __bool__(self) -> bool:
        return self.misfit is None


FITS = Fit(misfit=None, reason="fits")


def fits_ground(build: Build, pack: PackBase) -> Fit:
    """Whether a build runs on the pack's game version, loader and loader version."""
    if not in_range(build.game_versions, pack.game_version):
        reason = f"is for game version {in_words(build.game_versions)}, the pack is on {pack.game_version}"
        return Fit(misfit=Misfit.GAME_VERSION, reason=reason)
    loader = pack.loader
    if build.loaders and (loader is None or loader.slug not in build.loaders):
        other = f"the pack uses {loader.slug}" if loader else "the pack uses no loader"
        return Fit(misfit=Misfit.LOADER, reason=f"is for {' or '.join(build.loaders)}, {other}")
    if loader is not None and loader.version is not None and not in_range(build.loader_versions, loader.version):
        reason = f"needs {loader.slug} {in_words(build.loader_versions)}, the pack has {loader.version}"
        return Fit(misfit=Misfit.LOADER_VERSION, reason=reason)
    return FITS


def fits(build: Build, pack: PackBase) -> Fit:
    """Whether a build suits the ground and is finished enough for the pack's channel floor."""
    ground = fits_ground(build, pack)
    if ground and _FINISHED[build.channel] > _FINISHED[pack.channel_floor]:
        return Fit(misfit=Misfit.CHANNEL, reason=f"is {build.channel}, the pack takes {pack.channel_floor} or better")
    return ground


def newest_first(mod: Mod) -> list[Build]:
    """All builds of a mod, newest first, in the total order of versions."""
    return sorted(mod.builds, key=lambda b: build_order(mod.version_scheme, b.version, b.published), reverse=True)


def newest_fitting(mod: Mod, pack: Pack) -> Build | None:
    """The newest build that suits the pack, if any."""
    return next((build for build in newest_first(mod) if fits(build, pack)), None)


def nearest(mod: Mod, pack: Pack) -> tuple[Build, Fit] | None:
    """For a mod without a fitting build: the newest build whose misfit is the smallest, with its reason."""
    order = [Misfit.CHANNEL, Misfit.LOADER_VERSION, Misfit.GAME_VERSION, Misfit.LOADER]
    judged: Iterable[tuple[Build, Fit]] = ((build, fits(build, pack)) for build in newest_first(mod))
    misfits = [(build, fit) for build, fit in judged if fit.misfit is not None]
    return min(misfits, key=lambda pair: order.index(pair[1].misfit or Misfit.LOADER), default=None)
