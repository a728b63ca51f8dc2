"""Why a draft is impossible: the rules that cannot all hold, each in the words a curator uses."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from .fit import fits_ground, loader_in_words, newest_first
from .model import Mod, Target
from .provider import Asking, Cause, Clashing, PackProvider, Root
from .ranges import in_range, in_words
from .solver import bit


@dataclass(frozen=True, kw_only=True)
class Impossible:
    """No choice of builds exists; the sentences are rules that together already rule it out."""

    mods: tuple[str, ...]
    explanation: tuple[str, ...]


def explain(provider: PackProvider, causes: Sequence[Cause]) -> Impossible:
    """The rules of a contradiction as sentences."""
    words = _Words(provider)
    mods: set[str] = set()
    sentences: list[str] = []
    ranges: list[tuple[str, str | None]] = []
    for cause in causes:
        match cause:
            case Root():
                mods.add(cause.slug)
                sentences.append(words.root(cause.slug))
            case Asking():
                mods.update((cause.slug, *(target.mod for target in cause.targets)))
                sentences.append(words.need(cause))
                ranges += [(target.mod, target.versions) for target in cause.targets]
            case Clashing():
                mods.update((cause.slug, cause.other))
                sentences.append(words.clash(cause))
                ranges.append((cause.other, cause.versions))
    sentences += words.limits(ranges)
    return Impossible(mods=tuple(sorted(mods)), explanation=tuple(dict.fromkeys(sorted(sentences))))


def ground_in_words(provider: PackProvider) -> str:
    """The ground of the pack in words."""
    pack = provider.pack
    named = f" with {loader_in_words(provider.game, pack.loader)}" if pack.loader else ""
    return f"game version {pack.game_version}{named}"


@dataclass(frozen=True)
class _Words:
    provider: PackProvider

    def name(self, slug: str) -> str:
        mods = self.provider.mods
        return mods[slug].name if slug in mods else slug

    def versions(self, slug: str, bits: int) -> list[str]:
        return [b.version for i, b in enumerate(self.provider.candidates(slug)) if bits & bit(i)]

    def said(self, slug: str, bits: int, verb: str) -> str:
        """A mod with those of its versions a rule is about, just the mod if it is about all, and what they do."""
        versions = self.versions(slug, bits)
        if len(versions) == self.provider.count(slug):
            return f"{self.name(slug)} {verb}s" if not verb.endswith("sh") else f"{self.name(slug)} {verb}es"
        ending = "" if len(versions) > 1 else "es" if verb.endswith("sh") else "s"
        return f"{self.name(slug)} {_listed(versions)} {verb}{ending}"

    def root(self, slug: str) -> str:
        provider = self.provider
        mod, entry = provider.mods.get(slug), provider.entries[slug]
        there = "is to be added" if slug in provider.adding else "is in the draft"
        if mod is None:
            return f"{slug} {there}, and the catalogue does not have it."
        if provider.pinned(slug):
            if provider.candidates(slug):
                return f"{mod.name} is pinned at {entry.version}."
            build = mod.build(entry.version)
            why = fits_ground(build, provider.pack, provider.game).reason if build else "is not in the catalogue"
            return f"{mod.name} is pinned at {entry.version}, which {why}."
        if not provider.candidates(slug):
            return f"{mod.name} {there} and has no build for {ground_in_words(provider)}."
        return f"{mod.name} {there}."

    def need(self, cause: Asking) -> str:
        wanted = " or ".join(self.name(target.mod) + _range(target.versions) for target in cause.targets)
        sentence = f"{self.said(cause.slug, cause.bits, 'need')} {wanted}"
        if not any(mask for _, mask in self.provider.options(cause.slug, cause.targets)):
            sentence += f", and {self._why_not(cause.slug, cause.targets)}"
        return sentence + "."

    def clash(self, cause: Clashing) -> str:
        sentence = f"{self.said(cause.slug, cause.bits, 'clash')} with {self.name(cause.other)}{_range(cause.versions)}"
        return sentence + (f" ({cause.why})." if cause.why else ".")

    def _why_not(self, slug: str, targets: tuple[Target, ...]) -> str:
        provider = self.provider
        known = [target for target in targets if target.mod in provider.mods]
        if not known:
            return "the catalogue does not have it"
        if not any(provider.share_a_side(slug, target.mod) for target in known):
            return "the two are never on the same side"
        if held := [provider.entries[target.mod] for target in known if provider.pinned(target.mod)]:
            return f"{self.name(held[0].mod)} is pinned at {held[0].version}"
        if any(in_range(t.versions, build.version) for t in known for build in provider.mods[t.mod].builds):
            return f"no such build may be taken for {ground_in_words(provider)}"
        return "the catalogue has no such build"

    def limits(self, ranges: Iterable[tuple[str, str | None]]) -> Iterator[str]:
        """For mods of which builds in a range exist but may not be taken: what is left of them."""
        provider, said = self.provider, set[str]()
        for slug, versions in ranges:
            mod = provider.mods.get(slug)
            if mod is None or slug in said or not provider.candidates(slug):
                continue
            taken = {build.version for build in provider.candidates(slug)}
            if any(build.version not in taken and in_range(versions, build.version) for build in mod.builds):
                said.add(slug)
                yield self._left(mod, taken)

    def _left(self, mod: Mod, taken: set[str]) -> str:
        if self.provider.pinned(mod.slug):
            return f"{mod.name} is pinned at {self.provider.entries[mod.slug].version}."
        left = _listed([build.version for build in newest_first(mod) if build.version in taken])
        return f"Of {mod.name}, only {left} may be taken for {ground_in_words(self.provider)}."


def _range(versions: str | None) -> str:
    said = in_words(versions)
    return "" if said == "any version" else f" {said}"


def _listed(versions: list[str]) -> str:
    shown = versions if len(versions) <= 4 else [*versions[:3], f"{len(versions) - 3} more"]
    return shown[0] if len(shown) == 1 else ", ".join(shown[:-1]) + " and " + shown[-1]
