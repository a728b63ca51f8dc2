"""Which grounds a mod has a build for, as short texts that can be kept beside it and compared in thousands.

A ground's key is ``game version|loader|loader version|letter``, the last two parts empty where there are none. The
letter says how finished the best build there is: ``s``, ``b`` or ``a`` for stable, beta and alpha; ``o`` where there is
only one that is marked for an older game version, in a game that usually runs those.
"""

from collections.abc import Iterable

from msgspec.structs import replace

from true_convoy.core.fit import finished_enough, fits_ground, usually_runs
from true_convoy.core.model import Build, Channel, Game, LoaderChoice, PackBase
from true_convoy.core.ranges import in_range

_LETTERS = {Channel.STABLE: "s", Channel.BETA: "b", Channel.ALPHA: "a"}


def every_ground(game: Game) -> list[PackBase]:
    """All grounds a game offers: each version with no loader, each loader of any version, and each that loads it."""
    found = []
    for version in game.versions:
        bare = PackBase(slug="x", name="x", game=game.slug, game_version=version.label)
        found.append(bare)
        for loader in game.loaders:
            found.append(replace(bare, loader=LoaderChoice(slug=loader.slug)))
            found += [
                replace(bare, loader=LoaderChoice(slug=loader.slug, version=one.label))
                for one in loader.versions
                if in_range(one.game_versions, version.label)
            ]
    return found


def ground_key(pack: PackBase) -> str:
    """A ground without its letter."""
    loader = pack.loader
    return f"{pack.game_version}|{loader.slug if loader else ''}|{(loader.version if loader else None) or ''}"


def grounds_of(builds: Iterable[Build], game: Game, grounds: Iterable[PackBase]) -> list[str]:
    """The keys of the grounds that some build, not withdrawn, is for."""
    offered = [build for build in builds if build.withdrawn is None]
    found = []
    for ground in grounds:
        there = [build for build in offered if fits_ground(build, ground)]
        letter = next((_LETTERS[c] for c in Channel if any(finished_enough(build, c) for build in there)), "")
        if not letter and any(usually_runs(build, ground, game) for build in offered):
            letter = "o"
        if letter:
            found.append(f"{ground_key(ground)}|{letter}")
    return found


def keys_for(pack: PackBase) -> list[str]:
    """The keys that say a mod has something for a draft: its ground with every letter its channel floor allows."""
    letters = {Channel.STABLE: "s", Channel.BETA: "sb", Channel.ALPHA: "sba"}[pack.channel_floor]
    return [f"{ground_key(pack)}|{letter}" for letter in f"{letters}o"]
