"""Which builds a pack gets: the pack and the catalogue put to the solver, its answer given back by mod and version.

Most drafts that are looked at are whole already: every entry has its build, and all that the builds ask for holds.
That is seen without a search, in ``as_it_stands``; the solver would give the same answer, only later.
"""

from collections.abc import Container, Mapping
from dataclasses import dataclass

from .explain import Impossible, explain
from .model import Build, Catalogue, Clashes, Pack, Relation, Requires
from .provider import PackProvider
from .ranges import in_range
from .solver import Contradiction, bit, solve


@dataclass(frozen=True, kw_only=True)
class Resolved:
    """Builds for all mods the pack needs; ``added`` and ``dropped`` are told against the pack's enabled entries."""

    builds: dict[str, str]
    added: tuple[str, ...]
    dropped: tuple[str, ...]
    required_by: dict[str, tuple[str, ...]]


def resolve(
    pack: Pack, catalogue: Catalogue, *, newest: bool = False, adding: Container[str] = ()
) -> Resolved | Impossible:
    """The builds for a pack: calm (kept where possible), or each the newest the rest allows.

    ``adding`` are entries that somebody is about to add, so that an explanation does not say they are in the draft.
    """
    provider = PackProvider(pack, catalogue, newest, adding)
    whole = None if newest else as_it_stands(provider)
    return whole if whole is not None else searched(provider)


def searched(provider: PackProvider) -> Resolved | Impossible:
    """The answer of the solver; asked again for the few words of an explanation, where there is none."""
    provider.merging = provider.newest
    answer = solve(provider)
    if isinstance(answer, Contradiction) and not provider.merging:
        provider = PackProvider(provider.pack, provider.catalogue, provider.newest, provider.adding)
        answer = solve(provider)
    if isinstance(answer, Contradiction):
        return explain(provider, [rule.reason for rule in answer.rules])
    builds = {slug: provider.candidates(slug)[i].version for slug, i in sorted(answer.chosen.items())}
    return Resolved(
        builds=builds,
        added=tuple(sorted(set(builds) - set(provider.entries))),
        dropped=tuple(sorted(set(provider.entries) - set(builds))),
        required_by=required_by(provider, answer.chosen),
    )


def as_it_stands(provider: PackProvider) -> Resolved | None:
    """The pack as it stands, with libraries it lacks, where that resolves it; None where that takes a search.

    From the entries that must be there it follows what each build requires. A mod that only one requirement's only
    target names, and that is not in the pack, comes at its best build. Left to the solver is all that has a choice or
    goes wrong: a build that does not fit, a requirement out of range, a clash, several that could meet a requirement of
    which none is there for another reason.
    """
    reached: dict[str, Build] = {}
    met_by: dict[str, list[tuple[str, ...]]] = {}
    queue = [slug for slug, entry in provider.entries.items() if entry.chosen or entry.pin is not None]
    while queue:
        slug = queue.pop()
        if slug in reached:
            continue
        build = provider.present(slug) if slug in provider.entries else provider.best(slug)
        if build is None:
            return None
        reached[slug] = build
        met_by[slug] = []
        for relation in build.relations:
            if type(relation) is Requires:
                meeting = provider.meeting(slug, relation) or provider.lacking(slug, relation)
                met_by[slug].append(meeting)
                if not meeting:
                    return None
                if len(meeting) == 1:
                    queue.append(meeting[0])
    if not _holds(reached, met_by, provider):
        return None
    needed: dict[str, set[str]] = {}
    for slug, lists in met_by.items():
        for other in (other for meeting in lists for other in meeting if other in reached and other != slug):
            needed.setdefault(other, set()).add(slug)
    return Resolved(
        builds={slug: reached[slug].version for slug in sorted(reached)},
        added=tuple(sorted(reached.keys() - provider.entries.keys())),
        dropped=tuple(sorted(provider.entries.keys() - reached.keys())),
        required_by={slug: tuple(sorted(needed[slug])) for slug in sorted(needed)},
    )


def _holds(reached: Mapping[str, Build], met_by: Mapping[str, list[tuple[str, ...]]], provider: PackProvider) -> bool:
    """Whether all requirements are met by what was reached, and nothing of it clashes."""
    if any(not any(other in reached for other in meeting) for lists in met_by.values() for meeting in lists):
        return False
    added = reached.keys() - provider.entries.keys()
    return not any(
        _breaks(slug, relation, reached, added) for slug, build in reached.items() for relation in build.relations
    )


def _breaks(slug: str, relation: Relation, reached: Mapping[str, Build], added: Container[str]) -> bool:
    """Whether a relation of a build clashes with what was reached, or with what came for another's requirement."""
    if type(relation) is Clashes:
        other = reached.get(relation.mod) if relation.mod != slug else None
        return other is not None and in_range(relation.versions, other.version)
    if type(relation) is Requires and relation.mod is not None and relation.mod in added:
        return not in_range(relation.versions, reached[relation.mod].version)
    return False


def required_by(provider: PackProvider, chosen: dict[str, int]) -> dict[str, tuple[str, ...]]:
    """Per mod, which chosen mods need it; only mods that something needs."""
    found: dict[str, set[str]] = {}
    for slug, index in chosen.items():
        for rule in provider.rules(slug, index):
            for other, allowed in rule.options:
                if other in chosen and other != slug and allowed & bit(chosen[other]):
                    found.setdefault(other, set()).add(slug)
    return {slug: tuple(sorted(found[slug])) for slug in sorted(found)}
