"""The engine by itself: it knows names and numbered candidates only."""

from dataclasses import dataclass, field
from itertools import product

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from true_convoy.core.solver import ABSENT, Contradiction, Rule, Solution, avoid, bit, need, solve

NAMES = "abcdef"
COUNT = 3


@dataclass
class Table:
    """A provider from plain lists of rules."""

    first: list[Rule[str]]
    by_name: dict[str, list[Rule[str]]] = field(default_factory=dict)
    asked: list[tuple[str, int]] = field(default_factory=list)
    counts: dict[str, int] = field(default_factory=dict)

    def count(self, name: str) -> int:
        return self.counts.get(name, COUNT)

    def roots(self) -> list[Rule[str]]:
        return self.first

    def rules(self, name: str, index: int) -> list[Rule[str]]:
        self.asked.append((name, index))
        mine = self.by_name.get(name, [])
        return [rule for rule in mine if any(term == name and mask & bit(index) for term, mask in rule.terms)]


def anything(name: str) -> tuple[str, int]:
    return name, sum(bit(i) for i in range(COUNT))


_names = st.sampled_from(NAMES)
_masks = st.integers(1, 2**COUNT - 1).map(lambda mask: mask << 1)
_terms = st.tuples(_names, _masks)


@st.composite
def tables(draw) -> Table:
    by_name: dict[str, list[Rule[str]]] = {}
    for name in NAMES:
        rules = []
        for number in range(draw(st.integers(0, 3))):
            when, reason = (name, draw(_masks)), f"{name}{number}"
            if draw(st.booleans()):
                rules.append(need(when, draw(st.lists(_terms, min_size=1, max_size=3)), reason))
            else:
                other = draw(st.tuples(st.sampled_from(NAMES.replace(name, "")), _masks))
                rules.append(avoid(when, other, reason))
        by_name[name] = rules
    roots = draw(st.lists(_terms, min_size=1, max_size=3))
    return Table([need(None, [term], f"root {term[0]}") for term in roots], by_name)


def broken(rule: Rule[str], chosen: dict[str, int]) -> bool:
    return all((bit(chosen[name]) if name in chosen else ABSENT) & ~mask == 0 for name, mask in rule.terms)


def possible(rules: list[Rule[str]]) -> bool:
    for values in product(range(-1, COUNT), repeat=len(NAMES)):
        chosen = {name: value for name, value in zip(NAMES, values, strict=True) if value >= 0}
        if not any(broken(rule, chosen) for rule in rules):
            return True
    return False


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(tables())
def test_answers_agree_with_trying_everything(table):
    every = table.first + [rule for rules in table.by_name.values() for rule in rules]
    answer = solve(table)
    if isinstance(answer, Solution):
        assert not any(broken(rule, answer.chosen) for rule in every)
        for name, number in answer.chosen.items():
            for better in range(number):
                assert any(broken(rule, answer.chosen | {name: better}) for rule in every), "the best the rest allows"
            less = {other: n for other, n in answer.chosen.items() if other != name}
            assert any(broken(rule, less) for rule in every), "nothing that nothing needs"
    else:
        assert not possible(every)
        assert not possible(list(answer.rules))
        for left_out in answer.rules:
            assert possible([rule for rule in answer.rules if rule is not left_out]), "none can be left out"


def test_rules_are_asked_for_only_where_they_matter():
    table = Table([need(None, [anything("a")], "root")], {"a": [need(anything("a"), [anything("b")], "a needs b")]})
    assert solve(table) == Solution({"a": 0, "b": 0})
    assert table.asked == [("a", 0), ("b", 0)]


def test_a_lesson_learned_jumps_back_over_what_has_nothing_to_do_with_it():
    """The first choice of ``a`` is impossible for a reason found only after deciding many others in between."""
    between = [f"n{i}" for i in range(40)]
    roots = [need(None, [anything(name)], name) for name in ("a", *between, "z")]
    rules = {
        "a": [need(("a", bit(0)), [("b", bit(0) | bit(1))], "a0 needs b0 or b1")],
        "z": [need(anything("z"), [("b", bit(2))], "z needs b2")],
    }
    assert solve(Table(roots, rules)).chosen["a"] == 1


@pytest.mark.parametrize("holes", [3, 4, 5])
def test_pigeons_do_not_fit_into_too_few_holes_and_the_reason_needs_all_of_them(holes):
    pigeons = [f"p{i}" for i in range(holes + 1)]
    slots = (1 << (holes + 1)) - 2
    roots = [need(None, [(pigeon, slots)], pigeon) for pigeon in pigeons]
    rules: dict[str, list[Rule[str]]] = {}
    for i, one in enumerate(pigeons):
        rules[one] = [
            avoid((one, bit(hole)), (other, bit(hole)), f"{one} {other} {hole}")
            for other in pigeons[i + 1 :]
            for hole in range(holes)
        ]
    answer = solve(Table(roots, rules, counts=dict.fromkeys(pigeons, holes)))
    assert isinstance(answer, Contradiction)
    assert {rule.reason for rule in answer.rules} >= set(pigeons)


def test_a_name_without_candidates_is_a_contradiction_only_if_it_is_needed():
    nothing = {"b": 0}
    either = Table([need(None, [("b", 0), anything("c")], "b or c")], counts=nothing)
    assert solve(either) == Solution({"c": 0})
    assert isinstance(solve(Table([need(None, [("b", 0)], "b")], counts=nothing)), Contradiction)


def test_what_was_decided_for_an_alternative_goes_when_another_need_meets_it():
    rules = {
        "a": [need(anything("a"), [anything("b"), anything("c")], "b or c"), need(anything("a"), [anything("c")], "c")]
    }
    assert solve(Table([need(None, [anything("a")], "root")], rules)) == Solution({"a": 0, "c": 0})
