"""A pack and a catalogue as the solver sees them.

What the solver is told, in the order of the code:

1. Enabled entries that were chosen, and pinned ones, must be there; entries that are off are ignored.
2. A mod's candidates are its builds that suit the ground and the channel floor; a pinned entry has one candidate. A
   build its author withdrew is one only where the draft has it. In a game where outdated marks need not mean broken,
   so is the build an entry has, and any build of a mod that has no other.
   Calm, the present version comes first and then the newest; with ``newest`` always the newest first.
3. A requirement is met by a chosen build in range, or by a chosen build that bundles one in range; not by a mod that
   shares no side with the one that asks.
4. Builds that clash are not together, whichever of the two says so.
"""

from collections.abc import Container, Iterator, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from typing import NamedTuple

from .fit import fits_ground, newest_first, suits, usually_runs
from .model import Build, Bundles, Catalogue, Clashes, Entry, Game, Mod, Pack, Requires, Side, Sides, Target
from .ranges import in_range, parse_range
from .solver import Rule, Term, avoid, bit, need
from .versions import sort_key


class Root(NamedTuple):
    """A rule is there because an entry is in the draft."""

    slug: str


class Asking(NamedTuple):
    """A rule is there because the builds of a mod at these bits need one of the targets."""

    slug: str
    bits: int
    targets: tuple[Target, ...]


class Clashing(NamedTuple):
    """A rule is there because the builds of a mod at these bits clash with another mod in a range."""

    slug: str
    bits: int
    other: str
    versions: str | None
    why: str


Cause = Root | Asking | Clashing
Said = tuple[Target, ...] | Clashes
"""What a build says that rules follow from: the ways to meet a requirement, or a clash."""


