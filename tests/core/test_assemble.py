"""Assembling: whatever is added or removed through a preview, the draft fits together and nothing is left over."""

from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from tests.universes import SLUGS, build, catalogue, mod, pack, questions
from true_convoy.core.assemble import preview_add, preview_remove, totals
from true_convoy.core.edits import apply
from true_convoy.core.explain import Impossible
from true_convoy.core.model import Channel, ContentFile, Entry, Game, GameVersion, LoaderChoice, Memory, Pin, Requires
from true_convoy.core.resolve import Resolved, resolve

many = settings(
    max_examples=150, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much]
)
_wanted = st.lists(st.sampled_from(SLUGS), min_size=1, max_size=3, unique=True)


@many
@given(questions(), _wanted)
def test_after_adding_everything_needed_is_there_at_builds_that_fit(question, wanted):
    universe, draft = question
    preview = preview_add(draft, universe, wanted)
    if preview.edit is None:
        already = {entry.mod for entry in draft.entries if entry.enabled and entry.chosen}
        assert preview.explanation or set(wanted) <= already
        return
    after = apply(draft, preview.edit)
    answer = resolve(after, universe)
    assert isinstance(answer, Resolved) and answer.added == (), "nothing more has to come"
    versions = {entry.mod: entry.version for entry in after.entries if entry.enabled}
    assert all(versions[slug] == version for slug, version in answer.builds.items()), "and nothing has to move"
    assert all(after.entry(slug).chosen and after.entry(slug).enabled for slug in wanted)
    coming = {one.mod for one in preview.coming}
    assert coming == {slug for slug in answer.builds if not (e := draft.entry(slug)) or not e.enabled}


@many
@given(questions(), _wanted)
def test_what_is_removed_leaves_nothing_behind_that_nothing_needs(question, wanted):
    universe, draft = question
    added = preview_add(draft, universe, wanted)
    assume(added.edit is not None)
    after = apply(draft, added.edit)
    unneeded = set(resolve(after, universe).dropped)
    rest = apply(after, preview_remove(after, universe, wanted).edit)
    answer = resolve(rest, universe)
    assert not {entry.mod for entry in rest.entries} & set(wanted)
    assert isinstance(answer, Impossible) or set(answer.dropped) <= unneeded


def test_a_chosen_build_is_taken_and_a_pin_is_respected():
    rope = mod("rope", build("1.0.0"), build("2.0.0"), build("3.0.0"))
    net = mod("net", build("1.0.0", Requires(mod="rope", versions="vers:semver/>=2.0.0")))
    universe = catalogue(rope, net)
    preview = preview_add(pack(), universe, ["rope"], {"rope": "2.0.0"})
    assert preview.coming[0].version == "2.0.0"
    pinned = pack(Entry(mod="rope", version="1.0.0", pin=Pin(reason="held")))
    refused = preview_add(pinned, universe, ["net"])
    assert refused.edit is None and "Net needs Rope 2.0.0 or newer, and Rope is pinned at 1.0.0." in refused.explanation


def test_totals_count_what_is_on():
    game = Game(slug="g", name="G", versions=(GameVersion(label="1"),), memory=Memory(base_mib=1000, per_mod_mib=10))
    contents = (ContentFile(path="a", size=500), ContentFile(path="b", size=70))
    universe = catalogue(mod("big", build("1.0.0", contents=contents)), mod("small", build("1.0.0")))
    universe = type(universe)(games=(game,), mods=universe.mods)
    draft = pack(
        Entry(mod="big", version="1.0.0"),
        Entry(mod="small", version="1.0.0", chosen=False),
        Entry(mod="gone", version="1.0.0"),
        Entry(mod="off", version="1.0.0", enabled=False),
    )
    found = totals(draft, universe)
    assert (found.entries, found.brought_along, found.off) == (3, 1, 1)
    assert (found.download, found.disk, found.memory_mib) == (20, 580, 1030)


def test_the_reason_is_told_in_the_curators_words_for_every_part_of_the_ground():
    keel = LoaderChoice(slug="keel", version="0.9.3")
    cases = [
        ({"loaders": ("outrigger",)}, "is for outrigger, the pack uses keel"),
        ({"loader_versions": "vers:generic/>=1"}, "needs keel 1 or newer, the pack has 0.9.3"),
        ({"game_versions": "vers:generic/<1"}, "is for game version below 1, the pack is on 1"),
    ]
    for facts, reason in cases:
        preview = preview_add(pack(loader=keel), catalogue(mod("ash", build("1.0.0", **facts))), ["ash"])
        assert preview.explanation[-1] == f"The nearest build of Ash, 1.0.0, {reason}."
    beta = catalogue(mod("ash", build("1.0.0", channel=Channel.BETA)))
    assert preview_add(pack(loader=keel), beta, ["ash"]).explanation == (
        "Ash is to be added and has no build for game version 1 with keel 0.9.3.",
    )
    assert preview_add(pack(channel_floor=Channel.BETA), beta, ["ash"]).edit is not None
