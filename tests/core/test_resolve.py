"""What "resolved" promises, held against brute force on small random universes, and the words of "impossible"."""

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.universes import Judge, build, catalogue, mod, pack, questions, shuffled
from true_convoy.core.explain import Impossible
from true_convoy.core.model import Bundles, Clashes, Entry, Need, Pin, Requires, Sides, Target
from true_convoy.core.provider import PackProvider
from true_convoy.core.ranges import in_range
from true_convoy.core.resolve import Resolved, as_it_stands, resolve, searched
from true_convoy.core.versions import Scheme, sort_key

many = settings(max_examples=200, deadline=None, suppress_health_check=[HealthCheck.too_slow])


@many
@given(questions(), st.booleans(), st.randoms(use_true_random=False))
def test_every_promise_holds_on_random_universes(question, newest, random):
    universe, draft = question
    judge = Judge(universe, draft)
    answer = resolve(draft, universe, newest=newest)
    assert resolve(shuffled(draft, random), shuffled(universe, random), newest=newest) == answer, "deterministic"
    if isinstance(answer, Impossible):
        assert next(judge.all_sound(), None) is None, "complete"
        assert answer.explanation
        return
    assert judge.sound(answer.builds), "sound"
    assert set(answer.builds) <= judge.needed(answer.builds), "lean"
    for slug, version in answer.builds.items():
        entry = judge.entries.get(slug)
        if entry is not None and entry.pin is not None and entry.version is not None:
            assert version == entry.version, "pinned"
            continue
        for other in judge.allowed(slug):
            better = sort_key(Scheme.SEMVER, other) > sort_key(Scheme.SEMVER, version) if newest else False
            back = not newest and entry is not None and entry.version == other != version
            if better or back:
                assert not judge.sound(answer.builds | {slug: other}), "newest or calm"


@many
@given(questions(), st.randoms(use_true_random=False))
def test_what_is_seen_without_a_search_is_what_the_search_finds(question, random):
    universe, draft = question
    mods = universe.by_slug(draft.game)
    versions = {slug: [build.version for build in one.builds] for slug, one in mods.items()}
    entries = [
        replace(
            entry,
            version=entry.version or random.choice(versions.get(entry.mod) or [None]),
            chosen=random.random() < 0.5,
        )
        for entry in draft.entries
    ]
    entries += [
        Entry(mod=slug, version=random.choice(versions[slug]), chosen=False)
        for slug in sorted(mods)
        if draft.entry(slug) is None and versions[slug] and random.random() < 0.6
    ]
    whole = replace(draft, entries=tuple(entries))
    seen = as_it_stands(PackProvider(whole, universe))
    assert seen is None or seen == searched(PackProvider(whole, universe))


@many
@given(questions())
def test_the_explained_mods_alone_are_already_impossible(question):
    universe, draft = question
    answer = resolve(draft, universe)
    if isinstance(answer, Impossible):
        entries = tuple(entry for entry in draft.entries if entry.mod in answer.mods)
        alone = resolve(pack(*entries, channel_floor=draft.channel_floor), universe)
        assert isinstance(alone, Impossible)


ROPE = mod("rope-library", *(build(version) for version in ("1.8.1", "2.0.0", "2.3.0")))
DEEP = mod("deep-chart", build("3.0.0", Requires(mod="rope-library", versions="vers:semver/>=2.0.0")))
GRAND = mod("grand-buoys", build("1.0.0", Requires(mod="rope-library", versions="vers:semver/<2.0.0")))


def test_a_conflict_is_told_in_sentences_of_real_rules():
    answer = resolve(pack("deep-chart", "grand-buoys"), catalogue(ROPE, DEEP, GRAND))
    assert answer == Impossible(
        mods=("deep-chart", "grand-buoys", "rope-library"),
        explanation=(
            "Deep Chart is in the draft.",
            "Deep Chart needs Rope Library 2.0.0 or newer.",
            "Grand Buoys is in the draft.",
            "Grand Buoys needs Rope Library below 2.0.0.",
        ),
    )


