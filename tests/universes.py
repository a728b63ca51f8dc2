"""Random small catalogues and packs, and a brute-force judge of what a resolution promises."""

import hashlib
from itertools import product

from hypothesis import strategies as st
from msgspec.structs import replace

from true_convoy.core.fit import fits, fits_ground
from true_convoy.core.model import (
    Build,
    BuildFile,
    Bundles,
    Catalogue,
    Channel,
    Clashes,
    Entry,
    Game,
    GameVersion,
    Mod,
    Need,
    Pack,
    Pin,
    Requires,
    Sides,
    Target,
)
from true_convoy.core.ranges import in_range

SLUGS = ["ash", "birch", "cedar", "date", "elm"]
VERSIONS = ["1.0.0", "2.0.0", "3.0.0"]
GAME = Game(slug="g", name="G", versions=(GameVersion(label="1"), GameVersion(label="2")))
RANGES = [None, "vers:semver/>=2.0.0", "vers:semver/<2.0.0", "vers:semver/>=1.0.0|<3.0.0", "vers:semver/=3.0.0"]
SIDES = [
    Sides(),
    Sides(client=Need.REQUIRED, server=Need.UNSUPPORTED),
    Sides(client=Need.UNSUPPORTED, server=Need.REQUIRED),
]


def build(version: str, *relations, game_versions=None, channel=Channel.STABLE, **more) -> Build:
    file = BuildFile(
        name=f"{version}.zip", size=10, sha256=hashlib.sha256(version.encode()).hexdigest(), url="http://x/"
    )
    given = {"game_versions": game_versions, "channel": channel, "file": file} | more
    return Build(version=version, relations=tuple(relations), **given)


def mod(slug: str, *builds: Build, **more) -> Mod:
    return Mod(slug=slug, game="g", name=slug.replace("-", " ").title(), builds=builds, **more)


def catalogue(*mods: Mod) -> Catalogue:
    return Catalogue(games=(GAME,), mods=mods)


def pack(*entries: Entry | str, **more) -> Pack:
    made = tuple(Entry(mod=entry) if isinstance(entry, str) else entry for entry in entries)
    return Pack(**{"slug": "p", "name": "P", "game": "g", "game_version": "1", "entries": made} | more)


_targets = st.builds(Target, mod=st.sampled_from(SLUGS), versions=st.sampled_from(RANGES))
_relations = st.one_of(
    _targets.map(lambda target: Requires(mod=target.mod, versions=target.versions)),
    st.lists(_targets, min_size=1, max_size=3).map(lambda targets: Requires(any=tuple(targets))),
    _targets.map(lambda target: Clashes(mod=target.mod, versions=target.versions)),
    st.builds(Bundles, mod=st.sampled_from(SLUGS), version=st.sampled_from(VERSIONS)),
)


@st.composite
def _mods(draw, slug: str) -> Mod:
    versions = draw(st.lists(st.sampled_from(VERSIONS), unique=True, max_size=3))
    builds = [
        build(
            version,
            *draw(st.lists(_relations, max_size=3)),
            game_versions=draw(st.sampled_from([None, None, None, "vers:generic/>=2"])),
            channel=draw(st.sampled_from([Channel.STABLE, Channel.STABLE, Channel.BETA])),
        )
        for version in versions
    ]
    return mod(slug, *builds, sides=draw(st.sampled_from([SIDES[0], *SIDES])), installs=draw(st.integers(0, 3)))


@st.composite
def questions(draw) -> tuple[Catalogue, Pack]:
    """A catalogue of five mods with up to three builds each, and a pack over them."""
    universe = catalogue(*[draw(_mods(slug)) for slug in SLUGS])
    entries = []
    for slug in draw(st.lists(st.sampled_from(SLUGS), unique=True, min_size=1, max_size=4)):
        version = draw(st.sampled_from([None, *VERSIONS]))
        pin = draw(st.sampled_from([None, None, None, Pin(reason="held")])) if version else None
        chosen, enabled = draw(st.sampled_from([True, True, False])), draw(st.sampled_from([True, True, True, False]))
        entries.append(Entry(mod=slug, version=version, pin=pin, chosen=chosen, enabled=enabled))
    floor = draw(st.sampled_from([Channel.STABLE, Channel.BETA]))
    return universe, pack(*entries, channel_floor=floor)


