"""The solver against a SAT solver on thousands of small random universes: both say whether a choice exists."""

import random
from itertools import combinations

import pytest
from pysat.solvers import Minisat22

from tests.universes import RANGES, build, catalogue, mod, pack
from true_convoy.core.explain import Impossible
from true_convoy.core.model import Bundles, Catalogue, Clashes, Entry, Pack, Pin, Requires, Target
from true_convoy.core.ranges import in_range
from true_convoy.core.resolve import resolve

MODS = [f"m{number}" for number in range(9)]
VERSIONS = ["1.0.0", "2.0.0", "3.0.0", "3.1.0"]


def universe(chance: random.Random) -> tuple[Catalogue, Pack]:
    def target() -> Target:
        return Target(mod=chance.choice(MODS), versions=chance.choice(RANGES))

    def relation() -> Requires | Clashes | Bundles:
        kind, one = chance.random(), target()
        if kind < 0.5:
            return Requires(mod=one.mod, versions=one.versions)
        if kind < 0.65:
            return Requires(any=(one, target()))
        if kind < 0.9:
            return Clashes(mod=one.mod, versions=one.versions)
        return Bundles(mod=one.mod, version=chance.choice(VERSIONS))

    mods = [
        mod(
            slug,
            *(
                build(version, *(relation() for _ in range(chance.randrange(4))))
                for version in chance.sample(VERSIONS, chance.randint(1, 4))
            ),
        )
        for slug in MODS
    ]
    entries = [
        Entry(mod=one.slug, version=one.builds[0].version, pin=Pin(reason="held") if chance.random() < 0.3 else None)
        for one in chance.sample(mods, chance.randint(1, 5))
    ]
    return catalogue(*mods), pack(*entries)


def possible(mods: Catalogue, question: Pack) -> bool:
    """Whether a choice exists, by the letter of what "resolved" promises, as clauses."""
    number: dict[tuple[str, str], int] = {}
    for one in mods.mods:
        for candidate in one.builds:
            number[one.slug, candidate.version] = len(number) + 1
    pins = {entry.mod: entry.version for entry in question.entries if entry.pin}

    def meeting(wanted: Target) -> list[int]:
        found = [
            n for (slug, version), n in number.items() if slug == wanted.mod and in_range(wanted.versions, version)
        ]
        for one in mods.mods:
            for candidate in one.builds:
                for carried in candidate.relations:
                    carries = isinstance(carried, Bundles) and carried.mod == wanted.mod
                    if carries and in_range(wanted.versions, carried.version):
                        found.append(number[one.slug, candidate.version])
        return found

    with Minisat22() as solver:
        for entry in question.entries:
            solver.add_clause([n for (slug, _), n in number.items() if slug == entry.mod])
        for one in mods.mods:
            own = [number[one.slug, candidate.version] for candidate in one.builds]
            for pair in combinations(own, 2):
                solver.add_clause([-pair[0], -pair[1]])
            for candidate in one.builds:
                me = number[one.slug, candidate.version]
                if pins.get(one.slug, candidate.version) != candidate.version:
                    solver.add_clause([-me])
                for said in candidate.relations:
                    if isinstance(said, Requires):
                        solver.add_clause([-me, *(n for wanted in said.targets for n in meeting(wanted))])
                    elif isinstance(said, Clashes) and said.mod != one.slug:
                        for (slug, version), n in number.items():
                            if slug == said.mod and in_range(said.versions, version):
                                solver.add_clause([-me, -n])
        return bool(solver.solve())


@pytest.mark.parametrize("block", range(4))
def test_both_solvers_agree_on_thousands_of_universes(block):
    answers = []
    for seed in range(block * 1000, block * 1000 + 1000):
        mods, question = universe(random.Random(seed))
        expected = possible(mods, question)
        assert isinstance(resolve(question, mods), Impossible) != expected, seed
        answers.append(expected)
    assert 200 < sum(answers) < 800, "both answers are common, so that agreeing means something"
