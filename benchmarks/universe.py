"""Generated universes of mods: deep chains, wide fans, unsatisfiable cores, and a whole large catalogue.

Everything follows from a seed. Each mod has one *kept* version; ranges between kept versions always hold, ranges from
other versions hold by chance, so that an answer exists and finding it takes more than taking the newest of each.
"""

import random
from collections.abc import Iterator
from dataclasses import dataclass

from true_convoy.core.model import Build, BuildFile, Catalogue, Entry, Game, GameVersion, Mod, Pack, Requires

GAME = Game(slug="g", name="G", versions=(GameVersion(label="1"), GameVersion(label="2")))
FILE = BuildFile(name="f.zip", size=1, sha256="0" * 64, url="http://127.0.0.1/f.zip")


@dataclass(frozen=True, kw_only=True)
class Universe:
    """A catalogue and the pack to resolve in it."""

    name: str
    catalogue: Catalogue
    pack: Pack
    possible: bool = True


def pack_of(slugs: list[str]) -> Pack:
    """A pack of chosen entries at any build."""
    return Pack(slug="p", name="P", game="g", game_version="1", entries=tuple(Entry(mod=slug) for slug in slugs))


def _version(number: int) -> str:
    return f"{number // 5 + 1}.{number % 5}.0"


def _range(chance: random.Random, builds: int, must_hold: int | None) -> str | None:
    """A range over versions; it holds ``must_hold`` where that is given."""
    if chance.random() < 0.2:
        return None
    low = chance.randrange(builds) if must_hold is None else chance.randrange(must_hold + 1)
    high = chance.randrange(low, builds) if must_hold is None else chance.randrange(must_hold, builds)
    style = chance.random()
    if style < 0.5:
        return f"vers:semver/>={_version(low)}"
    if style < 0.75:
        return f"vers:semver/>={_version(low)}|<={_version(high)}"
    return f"vers:semver/<={_version(high)}"


def mods_in_layers(chance: random.Random, layers: list[int], builds: int, needs: tuple[int, int]) -> list[Mod]:
    """Mods in layers; each build needs some mods of the layers below, mostly of the next one."""
    names = [[f"l{depth}-{number}" for number in range(width)] for depth, width in enumerate(layers)]
    kept = {slug: chance.randrange(builds // 3, builds) for layer in names for slug in layer}
    made = []
    for depth, layer in enumerate(names):
        below = names[depth + 1 :]
        for slug in layer:
            wanted: list[str] = []
            if below:
                pool = below[0] if chance.random() < 0.8 else chance.choice(below)
                wanted = chance.sample(pool, min(len(pool), chance.randint(*needs)))
            made.append(Mod(slug=slug, game="g", name=slug, builds=tuple(_builds(chance, slug, wanted, kept, builds))))
    return made


def _builds(chance: random.Random, slug: str, wanted: list[str], kept: dict[str, int], builds: int) -> Iterator[Build]:
    for number in range(builds):
        relations = []
        for other in wanted:
            holds = kept[other] if number == kept[slug] or chance.random() < 0.9 else None
            relations.append(Requires(mod=other, versions=_range(chance, builds, holds)))
        yield Build(version=_version(number), file=FILE, relations=tuple(relations))


def chains(roots: int, seed: int = 1) -> Universe:
    """Roots over forty layers of libraries."""
    chance = random.Random(seed)
    mods = mods_in_layers(chance, [roots, *[max(roots // 4, 10)] * 40], 12, (1, 2))
    return Universe(name=f"deep chains, {roots} roots", catalogue=_catalogue(mods), pack=_top(mods, roots))


def fans(roots: int, seed: int = 2) -> Universe:
    """Roots that each need many of few libraries."""
    chance = random.Random(seed)
    mods = mods_in_layers(chance, [roots, 60, 20], 20, (3, 8))
    return Universe(name=f"wide fans, {roots} roots", catalogue=_catalogue(mods), pack=_top(mods, roots))


def cores(roots: int, seed: int = 3) -> Universe:
    """Chains in which the last two roots need builds of one library that no version is both of."""
    made = chains(roots, seed)
    deep = [mod.slug for mod in made.catalogue.mods if mod.slug.startswith("l1-")][:1]
    above = Mod(slug="high", game="g", name="high", builds=(_needing(deep[0], f"vers:semver/>{_version(6)}"),))
    below = Mod(slug="low", game="g", name="low", builds=(_needing(deep[0], f"vers:semver/<={_version(6)}"),))
    pack = pack_of([*(entry.mod for entry in made.pack.entries), "high", "low"])
    catalogue = _catalogue([*made.catalogue.mods, above, below])
    return Universe(name=f"unsatisfiable core, {roots} roots", catalogue=catalogue, pack=pack, possible=False)


def _needing(slug: str, versions: str) -> Build:
    return Build(version="1.0.0", file=FILE, relations=(Requires(mod=slug, versions=versions),))


def _catalogue(mods: list[Mod]) -> Catalogue:
    return Catalogue(games=(GAME,), mods=tuple(mods))


def _top(mods: list[Mod], roots: int) -> Pack:
    return pack_of([mod.slug for mod in mods[:roots]])