class Judge:
    """Says by the letter of docs/formats whether a choice of builds is sound, and finds all sound ones by trying."""

    def __init__(self, universe: Catalogue, question: Pack) -> None:
        self.mods = universe.by_slug("g")
        self.pack = question
        self.entries = {entry.mod: entry for entry in question.entries if entry.enabled}
        self.roots = {slug for slug, entry in self.entries.items() if entry.chosen or entry.pin}

    def allowed(self, slug: str) -> list[str]:
        entry = self.entries.get(slug)
        if entry is not None and entry.pin is not None and entry.version is not None:
            return [
                b.version for b in self.mods[slug].builds if b.version == entry.version and fits_ground(b, self.pack)
            ]
        return [b.version for b in self.mods[slug].builds if fits(b, self.pack)]

    def sound(self, choice: dict[str, str]) -> bool:
        if not self.roots <= choice.keys():
            return False
        if any(version not in self.allowed(slug) for slug, version in choice.items()):
            return False
        return all(self._holds(slug, relation, choice) for slug in choice for relation in self._relations(slug, choice))

    def _relations(self, slug: str, choice: dict[str, str]):
        return self.mods[slug].build(choice[slug]).relations

    def _holds(self, slug: str, relation, choice: dict[str, str]) -> bool:
        if isinstance(relation, Clashes):
            other = choice.get(relation.mod)
            return relation.mod == slug or other is None or not in_range(relation.versions, other)
        if isinstance(relation, Requires):
            return any(self.meets(slug, target, choice) for target in relation.targets)
        return True

    def meets(self, slug: str, target: Target, choice: dict[str, str]) -> set[str]:
        """The chosen mods that meet a requirement of ``slug``."""
        found = set()
        for other, version in choice.items():
            if not self._meet(slug, other):
                continue
            if other == target.mod and in_range(target.versions, version):
                found.add(other)
            for relation in self._relations(other, choice):
                carried = isinstance(relation, Bundles) and relation.mod == target.mod
                if carried and in_range(target.versions, relation.version):
                    found.add(other)
        return found

    def _meet(self, one: str, other: str) -> bool:
        a, b = self.mods[one].sides, self.mods[other].sides
        return any("unsupported" not in (getattr(a, side), getattr(b, side)) for side in ("client", "server"))

    def needed(self, choice: dict[str, str]) -> set[str]:
        reached, queue = set(self.roots), sorted(self.roots)
        while queue:
            slug = queue.pop()
            for relation in self._relations(slug, choice):
                if isinstance(relation, Requires):
                    for target in relation.targets:
                        new = self.meets(slug, target, choice) - reached
                        reached |= new
                        queue += sorted(new)
        return reached

    def all_sound(self):
        for versions in product(*[[None, *self.allowed(slug)] for slug in sorted(self.mods)]):
            choice = {slug: v for slug, v in zip(sorted(self.mods), versions, strict=True) if v is not None}
            if self.sound(choice):
                yield choice


def shuffled(value, random):
    """The same catalogue or pack with all its lists in another order."""
    if isinstance(value, Pack):
        return replace(value, entries=tuple(random.sample(value.entries, len(value.entries))))
    mods = [
        replace(
            m,
            builds=tuple(
                replace(b, relations=tuple(random.sample(b.relations, len(b.relations))))
                for b in random.sample(m.builds, len(m.builds))
            ),
        )
        for m in value.mods
    ]
    return replace(value, mods=tuple(random.sample(mods, len(mods))))
