"""What the checks look at: a draft as it stands, with the builds its entries have and who needs whom."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from functools import cached_property

from msgspec.structs import replace

from ..edits import Edit, apply
from ..explain import Impossible
from ..fit import fits, loader_name, newest_first, usually_runs
from ..model import (
    Bridges,
    Build,
    Bundles,
    Catalogue,
    Clashes,
    Entry,
    Game,
    Mod,
    Pack,
    Place,
    Release,
    Requires,
    Side,
    Target,
)
from ..order import LoadOrder, load_order, places_by_entry
from ..provider import bundles
from ..ranges import in_range, in_words
from ..resolve import Resolved, resolve

_ROUNDS = 12


@dataclass
class Situation:
    """A draft and the part of the catalogue it reaches; ``last`` is its last release."""

    pack: Pack
    catalogue: Catalogue
    last: Release | None = None
    mods: dict[str, Mod] = field(default_factory=dict)
    known_builds: dict[tuple[str, str], Build | None] = field(default_factory=dict)
    _sides: dict[str, frozenset[Side]] = field(init=False, default_factory=dict)
    entries: dict[str, Entry] = field(init=False)
    off: dict[str, Entry] = field(init=False)

    def __post_init__(self) -> None:
        self.mods = self.mods or self.catalogue.by_slug(self.pack.game)
        self.entries = {entry.mod: entry for entry in self.pack.entries if entry.enabled}
        self.off = {entry.mod: entry for entry in self.pack.entries if not entry.enabled}

    def after(self, edit: Edit) -> "Situation":
        """The situation after an edit. Raises EditRefused if it does not apply."""
        return Situation(apply(self.pack, edit), self.catalogue, self.last, self.mods, self.known_builds)

    @cached_property
    def settled(self) -> bool:
        """Whether every enabled entry says its version, so that no build depends on what the solver finds."""
        return all(entry.version is not None for entry in self.entries.values())

    @cached_property
    def game(self) -> Game:
        """The pack's game; an unknown one has nothing particular about it."""
        return self.catalogue.game(self.pack.game) or Game(slug=self.pack.game, name=self.pack.game, versions=())

    @cached_property
    def answer(self) -> Resolved | Impossible:
        """What the draft resolves to."""
        return resolve(self.pack, self.catalogue)

    @cached_property
    def plan(self) -> Resolved:
        """What the draft resolves to; of an impossible one, what is left when some of what is in the way is off.

        What cannot be had at all goes first, then one entry of each contradiction, and after some rounds all of it.
        """
        answer, pack, rounds = self.answer, self.pack, 0
        gone = {slug for slug in self.entries if next(self.takeable(slug), None) is None}
        while isinstance(answer, Impossible):
            there = [entry.mod for entry in pack.entries if entry.enabled and entry.mod in answer.mods]
            off = gone if rounds == 0 else {max(there)} if rounds < _ROUNDS else set(there)
            entries = (replace(entry, enabled=entry.enabled and entry.mod not in off) for entry in pack.entries)
            pack = replace(pack, entries=tuple(entries))
            answer, rounds = resolve(pack, self.catalogue), rounds + 1
        return answer

    # --- builds ------------------------------------------------------------------------------------------------

    def build(self, slug: str) -> Build | None:
        """The build an enabled entry has; without a version, the one it would get."""
        entry = self.entries.get(slug)
        if entry is None or slug not in self.mods:
            return None
        version = entry.version
        if version is None:
            builds = {} if isinstance(self.answer, Impossible) else self.answer.builds
            version = builds.get(slug) or next((build.version for build in self.takeable(slug)), None)
        return self.exact(slug, version) if version is not None else None

    def exact(self, slug: str, version: str) -> Build | None:
        """A mod's build of a version."""
        if (slug, version) not in self.known_builds:
            self.known_builds[slug, version] = self.mods[slug].build(version) if slug in self.mods else None
        return self.known_builds[slug, version]

    def takeable(self, slug: str) -> Iterator[Build]:
        """The builds of a mod that suit the ground and the channel floor, newest first."""
        for build in newest_first(self.mods[slug]) if slug in self.mods else ():
            if build.withdrawn is None and fits(build, self.pack, self.game):
                yield build

    def usually_runs(self, build: Build) -> bool:
        """Whether a build is only marked for an older version of a lenient game."""
        return usually_runs(build, self.pack, self.game)

    @cached_property
    def builds(self) -> dict[str, Build | None]:
        """The builds of all enabled entries."""
        return {slug: self.build(slug) for slug in self.entries}

    # --- words -------------------------------------------------------------------------------------------------

    def name(self, slug: str) -> str:
        """What people call a mod."""
        return self.mods[slug].name if slug in self.mods else slug

    def target(self, target: Target) -> str:
        """A mod and its range in words."""
        return self.name(target.mod) + range_words(target.versions)

    def loader_name(self) -> str:
        """The pack's loader as people call it."""
        return loader_name(self.game, self.pack.loader.slug) if self.pack.loader else "no loader"

    # --- who needs whom ----------------------------------------------------------------------------------------

    def sides(self, slug: str) -> frozenset[Side]:
        """The sides an entry, or a mod that is not in the draft, goes to."""
        if slug not in self._sides:
            self._sides[slug] = self._find_sides(slug)
        return self._sides[slug]

    def _find_sides(self, slug: str) -> frozenset[Side]:
        entry = self.entries.get(slug) or self.off.get(slug)
        sides = entry.sides if entry is not None and entry.sides is not None else None
        sides = sides or (self.mods[slug].sides if slug in self.mods else None)
        return frozenset(side for side in Side if sides is None or sides.on(side))

    @cached_property
    def bundled(self) -> dict[str, list[str]]:
        """By mod, the enabled entries whose builds carry it."""
        found: dict[str, list[str]] = {}
        for slug in self.entries:
            build = self.build(slug)
            for relation in build.relations if build else ():
                if isinstance(relation, Bundles):
                    found.setdefault(relation.mod, []).append(slug)
        return found

    def meets(self, slug: str, relation: Requires) -> list[str]:
        """The enabled entries that meet a requirement of another, by a build in range or one that bundles it."""
        found = [t.mod for t in relation.targets if self.present(t) and self.sides(slug) & self.sides(t.mod)]
        for target in relation.targets if not found else ():
            for other in self.bundled.get(target.mod, ()):
                build = self.build(other)
                if build is not None and bundles(build, target) and self.sides(slug) & self.sides(other):
                    found.append(other)
        return found

    def present(self, target: Target) -> bool:
        """Whether a mod is on, at a build in range."""
        build = self.build(target.mod)
        return build is not None and in_range(target.versions, build.version)

    @cached_property
    def mentioned_by(self) -> dict[str, set[str]]:
        """By mod, the enabled entries whose builds say something about it."""
        found: dict[str, set[str]] = {}
        for slug in self.entries:
            build = self.build(slug)
            for other in mentioned(build) if build else ():
                found.setdefault(other, set()).add(slug)
        return found

    def carried_by(self, slugs: Iterable[str]) -> set[str]:
        """The mods that the builds of some entries carry inside."""
        builds = (self.build(slug) for slug in slugs)
        return {r.mod for build in builds if build for r in build.relations if isinstance(r, Bundles)}

    def near(self, slugs: Iterable[str]) -> set[str]:
        """These mods, and the enabled entries whose findings a change of them can touch."""
        meant = {*slugs, *self.carried_by(slugs)}
        return meant | {slug for mod in meant for slug in self.mentioned_by.get(mod, ())}

    @cached_property
    def plan_needs(self) -> dict[str, list[str]]:
        """By mod, what it needs in the plan."""
        found: dict[str, list[str]] = {}
        for other, callers in self.plan.required_by.items():
            for caller in callers:
                found.setdefault(caller, []).append(other)
        return found

    @cached_property
    def needed(self) -> set[str]:
        """The enabled entries that are chosen or pinned, and all they need."""
        queue = [slug for slug, entry in self.entries.items() if entry.chosen or entry.pin is not None]
        reached = set(queue)
        while queue:
            slug = queue.pop()
            build = self.build(slug)
            for relation in build.relations if build else ():
                if isinstance(relation, Requires):
                    new = set(self.meets(slug, relation)) - reached
                    reached |= new
                    queue += new
        return reached

    # --- files -------------------------------------------------------------------------------------------------

    @cached_property
    def order(self) -> LoadOrder:
        """The load order."""
        return load_order(self.pack.entries, self.builds)

    @cached_property
    def places(self) -> dict[str, tuple[Place, ...]]:
        """Where the files of the entries go."""
        return places_by_entry(self.entries.values(), self.mods, self.builds, self.game)


def mentioned(build: Build) -> set[str]:
    """The mods that a build's findings depend on."""
    found: set[str] = set()
    for relation in build.relations:
        if isinstance(relation, Requires):
            found.update(target.mod for target in relation.targets)
        elif isinstance(relation, Clashes):
            found.add(relation.mod)
        elif isinstance(relation, Bridges):
            found.update(relation.mods)
    return found


def range_words(versions: str | None) -> str:
    """A range in words with a space before it; nothing for any version."""
    said = in_words(versions)
    return "" if said == "any version" else f" {said}"
