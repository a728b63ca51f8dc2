"""Edits, previews, freezing, comparing, and what a rig does about a release."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.universes import GAME, SLUGS, build, catalogue, mod, pack
from true_convoy.core import documents
from true_convoy.core.assemble import preview_add, preview_remove, totals
from true_convoy.core.compare import as_markdown, compare, next_version
from true_convoy.core.edits import (
    AddEntry,
    RemoveEntry,
    SetBuild,
    SetEnabled,
    SetGround,
    SetNote,
    SetPathRules,
    SetPin,
    Several,
    apply,
    clashing,
    edit_from,
    edit_to,
    in_words,
)
from true_convoy.core.errors import DocumentError, EditRefused, FreezeRefused, UnsafePath
from true_convoy.core.model import (
    Channel,
    Clashes,
    ContentFile,
    Entry,
    Inventory,
    Kind,
    Need,
    Packaging,
    Pin,
    Requires,
    RigFile,
    SaveEffect,
    Side,
    Sides,
    Step,
    Suggests,
)
from true_convoy.core.places import places_of
from true_convoy.core.release import digest_holds, freeze
from true_convoy.core.state import State, compare_inventory, state_of
from true_convoy.core.sync import plan, wanted_files

NOW = datetime(2026, 11, 1, 18, tzinfo=UTC)
_slugs = st.sampled_from(SLUGS)
EDITS = st.one_of(
    st.builds(AddEntry, mod=_slugs, version=st.sampled_from([None, "1.0.0"])),
    st.builds(RemoveEntry, mod=_slugs),
    st.builds(SetBuild, mod=_slugs, version=st.sampled_from(["1.0.0", "2.0.0"])),
    st.builds(SetEnabled, mod=_slugs, enabled=st.booleans()),
    st.builds(SetNote, mod=_slugs, note=st.text(max_size=4)),
    st.builds(SetPin, mod=_slugs, pin=st.none() | st.builds(Pin, reason=st.just("held"))),
    st.builds(SetPathRules, mod=_slugs, keep=st.just(("a/**",)), drop=st.just(())),
    st.builds(SetGround, game_version=st.sampled_from("12"), loader=st.none(), channel_floor=st.sampled_from(Channel)),
)


def attempt(value, edit):
    try:
        return apply(value, edit)
    except EditRefused:
        return None


@given(EDITS, EDITS)
def test_edits_that_touch_nothing_in_common_merge_in_either_order(one, two):
    draft = pack(*SLUGS[:3])
    if clashing(one, [two]):
        return
    ends = [attempt(attempt(draft, a), b) if attempt(draft, a) else None for a, b in ((one, two), (two, one))]
    sets = [end and (replace(end, entries=()), {entry.mod: entry for entry in end.entries}) for end in ends]
    assert sets[0] == sets[1]


@given(EDITS)
def test_an_edit_survives_being_stored_and_is_said_in_words(edit):
    assert edit_from(edit_to(edit)) == edit
    assert in_words(edit, {slug: slug.title() for slug in SLUGS})


@pytest.mark.parametrize(
    "raw", [None, {}, {"do": "dance"}, {"do": "remove"}, {"do": "several", "edits": []},
            {"do": "several", "edits": [{"do": "several", "edits": [{"do": "remove", "mod": "a"}]}]}],
)  # fmt: skip
def test_what_is_no_edit_is_refused(raw):
    with pytest.raises(DocumentError):
        edit_from(raw)


@pytest.mark.parametrize(
    ("edit", "why"),
    [
        (AddEntry(mod="ash"), "already in the draft"),
        (RemoveEntry(mod="elm"), "not in the draft any more"),
        (SetBuild(mod="ash", version="2.0.0"), "pinned at 1.0.0"),
        (Several(edits=(SetNote(mod="ash", note="x"), RemoveEntry(mod="elm"))), "not in the draft any more"),
    ],
)
def test_edits_that_do_not_apply_say_why(edit, why):
    with pytest.raises(EditRefused, match=why):
        apply(pack(Entry(mod="ash", version="1.0.0", pin=Pin())), edit)


LIGHT = mod("light", build("1.0.0"), build("1.1.0"), build("2.0.0"))
TOWER = mod("tower", build("1.0.0", Requires(mod="light", versions="vers:semver/<2.0.0"), Suggests(mod="flag")))
FLAG = mod("flag", build("1.0.0", Clashes(mod="tower", reason="both stand on the rock")))
LATE = mod("late", build("3.0.0", game_versions="vers:generic/>=2"))
SHORE = catalogue(LIGHT, TOWER, FLAG, LATE)


def test_adding_shows_all_that_comes_and_does_it_in_one_edit():
    preview = preview_add(pack(), SHORE, ["tower"])
    assert [(c.mod, c.version, c.chosen, c.required_by) for c in preview.coming] == [
        ("tower", "1.0.0", True, ()),
        ("light", "1.1.0", False, ("Tower",)),
    ]
    assert [extra.mod for extra in preview.suggested] == ["flag"]
    after = apply(pack(), preview.edit)
    assert [(entry.mod, entry.chosen) for entry in after.entries] == [("tower", True), ("light", False)]
    assert in_words(preview.edit, {}) == "added Tower and 1 they need"
    assert totals(after, SHORE).download == 20 and totals(after, SHORE).brought_along == 1


def test_adding_moves_what_must_move_and_turns_on_what_was_off():
    draft = pack(Entry(mod="light", version="2.0.0"))
    preview = preview_add(draft, SHORE, ["tower"])
    assert [(m.mod, m.old, m.new) for m in preview.moving] == [("light", "2.0.0", "1.1.0")]
    off = pack(Entry(mod="light", version="1.0.0", enabled=False))
    after = apply(off, preview_add(off, SHORE, ["tower"]).edit)
    assert after.entry("light").enabled
    assert preview_add(draft, SHORE, ["light"]).already == ("light",)


def test_what_cannot_be_added_says_why_and_what_is_nearest():
    assert preview_add(pack("tower"), SHORE, ["flag"]).edit is None
    late = preview_add(pack(), SHORE, ["late"]).explanation
    assert late[-1] == "The nearest build of Late, 3.0.0, is for game version 2 or newer, the pack is on 1."


def test_removing_offers_what_nothing_else_needs():
    draft = apply(pack(), preview_add(pack(), SHORE, ["tower"]).edit)
    assert preview_remove(draft, SHORE, ["tower"]).orphans == ("light",)
    assert preview_remove(draft, SHORE, ["light"]).needed_by == ("Tower",)
    assert apply(draft, preview_remove(draft, SHORE, ["tower"]).edit).entries == ()


def frozen(*entries, version="1.0.0", universe=SHORE, **more):
    return freeze(pack(*entries, **more), universe, version=version, published=NOW)


def test_a_release_has_exactly_what_the_draft_resolves_to_and_a_digest_that_holds():
    release = frozen("tower", Entry(mod="flag", enabled=False))
    assert [(e.mod, e.version, e.required_by) for e in release.entries] == [
        ("tower", "1.0.0", ()),
        ("light", "1.1.0", ("tower",)),
    ]
    assert release.entries[0].places[0].target == "mods/1.0.0.zip"
    again = documents.read(type(release), documents.write(release)).value
    assert again == release and digest_holds(again)
    assert not digest_holds(replace(release, notes="altered"))
    assert frozen("tower").digest == release.digest


def test_a_draft_that_cannot_be_released_says_why():
    for draft, why in (
        (("tower", "flag"), "both stand on the rock"),
        (("nofile",), "has no file"),
        (("nosum",), "has no checksum"),
        (("devious",), "cannot be placed"),
    ):
        nosum = replace(build("1.0.0").file, sha256=None)
        devious = replace(build("1.0.0").file, name="..\\..\\run.exe")
        universe = catalogue(
            *SHORE.mods,
            mod("nofile", replace(build("1.0.0"), file=None)),
            mod("nosum", replace(build("1.0.0"), file=nosum)),
            mod("devious", replace(build("1.0.0"), file=devious)),
        )
        with pytest.raises(FreezeRefused, match=why):
            frozen(*draft, universe=universe)


def test_places_follow_the_kind():
    contents = tuple(
        ContentFile(path=path, size=1, sha256="a" * 64)
        for path in ("Outer/Ember/mod.json", "Outer/Ember/art/fire.png", "Outer/readme.md")
    )
    made = replace(build("1.0.0"), contents=contents)
    folder = Kind(slug="mod", name="Mod", folder="Mods", packaging=Packaging.FOLDER, manifest="mod.json")
    targets = [place.target for place in places_of(made, folder, "ember", (), ("**/*.png",))]
    assert targets == ["Mods/Ember/mod.json"]
    overlay = Kind(slug="mod", name="Mod", packaging=Packaging.OVERLAY)
    assert places_of(made, overlay, "ember", ("Outer/*",), ())[0].target == "Outer/readme.md"
    hostile = replace(made, contents=(ContentFile(path="../evil", size=1, sha256="a" * 64),))
    with pytest.raises(UnsafePath):
        places_of(hostile, overlay, "ember", (), ())


def test_compare_tells_every_kind_of_change_and_its_size():
    old = frozen("tower", Entry(mod="light", version="1.0.0"))
    cases = [
        (frozen("tower", Entry(mod="light", version="1.0.0")), "1.0.1", ""),
        (frozen("tower", Entry(mod="light", version="1.1.0")), "1.1.0", "Light 1.0.0 to 1.1.0"),
        (frozen(Entry(mod="light", version="1.0.0")), "2.0.0", "Tower 1.0.0"),
        (frozen("tower", Entry(mod="light", version="1.0.0", optional=True)), "1.0.1", "is now optional"),
        (frozen("tower", Entry(mod="light", version="1.0.0"), name="Q"), "1.0.1", "called Q instead of P"),
    ]
    for new, version, words in cases:
        difference = compare(old, new)
        assert next_version("1.0.0", difference) == version
        assert words in as_markdown(difference)
    moved = compare(old, replace(old, game_version="2"))
    assert moved.ground == ("Game version 1 became 2.",) and next_version("1.0.0", moved) == "2.0.0"
    gone = compare(replace(old, entries=(replace(old.entries[0], save_effect=SaveEffect.LOSES),)), pack())
    assert gone.removed[0].loses_saves and compare(old, old).count == 0
    assert next_version(None, None) == "1.0.0"


# --- a rig -------------------------------------------------------------------------------------------------------


def named(slug: str, sides: Sides = Sides(), url: str | None = "http://x/", optional: bool = False):
    file = replace(build("1.0.0").file, name=f"{slug}.zip", sha256=f"{SLUGS.index(slug) + 1:064x}", url=url)
    return mod(slug, replace(build("1.0.0"), file=file), sides=sides)


ONLY_SERVER = Sides(client=Need.UNSUPPORTED, server=Need.REQUIRED)
RIG_SHORE = catalogue(named("ash"), named("birch", ONLY_SERVER), named("cedar", url=None), named("date"))
RELEASE = freeze(
    pack("ash", "birch", "cedar", Entry(mod="date", optional=True)), RIG_SHORE, version="1.0.0", published=NOW
)


def has(*names: str, altered: tuple[str, ...] = (), **more) -> Inventory:
    wanted = wanted_files(RELEASE, Side.CLIENT) | wanted_files(RELEASE, Side.SERVER)
    files = []
    for name in names:
        path = name if "/" in name else f"mods/{name}.zip"
        sha256 = wanted[path].sha256 if path in wanted and name not in altered else "f" * 64
        files.append(RigFile(path=path, size=10, sha256=sha256))
    return Inventory(**{"release": RELEASE.digest, "files": tuple(files)} | more)


def test_each_side_gets_its_own_and_optional_ones_can_be_left_out():
    assert sorted(wanted_files(RELEASE, Side.CLIENT)) == ["mods/ash.zip", "mods/cedar.zip", "mods/date.zip"]
    assert "mods/birch.zip" in wanted_files(RELEASE, Side.SERVER)
    assert "mods/date.zip" not in wanted_files(RELEASE, Side.CLIENT, frozenset({"date"}))


PLANS = [
    (has(), {}, ["ash", "date"], [], ["cedar"]),
    (has("ash", "cedar", "date"), {}, [], [], []),
    (has("ash", "date", altered=("ash",)), {}, ["ash"], [("ash", "was altered")], ["cedar"]),
    (has("ash", "date", altered=("ash",)), {"mods/ash.zip": "f" * 64}, ["ash"],
     [("ash", "replaced by another build")], ["cedar"]),
    (has("ash", "cedar", "date", "old"), {"mods/old.zip": "f" * 64}, [], [("old", "no longer in the pack")], []),
    (has("ash", "cedar", "date", "mine"), {}, [], [("mine", "not in the pack")], []),
    (has("ash", "cedar", "date", "mine", keepsakes=("mods/mine.zip",)), {}, [], [], []),
    (has("ash", "cedar", "date", altered=("ash",), keepsakes=("mods/ash.zip",)), {}, [], [], []),
    (has("ash", "cedar", "date", "saves/world.dat"), {}, [], [], []),
    (has("ash", "cedar", without=("date",)), {}, [], [], []),
]  # fmt: skip


@pytest.mark.parametrize(("inventory", "placed", "place", "aside", "awaited"), PLANS)
def test_plans(inventory, placed, place, aside, awaited):
    made = plan(RELEASE, inventory, placed)
    short = lambda path: path.removeprefix("mods/").removesuffix(".zip")  # noqa: E731
    assert [short(goal.target) for goal in made.place] == place
    assert [(short(item.path), item.reason) for item in made.set_aside] == aside
    assert [short(goal.target) for goal in made.awaited] == awaited


STATES = [
    (has("ash", "cedar", "date"), RELEASE.digest, 1, State.IN_STEP),
    (has("ash", "cedar", "date"), "0" * 64, 1, State.BEHIND),
    (has("ash", "cedar", "date", "mine"), RELEASE.digest, 1, State.STRAYED),
    (has("ash", "date"), RELEASE.digest, 1, State.WAITING),
    (has("cedar", "date"), RELEASE.digest, 1, State.STRAYED),
    (has("ash", "cedar", "date"), RELEASE.digest, 15, State.SILENT),
    (has("ash", "cedar", "date", "mine", keepsakes=("mods/mine.zip",)), RELEASE.digest, 1, State.IN_STEP),
]


@pytest.mark.parametrize(("inventory", "target", "days", "state"), STATES)
def test_states(inventory, target, days, state):
    comparison = compare_inventory(inventory, RELEASE)
    assert state_of(comparison, target, NOW - timedelta(days=days), NOW) is state


def test_a_rig_before_its_first_release_is_behind_and_one_with_open_steps_waits():
    assert state_of(compare_inventory(Inventory(), None), RELEASE.digest, NOW, NOW) is State.BEHIND
    step = replace(RELEASE, steps=(Step(id="patch", title="Patch"),))
    whole = has("ash", "cedar", "date")
    assert state_of(compare_inventory(whole, step), RELEASE.digest, NOW, NOW) is State.WAITING
    done = replace(whole, steps_done=("patch",))
    assert state_of(compare_inventory(done, step), RELEASE.digest, NOW, NOW) is State.IN_STEP


@given(st.sets(st.sampled_from(["ash", "cedar", "date", "mine", "old"])), st.sets(st.sampled_from(["ash", "mine"])))
def test_after_a_plan_was_carried_out_there_is_nothing_left_to_do(present, altered):
    inventory = has(*sorted(present), altered=tuple(altered))
    made = plan(RELEASE, inventory, {})
    files = {file.path: file for file in inventory.files}
    for item in made.set_aside:
        del files[item.path]
    for goal in made.place:
        assert goal.target not in files, "nothing is ever written over"
        files[goal.target] = RigFile(path=goal.target, size=goal.size, sha256=goal.sha256)
    after = replace(inventory, files=tuple(files.values()))
    assert plan(RELEASE, after, {}).nothing_to_do
    assert not compare_inventory(after, RELEASE).strayed


def test_the_later_in_the_load_order_wins_a_path():
    one, two = named("ash"), named("birch")
    clash = replace(two.builds[0], file=replace(two.builds[0].file, name="ash.zip"))
    universe = catalogue(one, replace(two, builds=(clash,)))
    for first, winner in ((1, "birch"), (3, "ash")):
        draft = pack(Entry(mod="ash", order=first), Entry(mod="birch", order=2))
        release = freeze(draft, universe, version="1.0.0", published=NOW)
        assert wanted_files(release, Side.CLIENT)["mods/ash.zip"].mod == winner


def test_a_game_the_catalogue_does_not_have_is_said():
    with pytest.raises(FreezeRefused, match='does not have the game "g"'):
        freeze(pack(), replace(catalogue(), games=()), version="1.0.0", published=NOW)
    assert GAME.runtime_for("9") is None
