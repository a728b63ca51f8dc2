"""What all findings and fixes promise, on random universes."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.universes import questions, shuffled
from true_convoy.core.checks import Grade, check, mend_all
from true_convoy.core.edits import Accept, apply
from true_convoy.core.explain import Impossible
from true_convoy.core.remedies import remedies
from true_convoy.core.resolve import Resolved, resolve

many = settings(max_examples=80, deadline=None, suppress_health_check=[HealthCheck.too_slow])


def identities(findings):
    return {(f.code, f.mods, f.paths if len(f.paths) == 1 else ()) for f in findings}


def stops(findings):
    """The stops; of an impossible draft it is the same stop, whichever mods stand in the way next."""
    found = [f for f in findings if f.grade is Grade.STOP]
    whole = [f for f in found if f.message.startswith("No choice of builds")]
    return identities(f for f in found if f not in whole) | ({"impossible"} if whole else set())


@many
@given(questions())
def test_every_fix_removes_its_finding_and_adds_no_stop(question):
    universe, draft = question
    before = check(draft, universe)
    impossible = isinstance(resolve(draft, universe), Impossible)
    for finding in before:
        for fix in finding.fixes:
            draft_after = apply(draft, fix.edit)
            after = check(draft_after, universe)
            assert identities([finding]).isdisjoint(identities(after)), fix.label
            assert stops(after) - {"impossible"} <= stops(before), fix.label
            assert impossible or isinstance(resolve(draft_after, universe), Resolved), fix.label


@many
@given(questions(), st.randoms(use_true_random=False))
def test_the_order_of_lists_changes_nothing(question, random):
    universe, draft = question
    assert check(shuffled(draft, random), shuffled(universe, random)) == check(draft, universe)


@many
@given(questions())
def test_a_draft_without_stops_and_cautions_has_all_that_it_resolves_to(question):
    universe, draft = question
    if any(finding.grade is not Grade.NOTE for finding in check(draft, universe)):
        return
    answer = resolve(draft, universe)
    assert isinstance(answer, Resolved) and answer.added == ()


@many
@given(questions())
def test_mending_all_leaves_no_more_stops_than_before(question):
    universe, draft = question
    mending = mend_all(draft, universe)
    if mending.edit is None:
        return
    before, after = check(draft, universe), check(apply(draft, mending.edit), universe)
    assert stops(after) - {"impossible"} <= stops(before)
    assert len(after) <= len(before) or len(stops(after)) < len(stops(before))
    assert mend_all(apply(draft, mending.edit), universe).labels == ()


@many
@given(questions())
def test_remedies_make_an_impossible_draft_possible_and_none_has_a_step_too_many(question):
    universe, draft = question
    found = remedies(draft, universe)
    if isinstance(resolve(draft, universe), Resolved):
        assert found == ()
        return
    for remedy in found:
        assert isinstance(resolve(apply(draft, remedy.edit), universe), Resolved)
        steps = getattr(remedy.edit, "edits", (remedy.edit,))
        for left_out in steps if len(steps) > 1 else ():
            rest = draft
            for step in steps:
                rest = apply(rest, step) if step is not left_out else rest
            assert isinstance(resolve(rest, universe), Impossible), remedy.label


@many
@given(questions())
def test_an_accepted_caution_stays_visible_and_keeps_its_reason(question):
    universe, draft = question
    for finding in check(draft, universe):
        if finding.grade is Grade.CAUTION:
            edit = Accept(code=finding.code, mods=finding.mods, facts=finding.facts, reason="we know")
            after = check(apply(draft, edit), universe)
            assert [f.accepted for f in after if f.facts == finding.facts] == ["we know"]
