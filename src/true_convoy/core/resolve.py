"""Which builds a pack gets: the pack and the catalogue put to the solver, its answer put in the curator's words.

What the solver is told, in the order of the code:

1. Enabled entries that were chosen, and pinned ones, must be there; entries that are off are ignored.
2. A mod's candidates are its builds that suit the ground and the channel floor; a pinned entry has one candidate.
   Calm, the present version comes first and then the newest; with ``newest`` always the newest first.
3. A requirement is met by a chosen build in range, or by a chosen build that bundles one in range; not by a mod that
   shares no side with the one that asks.
4. Builds that clash are not together, whichever of the two says so.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from .fit import fits, fits_ground, newest_first
from .model import Build, Bundles, Catalogue, Clashes, Entry, Mod, Pack, Requires, Side, Sides, Target
from .ranges import in_range, in_words
from .solver import Contradiction, Rule, Term, avoid, bit, need, solve


@dataclass(frozen=True, kw_only=True)
class Reason:
    """Why a rule of the solver is there: the mods it names and the sentence that says it."""

    mods: tuple[str, ...]
    sentence: str
    ranges: tuple[tuple[str, str | None], ...] = ()


@dataclass(frozen=True, kw_only=True)
class Resolved:
    """Builds for all mods the pack needs; ``added`` and ``dropped`` are told against the pack's enabled entries."""

    builds: dict[str, str]
    added: tuple[str, ...]
    dropped: tuple[str, ...]
    required_by: dict[str, tuple[str, ...]]


@dataclass(frozen=True, kw_only=True)
class Impossible:
    """No choice of builds exists; the sentences are rules that together already rule it out."""

    mods: tuple[str, ...]
    explanation: tuple[str, ...]