@dataclass
class PackProvider:
    """Presents a pack and a catalogue to the solver; names are mod slugs. ``adding`` are entries about to be added."""

    pack: Pack
    catalogue: Catalogue
    newest: bool = False
    adding: Container[str] = ()
    merging: bool = True
    mods: dict[str, Mod] = field(init=False)
    game: Game | None = field(init=False)
    entries: dict[str, Entry] = field(init=False)
    bundlers: dict[str, list[str]] = field(init=False)
    _candidates: dict[str, list[Build]] = field(init=False, default_factory=dict)
    _masks: dict[tuple[str, str | None], int] = field(init=False, default_factory=dict)
    _sides: dict[str, int] = field(init=False, default_factory=dict)
    _said: dict[str, tuple[list[dict[Said, None]], dict[Said, int]]] = field(init=False, default_factory=dict)
    _rules: dict[tuple[str, Said], Rule[Cause] | None] = field(init=False, default_factory=dict)

    def __post_init__(self) -> None:
        self.mods = self.catalogue.by_slug(self.pack.game)
        self.game = self.catalogue.game(self.pack.game)
        self.entries = {entry.mod: entry for entry in self.pack.entries if entry.enabled}
        self.bundlers = {}
        for slug in sorted(self.mods):
            for build in self.mods[slug].builds:
                for relation in build.relations:
                    if type(relation) is Bundles and slug not in self.bundlers.setdefault(relation.mod, []):
                        self.bundlers[relation.mod].append(slug)

    # --- what the engine asks ----------------------------------------------------------------------------------

    def count(self, name: str) -> int:
        """How many builds of a mod may be chosen."""
        return len(self.candidates(name))

    def roots(self) -> Iterator[Rule[Cause]]:
        """The enabled entries that were chosen or pinned."""
        for slug in sorted(self.entries):
            entry = self.entries[slug]
            if entry.chosen or entry.pin is not None:
                yield need(None, [(slug, self.mask(slug, None))], Root(slug))

    def rules(self, name: str, index: int) -> Iterator[Rule[Cause]]:
        """What a build of a mod requires, and what it clashes with; what several builds say alike is one rule.

        The first candidate is mostly the one that stays. Until another of its mod is looked at, only that is read,
        unless somebody wants to be told in few words why all of them are impossible (``merging``).
        """
        if index == 0 and name not in self._said and not self.merging:
            (mine,), _ = _said_alike(self.candidates(name)[:1])
            for said in sorted(mine, key=_said_key):
                rule = self._rule(name, said, bit(0))
                if rule is not None:
                    yield rule
            return
        if name not in self._said:
            self._said[name] = _said_alike(self.candidates(name))
        per_build, bits = self._said[name]
        mine = per_build[index]
        for said in sorted(mine, key=_said_key) if len(mine) > 1 else mine:
            if (name, said) not in self._rules:
                self._rules[name, said] = self._rule(name, said, bits[said])
            rule = self._rules[name, said]
            if rule is not None:
                yield rule

    # --- candidates --------------------------------------------------------------------------------------------

    def candidates(self, slug: str) -> list[Build]:
        """The builds of a mod that may be chosen, best first."""
        if slug not in self._candidates:
            self._candidates[slug] = self._find_candidates(slug)
        return self._candidates[slug]

    def _find_candidates(self, slug: str) -> list[Build]:
        mod, entry = self.mods.get(slug), self.entries.get(slug)
        if mod is None:
            return []
        now = entry.version if entry is not None else None
        if self.pinned(slug):
            return [build for build in mod.builds if build.version == now and self._runs(build)]
        ranked = newest_first(mod)
        found = [
            build for build in ranked if suits(build, self.pack) and (build.withdrawn is None or build.version == now)
        ]
        lenient = [build for build in ranked if (build.version == now or not found) and self._usually_runs(build)]
        found += [build for build in lenient if build not in found]
        if not self.newest and now is not None:
            found.sort(key=lambda build: build.version != now)
        return found

    def present(self, slug: str) -> Build | None:
        """The build an entry has, if it may be chosen as it is; None also where the entry takes any build."""
        mod, entry = self.mods.get(slug), self.entries.get(slug)
        build = mod.build(entry.version) if mod is not None and entry is not None else None
        if build is None or not (suits(build, self.pack) or (self.pinned(slug) and self._runs(build))):
            return build if build is not None and self._usually_runs(build) else None
        return build

    def best(self, slug: str) -> Build | None:
        """The best build of a mod, if it has one that may be chosen."""
        return next(iter(self.candidates(slug)), None)

    def lacking(self, slug: str, relation: Requires) -> tuple[str, ...]:
        """The one mod whose best build would meet a requirement that nothing in the pack meets; empty with a choice."""
        (target, *others) = relation.targets
        best = self.best(target.mod) if not others and target.mod not in self.entries else None
        if best is None or target.mod in self.bundlers or target.mod == slug or not self.share_a_side(slug, target.mod):
            return ()
        return (target.mod,) if in_range(target.versions, best.version) else ()

    def meeting(self, slug: str, relation: Requires) -> tuple[str, ...]:
        """The entries that meet a requirement with the builds they have, by themselves or by what they bundle."""
        found = []
        for target in relation.targets:
            for other in (target.mod, *self.bundlers.get(target.mod, ())):
                build = self.present(other) if other in self.entries else None
                if build is None or not self.share_a_side(slug, other):
                    continue
                if in_range(target.versions, build.version) if other == target.mod else bundles(build, target):
                    found.append(other)
        return tuple(dict.fromkeys(found))

    def _runs(self, build: Build) -> bool:
        return bool(fits_ground(build, self.pack)) or self._usually_runs(build)

    def _usually_runs(self, build: Build) -> bool:
        return usually_runs(build, self.pack, self.game)

    def mask(self, slug: str, versions: str | None) -> int:
        """The bits of a mod's candidates in a range."""
        if (slug, versions) not in self._masks:
            self._masks[slug, versions] = self._find_mask(slug, versions)
        return self._masks[slug, versions]

    def _find_mask(self, slug: str, versions: str | None) -> int:
        if versions is None:
            return (1 << (self.count(slug) + 1)) - 2
        asked, mask = parse_range(versions), 0
        for index, build in enumerate(self.candidates(slug)):
            if asked.holds(sort_key(asked.scheme, build.version)):
                mask |= bit(index)
        return mask

    def pinned(self, slug: str) -> bool:
        """Whether an entry of the pack holds a mod at one version."""
        entry = self.entries.get(slug)
        return entry is not None and entry.pin is not None and entry.version is not None

    def sides(self, slug: str) -> Sides:
        """The sides of a mod as the pack has it."""
        entry = self.entries.get(slug)
        return entry.sides if entry is not None and entry.sides is not None else self.mods[slug].sides

    def share_a_side(self, one: str, other: str) -> bool:
        """Whether two mods are ever in the same half of the game."""
        return self._side_bits(one) & self._side_bits(other) != 0

    def _side_bits(self, slug: str) -> int:
        if slug not in self._sides:
            sides = self.sides(slug)
            self._sides[slug] = sides.on(Side.CLIENT) + 2 * sides.on(Side.SERVER)
        return self._sides[slug]

    # --- rules -------------------------------------------------------------------------------------------------

    def _rule(self, slug: str, said: Said, bits: int) -> Rule[Cause] | None:
        if not isinstance(said, Clashes):
            return need((slug, bits), self.options(slug, said), Asking(slug, bits, said))
        mask = self.mask(said.mod, said.versions) if said.mod in self.mods and said.mod != slug else 0
        if not mask:
            return None
        return avoid((slug, bits), (said.mod, mask), Clashing(slug, bits, said.mod, said.versions, said.reason))

    def options(self, slug: str, targets: Sequence[Target]) -> list[Term]:
        """What meets a requirement: entries of the pack first, then by installs; bundling builds last."""
        if len(targets) > 1:
            targets = sorted(targets, key=self._preference)
        found: list[Term] = []
        for target in targets:
            if target.mod in self.mods and self.share_a_side(slug, target.mod):
                found.append((target.mod, self.mask(target.mod, target.versions)))
        for target in targets:
            for bundler in self.bundlers.get(target.mod, ()):
                mask = sum(bit(i) for i, b in enumerate(self.candidates(bundler)) if bundles(b, target))
                if mask and self.share_a_side(slug, bundler):
                    found.append((bundler, mask))
        return found

    def _preference(self, target: Target) -> tuple[object, ...]:
        installs = self.mods[target.mod].installs if target.mod in self.mods else 0
        return (target.mod not in self.entries, -installs, *_target_key(target))