def test_what_it_brings_along_says_why():
    answer = resolve(pack(Entry(mod="deep-chart", version="3.0.0")), catalogue(ROPE, DEEP, GRAND))
    assert answer == Resolved(
        builds={"deep-chart": "3.0.0", "rope-library": "2.3.0"},
        added=("rope-library",),
        dropped=(),
        required_by={"rope-library": ("deep-chart",)},
    )


def test_calm_keeps_and_newest_raises():
    draft = pack("deep-chart", Entry(mod="rope-library", version="2.0.0", chosen=False))
    assert resolve(draft, catalogue(ROPE, DEEP)).builds["rope-library"] == "2.0.0"
    assert resolve(draft, catalogue(ROPE, DEEP), newest=True).builds["rope-library"] == "2.3.0"


def test_what_nothing_needs_any_more_is_dropped():
    answer = resolve(pack(Entry(mod="rope-library", version="2.0.0", chosen=False)), catalogue(ROPE))
    assert answer.builds == {} and answer.dropped == ("rope-library",)


def test_a_bundled_copy_meets_a_requirement_and_no_second_copy_comes():
    trawler = mod("trawler", build("1.0.0", Bundles(mod="rope-library", version="2.1.0")))
    assert resolve(pack("deep-chart", "trawler"), catalogue(ROPE, DEEP, trawler)).added == ()


def test_alternatives_prefer_what_is_there_and_then_what_most_people_use():
    either = mod("lamp-post", build("1.0.0", Requires(any=(Target(mod="oil"), Target(mod="gas")))))
    oil, gas = mod("oil", build("1.0.0"), installs=5), mod("gas", build("1.0.0"), installs=9)
    assert resolve(pack("lamp-post"), catalogue(either, oil, gas)).added == ("gas",)
    assert resolve(pack("lamp-post", "oil"), catalogue(either, oil, gas)).added == ()


def test_sides_that_never_meet_do_not_help_each_other():
    chart = mod(
        "chart", build("1.0.0", Requires(mod="ink")), sides=Sides(client=Need.UNSUPPORTED, server=Need.REQUIRED)
    )
    ink = mod("ink", build("1.0.0"), sides=Sides(client=Need.REQUIRED, server=Need.UNSUPPORTED))
    answer = resolve(pack("chart"), catalogue(chart, ink))
    assert "Chart needs Ink, and the two are never on the same side." in answer.explanation


def test_each_dead_end_says_why():
    cases = [
        (pack("nowhere"), "nowhere is in the draft, and the catalogue does not have it."),
        (pack("late"), "Late is in the draft and has no build for game version 1."),
        (
            pack(Entry(mod="late", version="1.0.0", pin=Pin(reason="held"))),
            "Late is pinned at 1.0.0, which is for game version 2 or newer, the pack is on 1.",
        ),
        (pack("wants-late"), "Wants Late needs Late, and no such build may be taken for game version 1."),
        (pack("wants-gone"), "Wants Gone needs gone, and the catalogue does not have it."),
        (pack("calm", "storm"), "Storm clashes with Calm 1.0.0 or newer (both own the weather)."),
    ]
    universe = catalogue(
        mod("late", build("1.0.0", game_versions="vers:generic/>=2")),
        mod("wants-late", build("1.0.0", Requires(mod="late"))),
        mod("wants-gone", build("1.0.0", Requires(mod="gone"))),
        mod("calm", build("1.0.0")),
        mod(
            "storm", build("1.0.0", Clashes(mod="calm", versions="vers:semver/>=1.0.0", reason="both own the weather"))
        ),
    )
    for draft, sentence in cases:
        answer = resolve(draft, universe)
        assert isinstance(answer, Impossible) and sentence in answer.explanation, answer


def test_a_chain_of_a_thousand_needs_is_followed():
    chain = [mod(f"m{i}", build("1.0.0", Requires(mod=f"m{i + 1}"))) for i in range(1000)]
    answer = resolve(pack("m0"), catalogue(*chain, mod("m1000", build("1.0.0"))))
    assert len(answer.added) == 1000 and in_range(None, answer.builds["m1000"])