@dataclass
class PackProvider:
    """Presents a pack and a catalogue to the solver; names are mod slugs."""

    pack: Pack
    catalogue: Catalogue
    newest: bool = False
    mods: dict[str, Mod] = field(init=False)
    entries: dict[str, Entry] = field(init=False)
    bundlers: dict[str, list[str]] = field(init=False)
    _candidates: dict[str, list[Build]] = field(init=False, default_factory=dict)
    _masks: dict[tuple[str, str | None], int] = field(init=False, default_factory=dict)

    def __post_init__(self) -> None:
        self.mods = self.catalogue.by_slug(self.pack.game)
        self.entries = {entry.mod: entry for entry in self.pack.entries if entry.enabled}
        self.bundlers = {}
        for slug in sorted(self.mods):
            for build in self.mods[slug].builds:
                for relation in build.relations:
                    if isinstance(relation, Bundles) and slug not in self.bundlers.setdefault(relation.mod, []):
                        self.bundlers[relation.mod].append(slug)

    # --- what the engine asks ----------------------------------------------------------------------------------

    def count(self, name: str) -> int:
        """How many builds of a mod may be chosen."""
        return len(self.candidates(name))

    def roots(self) -> Iterator[Rule[Reason]]:
        """The enabled entries that were chosen or pinned."""
        for slug in sorted(self.entries):
            entry = self.entries[slug]
            if entry.chosen or entry.pin is not None:
                yield need(None, [(slug, self.mask(slug, None))], self._root_reason(entry))

    def rules(self, name: str) -> Iterator[Rule[Reason]]:
        """What the builds of a mod require, and what they clash with in either direction."""
        yield from self._needs(name)
        yield from self._clashes(name)

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
        if entry is not None and self.pinned(slug):
            return [build for build in mod.builds if build.version == entry.version and fits_ground(build, self.pack)]
        found = [build for build in newest_first(mod) if fits(build, self.pack)]
        if not self.newest and entry is not None:
            found.sort(key=lambda build: build.version != entry.version)
        return found

    def mask(self, slug: str, versions: str | None) -> int:
        """The bits of a mod's candidates in a range."""
        if (slug, versions) not in self._masks:
            builds = enumerate(self.candidates(slug))
            self._masks[slug, versions] = sum(bit(i) for i, build in builds if in_range(versions, build.version))
        return self._masks[slug, versions]

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
        return any(self.sides(one).on(side) and self.sides(other).on(side) for side in Side)

    # --- rules -------------------------------------------------------------------------------------------------

    def _needs(self, slug: str) -> Iterator[Rule[Reason]]:
        asked: dict[tuple[Target, ...], dict[int, None]] = {}
        for index, build in enumerate(self.candidates(slug)):
            for relation in build.relations:
                if isinstance(relation, Requires):
                    asked.setdefault(tuple(sorted(relation.targets, key=_target_key)), {})[index] = None
        for targets in sorted(asked, key=lambda targets: [_target_key(target) for target in targets]):
            when = (slug, sum(bit(index) for index in asked[targets]))
            options = self.options(slug, targets)
            yield need(when, options, self._need_reason(slug, list(asked[targets]), targets))

    def options(self, slug: str, targets: Iterable[Target]) -> list[Term]:
        """What meets a requirement: entries of the pack first, then by installs; bundling builds last."""
        found: list[Term] = []
        for target in sorted(targets, key=self._preference):
            if target.mod in self.mods and self.share_a_side(slug, target.mod):
                found.append((target.mod, self.mask(target.mod, target.versions)))
        for target in sorted(targets, key=self._preference):
            for bundler in self.bundlers.get(target.mod, ()):
                mask = sum(bit(i) for i, b in enumerate(self.candidates(bundler)) if _bundles(b, target))
                if mask and self.share_a_side(slug, bundler):
                    found.append((bundler, mask))
        return found

    def _preference(self, target: Target) -> tuple[object, ...]:
        installs = self.mods[target.mod].installs if target.mod in self.mods else 0
        return (target.mod not in self.entries, -installs, *_target_key(target))

    def _clashes(self, slug: str) -> Iterator[Rule[Reason]]:
        asked: dict[tuple[str, str | None, str], dict[int, None]] = {}
        for index, build in enumerate(self.candidates(slug)):
            for relation in build.relations:
                if isinstance(relation, Clashes) and relation.mod in self.mods and relation.mod != slug:
                    asked.setdefault((relation.mod, relation.versions, relation.reason), {})[index] = None
        for (other, versions, why), found in sorted(asked.items(), key=lambda item: str(item[0])):
            indices = list(found)
            if mask := self.mask(other, versions):
                sentence = f"{self.named(slug, indices)} {_verb('clash', indices, self.count(slug))} with "
                sentence += f"{self.name(other)}{_range(versions)}" + (f" ({why})." if why else ".")
                reason = Reason(mods=(slug, other), sentence=sentence, ranges=((other, versions),))
                yield avoid((slug, sum(bit(index) for index in indices)), (other, mask), reason)

    # --- words -------------------------------------------------------------------------------------------------

    def name(self, slug: str) -> str:
        """What people call a mod."""
        return self.mods[slug].name if slug in self.mods else slug

    def named(self, slug: str, indices: list[int]) -> str:
        """A mod with those of its versions a rule is about; just the mod if it is about all."""
        if len(indices) == self.count(slug):
            return self.name(slug)
        versions = [self.candidates(slug)[index].version for index in indices]
        return f"{self.name(slug)} {_listed(versions)}"

    def ground(self) -> str:
        """The ground of the pack in words."""
        loader = self.pack.loader
        return f"game version {self.pack.game_version}" + (
            f" with {loader.slug} {loader.version or ''}".rstrip() if loader else ""
        )

    def _root_reason(self, entry: Entry) -> Reason:
        slug, mod = entry.mod, self.mods.get(entry.mod)
        if mod is None:
            sentence = f"{slug} is in the draft, and the catalogue does not have it."
        elif self.pinned(slug):
            sentence = f"{mod.name} is pinned at {entry.version}."
            if not self.candidates(slug):
                build = mod.build(entry.version)
                why = fits_ground(build, self.pack).reason if build else "is not in the catalogue"
                sentence = f"{mod.name} is pinned at {entry.version}, which {why}."
        elif not self.candidates(slug):
            sentence = f"{mod.name} is in the draft and has no build for {self.ground()}."
        else:
            sentence = f"{mod.name} is in the draft."
        return Reason(mods=(slug,), sentence=sentence)

    def _need_reason(self, slug: str, indices: list[int], targets: tuple[Target, ...]) -> Reason:
        wanted = " or ".join(self.name(target.mod) + _range(target.versions) for target in targets)
        sentence = f"{self.named(slug, indices)} {_verb('need', indices, self.count(slug))} {wanted}"
        if not any(mask for _, mask in self.options(slug, targets)):
            sentence += f", and {self._why_not(slug, targets)}"
        return Reason(
            mods=(slug, *(target.mod for target in targets)),
            sentence=sentence + ".",
            ranges=tuple((target.mod, target.versions) for target in targets),
        )

    def _why_not(self, slug: str, targets: tuple[Target, ...]) -> str:
        known = [target for target in targets if target.mod in self.mods]
        if not known:
            return "the catalogue does not have it"
        if not any(self.share_a_side(slug, target.mod) for target in known):
            return "the two are never on the same side"
        if held := [self.entries[target.mod] for target in known if self.pinned(target.mod)]:
            return f"{self.name(held[0].mod)} is pinned at {held[0].version}"
        if any(in_range(t.versions, build.version) for t in known for build in self.mods[t.mod].builds):
            return f"no such build may be taken for {self.ground()}"
        return "the catalogue has no such build"

    def limits(self, ranges: Iterable[tuple[str, str | None]]) -> Iterator[str]:
        """For mods of which builds in a range exist but may not be taken: what is left of them."""
        said = set()
        for slug, versions in ranges:
            mod = self.mods.get(slug)
            if mod is None or slug in said or not self.candidates(slug):
                continue
            taken = {build.version for build in self.candidates(slug)}
            if any(build.version not in taken and in_range(versions, build.version) for build in mod.builds):
                said.add(slug)
                if self.pinned(slug):
                    yield f"{mod.name} is pinned at {self.entries[slug].version}."
                    continue
                left = _listed([build.version for build in newest_first(mod) if build.version in taken])
                yield f"Of {mod.name}, only {left} may be taken for {self.ground()}."