def _target_key(target: Target) -> tuple[str, str]:
    return target.mod, target.versions or ""


@lru_cache(maxsize=65536)
def _ways_to_meet(relation: Requires) -> tuple[Target, ...]:
    """The ways to meet a requirement in an order of their own; the same for the thousands of builds that ask alike."""
    targets = relation.targets
    return targets if len(targets) == 1 else tuple(sorted(targets, key=_target_key))


def _said_alike(builds: Sequence[Build]) -> tuple[list[dict[Said, None]], dict[Said, int]]:
    """Per build what it says, and for each saying the bits of the builds that say it."""
    per_build: list[dict[Said, None]] = []
    bits: dict[Said, int] = {}
    for index, build in enumerate(builds):
        mine: dict[Said, None] = {}
        own = bit(index)
        for relation in build.relations:
            said: Said
            if isinstance(relation, Requires):
                said = _ways_to_meet(relation)
            elif isinstance(relation, Clashes):
                said = relation
            else:
                continue
            if said not in mine:
                mine[said] = None
                bits[said] = bits.get(said, 0) | own
        per_build.append(mine)
    return per_build, bits


def _said_key(said: Said) -> tuple[bool, object]:
    """An order of sayings that does not depend on the document's: what is needed first, then clashes."""
    if isinstance(said, Clashes):
        return True, (said.mod, said.versions or "", said.reason)
    return False, [_target_key(target) for target in said]


def bundles(build: Build, target: Target) -> bool:
    """Whether a build carries a mod within a range; a bundled mod of unknown version meets only an open range."""
    return any(
        isinstance(relation, Bundles)
        and relation.mod == target.mod
        and (target.versions is None or (relation.version is not None and in_range(target.versions, relation.version)))
        for relation in build.relations
    )
