"""Alternatives, extras and ways when adding; what depends on what; optional entries; lists to take away."""

import csv
import io

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.universes import build, catalogue, mod, pack, questions
from true_convoy.core.assemble import depending_on, preview_add, totals
from true_convoy.core.edits import apply
from true_convoy.core.explain import Impossible
from true_convoy.core.listing import Row, as_csv, as_markdown
from true_convoy.core.model import (
    BuildFile,
    Clashes,
    Entry,
    Inventory,
    Pin,
    Release,
    ReleaseEntry,
    Requires,
    Suggests,
    Target,
)
from true_convoy.core.resolve import resolve
from true_convoy.core.sync import left_out

LAMP = mod("lamp", build("1.0.0"), installs=9)
GLOW = mod("glow", build("2.0.0"))
HALL = mod("hall", build("1.0.0", Requires(any=(Target(mod="lamp"), Target(mod="glow"))), Suggests(mod="rug")))
RUG = mod("rug", build("1.0.0"))
FOG = mod("fog", build("1.0.0", Clashes(mod="lamp", reason="both hide the hall")))
HOUSE = catalogue(LAMP, GLOW, HALL, RUG, FOG)


def test_where_several_could_meet_a_need_one_is_proposed_and_another_can_be_taken():
    first = preview_add(pack(), HOUSE, ["hall"])
    (choice,) = first.alternatives
    assert choice.by_name == "Hall" and [(c.mod, c.taken) for c in choice.choices] == [("lamp", True), ("glow", False)]
    other = preview_add(pack(), HOUSE, ["hall"], along=["glow"])
    assert [(c.mod, c.chosen) for c in other.coming] == [("hall", True), ("glow", False)]
    after = apply(pack(), other.edit)
    assert {entry.mod: entry.chosen for entry in after.entries} == {"hall": True, "glow": False}
    assert preview_add(pack("glow"), HOUSE, ["hall"]).alternatives == (), "what is there decides"


def test_extras_say_who_suggests_them_and_whether_they_fit():
    (extra,) = preview_add(pack(), HOUSE, ["hall"]).suggested
    assert (extra.mod, extra.suggested_by, extra.version) == ("rug", ("Hall",), "1.0.0")
    assert preview_add(pack("rug"), HOUSE, ["hall"]).suggested == ()


def test_what_cannot_be_added_says_with_which_change_it_could():
    draft = pack("lamp", Entry(mod="hall", version="1.0.0"))
    preview = preview_add(draft, HOUSE, ["fog"])
    assert preview.edit is None and [way.label for way in preview.ways] == ["Turn off Lamp"]
    after = apply(draft, preview.ways[0].edit)
    answer = resolve(after, HOUSE)
    assert not isinstance(answer, Impossible) and {"fog", "hall", "glow"} <= answer.builds.keys()


@given(questions())
def test_each_way_makes_possible_what_was_not(question):
    universe, draft = question
    for one in universe.mods:
        if draft.entry(one.slug) is None:
            for way in preview_add(draft, universe, [one.slug]).ways:
                after = apply(draft, way.edit)
                assert after.entry(one.slug) and not isinstance(resolve(after, universe), Impossible)


def test_what_could_not_do_without_an_entry_is_found_at_every_level():
    chain = catalogue(
        mod("a", build("1.0.0")),
        mod("b", build("1.0.0", Requires(mod="a"))),
        mod("c", build("1.0.0", Requires(mod="b"))),
    )
    draft = pack(*(Entry(mod=slug, version="1.0.0") for slug in "abc"))
    assert depending_on(draft, chain, ["a"]) == ("b", "c") and depending_on(draft, chain, ["c"]) == ()


def release(*entries: ReleaseEntry) -> Release:
    from datetime import UTC, datetime

    facts = {"slug": "p", "name": "P", "game": "g", "game_version": "1", "version": "1", "published": datetime.now(UTC)}
    return Release(entries=entries, **facts)


def offered(slug: str, **more) -> ReleaseEntry:
    return ReleaseEntry(
        mod=slug, version="1", optional=True, file=BuildFile(name=f"{slug}.zip", sha256="c" * 64), **more
    )


def test_optional_entries_follow_their_default_until_a_member_says_otherwise():
    given_release = release(offered("a"), offered("b", by_default=False))
    assert left_out(given_release, Inventory()) == {"b"}
    assert left_out(given_release, Inventory(taking=("b",))) == set()
    assert left_out(given_release, Inventory(without=("a",), taking=("b",))) == {"a"}


@given(
    st.lists(st.sampled_from("abc"), unique=True),
    st.lists(st.sampled_from("abc"), unique=True, max_size=2),
    st.sets(st.sampled_from("abc")),
)
def test_of_a_group_a_member_has_exactly_one(taking, without, defaults):
    group = release(*(offered(slug, one_of="Water", by_default=slug in defaults) for slug in "abc"))
    out = left_out(group, Inventory(taking=tuple(taking), without=tuple(without)))
    (one,) = set("abc") - out
    asked = [slug for slug in taking if slug not in without]
    assert one not in without and (not asked or one == asked[0])
    assert asked or not (defaults - set(without)) or one in defaults


def test_the_part_that_the_last_release_has_is_told_apart():
    draft = pack(Entry(mod="lamp", version="1.0.0"), Entry(mod="glow", version="2.0.0"))
    file = LAMP.builds[0].file
    last = release(ReleaseEntry(mod="lamp", version="1.0.0", file=file))
    assert (totals(draft, HOUSE).shared, totals(draft, HOUSE, last).shared) == (0, 10)


def test_lists_can_be_taken_away_and_do_no_harm():
    evil = replace(LAMP, name='=1+1, "quoted"', page="https://x.example/a", licence="MIT")
    entry = Entry(mod="lamp", version="1.0.0", pin=Pin(reason="it hums"), note="@home\nline two")
    rows = [Row.of(entry, evil), Row.of(Entry(mod="gone"), None)]
    head, first, second = csv.reader(io.StringIO(as_csv(rows)))
    assert head[:3] == ["name", "mod", "version"] and len(first) == len(head)
    assert first[0] == '\'=1+1, "quoted"' and first[-1] == "'@home\nline two" and first[-2] == "it hums"
    assert second[:3] == ["gone", "gone", "any"]
    listed = as_markdown(pack(entry, name="A *bold* pack"), rows)
    assert "# A \\*bold\\* pack" in listed and '- [=1+1, "quoted"](https://x.example/a) 1.0.0' in listed