def _target_key(target: Target) -> tuple[str, str]:
    return target.mod, target.versions or ""


def _range(versions: str | None) -> str:
    said = in_words(versions)
    return "" if said == "any version" else f" {said}"


def _verb(verb: str, indices: list[int], count: int) -> str:
    ending = "es" if verb.endswith("sh") else "s"
    return verb + ending if len(indices) in (1, count) else verb


def _listed(versions: list[str]) -> str:
    shown = versions if len(versions) <= 4 else [*versions[:3], f"{len(versions) - 3} more"]
    return shown[0] if len(shown) == 1 else ", ".join(shown[:-1]) + " and " + shown[-1]


def _bundles(build: Build, target: Target) -> bool:
    """Whether a build carries a mod within a range; a bundled mod of unknown version meets only an open range."""
    return any(
        isinstance(relation, Bundles)
        and relation.mod == target.mod
        and (target.versions is None or (relation.version is not None and in_range(target.versions, relation.version)))
        for relation in build.relations
    )


def resolve(pack: Pack, catalogue: Catalogue, *, newest: bool = False) -> Resolved | Impossible:
    """The builds for a pack: calm (kept where possible), or each the newest the rest allows."""
    provider = PackProvider(pack, catalogue, newest)
    answer = solve(provider)
    if isinstance(answer, Contradiction):
        return _explained(provider, answer)
    builds = {slug: provider.candidates(slug)[i].version for slug, i in sorted(answer.chosen.items())}
    return Resolved(
        builds=builds,
        added=tuple(sorted(set(builds) - set(provider.entries))),
        dropped=tuple(sorted(set(provider.entries) - set(builds))),
        required_by=required_by(provider, answer.chosen),
    )


def required_by(provider: PackProvider, chosen: dict[str, int]) -> dict[str, tuple[str, ...]]:
    """Per mod, which chosen mods need it; only mods that something needs."""
    found: dict[str, set[str]] = {}
    for slug in chosen:
        for rule in provider.rules(slug):
            if rule.when is not None and rule.when[1] & bit(chosen[slug]):
                for other, allowed in rule.options:
                    if other in chosen and other != slug and allowed & bit(chosen[other]):
                        found.setdefault(other, set()).add(slug)
    return {slug: tuple(sorted(found[slug])) for slug in sorted(found)}


def _explained(provider: PackProvider, failure: Contradiction[Reason]) -> Impossible:
    reasons = [rule.reason for rule in failure.rules]
    sentences = [reason.sentence for reason in reasons]
    sentences += provider.limits(pair for reason in reasons for pair in reason.ranges)
    mods = {slug for reason in reasons for slug in reason.mods}
    return Impossible(mods=tuple(sorted(mods)), explanation=tuple(dict.fromkeys(sorted(sentences))))
