"""The same question put to resolvelib, the yardstick of the solver's benchmark."""

from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Any

from resolvelib import AbstractProvider, BaseReporter, Resolver
from resolvelib.resolvers import ResolutionImpossible

from true_convoy.core.fit import fits, newest_first
from true_convoy.core.model import Build, Catalogue, Pack, Requires, Target
from true_convoy.core.ranges import in_range

Candidate = tuple[str, Build]


class Provider(AbstractProvider[Target, Candidate, str]):
    """Requirements are targets, candidates are builds; the newest that fits comes first."""

    def __init__(self, pack: Pack, catalogue: Catalogue) -> None:
        mods = catalogue.by_slug(pack.game)
        self.builds = {slug: [b for b in newest_first(mod) if fits(b, pack)] for slug, mod in mods.items()}

    def identify(self, requirement_or_candidate: Target | Candidate) -> str:
        asked = requirement_or_candidate
        return asked.mod if isinstance(asked, Target) else asked[0]

    def get_preference(
        self,
        identifier: str,
        resolutions: Any,
        candidates: Mapping[str, Iterator[Any]],
        information: Mapping[str, Iterable[Any]],
        backtrack_causes: Any,
    ) -> tuple[bool, int, str]:
        causes = {cause.requirement.mod for cause in backtrack_causes}
        return identifier not in causes, sum(1 for _ in information[identifier]) * -1, identifier

    def find_matches(
        self,
        identifier: str,
        requirements: Mapping[str, Iterator[Target]],
        incompatibilities: Mapping[str, Iterator[Candidate]],
    ) -> Callable[[], Iterable[Candidate]]:
        asked = list(requirements[identifier])
        bad = {build.version for _, build in incompatibilities[identifier]}
        found = [
            (identifier, build)
            for build in self.builds.get(identifier, ())
            if build.version not in bad and all(in_range(target.versions, build.version) for target in asked)
        ]
        return lambda: found

    def is_satisfied_by(self, requirement: Target, candidate: Candidate) -> bool:
        return in_range(requirement.versions, candidate[1].version)

    def get_dependencies(self, candidate: Candidate) -> list[Target]:
        return [t for r in candidate[1].relations if isinstance(r, Requires) for t in r.targets]


def answer(pack: Pack, catalogue: Catalogue, max_rounds: int = 200_000) -> dict[str, str] | None:
    """Builds by mod, or None where there is no answer."""
    resolver: Resolver[Target, Candidate, str] = Resolver(Provider(pack, catalogue), BaseReporter())
    try:
        result = resolver.resolve([Target(mod=entry.mod) for entry in pack.entries], max_rounds=max_rounds)
    except ResolutionImpossible:
        return None
    return {slug: build.version for slug, (_, build) in result.mapping.items()}
