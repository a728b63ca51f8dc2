"""Edits change what they say they touch and nothing else, are told in words, and mean the same when stored."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import asdict

from tests.universes import pack
from true_convoy.core.edits import (
    Accept,
    AddEntry,
    RemoveEntry,
    RemoveFile,
    RemoveSetting,
    SetBuild,
    SetChosen,
    SetDetails,
    SetEnabled,
    SetFair,
    SetGround,
    SetLabel,
    SetLoadOrder,
    SetNote,
    SetOptional,
    SetPathRules,
    SetPin,
    SetRuntime,
    SetSetting,
    SetSides,
    Several,
    Unaccept,
    apply,
    clashing,
    edit_from,
    edit_to,
    in_words,
    touches,
)
from true_convoy.core.errors import EditRefused
from true_convoy.core.model import (
    Channel,
    ContentFile,
    Entry,
    LoaderChoice,
    Need,
    Pin,
    Runtime,
    Setting,
    SettingRule,
    Sides,
)

SLUGS = ["ash", "birch", "cedar"]
NAMES = {"ash": "Ash", "birch": "Birch", "cedar": "Cedar", "keel": "Keel"}
SERVER = Sides(client=Need.UNSUPPORTED, server=Need.REQUIRED)
SETTING = Setting(file="config/a.toml", key="light", value=4, rule=SettingRule.ENFORCE)
DRAFT = pack(
    *(Entry(mod=slug, version="1.0.0") for slug in SLUGS),
    settings=(SETTING,),
    files=(ContentFile(path="flags/club.png", size=1),),
)
_slugs = st.sampled_from([*SLUGS, "date"])
_texts = st.sampled_from(["", "a", "soup on Thursdays"])
EDITS = st.one_of(
    st.builds(AddEntry, mod=_slugs, version=st.sampled_from([None, "2.0.0"]), chosen=st.booleans()),
    st.builds(RemoveEntry, mod=_slugs),
    st.builds(SetBuild, mod=_slugs, version=st.sampled_from([None, "2.0.0"])),
    st.builds(SetEnabled, mod=_slugs, enabled=st.booleans()),
    st.builds(SetChosen, mod=_slugs, chosen=st.booleans()),
    st.builds(SetPin, mod=_slugs, pin=st.sampled_from([None, Pin(reason="why")])),
    st.builds(SetOptional, mod=_slugs, optional=st.booleans(), by_default=st.booleans(), one_of=_texts),
    st.builds(SetSides, mod=_slugs, sides=st.sampled_from([None, SERVER])),
    st.builds(SetPathRules, mod=_slugs, keep=st.just(()), drop=st.sampled_from([(), ("docs/**",)])),
    st.builds(SetLabel, mod=_slugs, label=_texts),
    st.builds(SetNote, mod=_slugs, note=_texts),
    st.builds(SetGround, game_version=st.just("2"), loader=st.none(), channel_floor=st.just(Channel.BETA)),
    st.builds(SetDetails, name=st.just("New"), purpose=st.just("server"), label=_texts, emblem=_texts),
    st.builds(SetFair, fair=st.booleans()),
    st.builds(SetRuntime, runtime=st.just(Runtime(memory_min_mib=4096))),
    st.builds(SetLoadOrder, mods=st.permutations(SLUGS).map(tuple)),
    st.builds(SetSetting, setting=st.just(SETTING)),
    st.builds(RemoveSetting, file=st.just("config/a.toml"), key=st.sampled_from(["light", "none"])),
    st.builds(RemoveFile, path=st.sampled_from(["flags/club.png", "none"])),
    st.builds(Accept, code=st.just("clash"), mods=st.just(("ash",)), facts=st.just("f"), reason=st.just("fine")),
    st.builds(Unaccept, code=st.just("clash"), mods=st.just(("ash",)), facts=st.just("f")),
)
# Which parts of a pack an edit about something other than an entry may change.
ELSEWHERE = {
    "ground": {"game_version", "loader", "channel_floor"},
    "details": {"name", "purpose", "label", "emblem", "picture", "fair"},
    "runtime": {"runtime"},
    "setting": {"settings"},
    "file": {"files"},
    "accepted": {"accepted"},
}


@given(EDITS)
def test_an_edit_changes_what_it_touches_and_nothing_else(edit):
    try:
        after = apply(DRAFT, edit)
    except EditRefused:
        return
    about = touches(edit)
    before_entries, after_entries = ({e.mod: e for e in value.entries} for value in (DRAFT, after))
    for mod in before_entries.keys() | after_entries.keys():
        same = before_entries.get(mod) == after_entries.get(mod)
        assert same or f"entry:{mod}" in about or "load-order" in about
    allowed = {"entries"}.union(*(ELSEWHERE.get(one.partition(":")[0], set()) for one in about))
    changed = {key for key, value in asdict(after).items() if getattr(DRAFT, key) != value}
    assert changed <= allowed, (edit, changed)


@given(EDITS)
def test_a_stored_edit_means_the_same(edit):
    again = edit_from(edit_to(edit))
    assert again == edit and touches(again) == touches(edit)


@given(EDITS)
def test_every_edit_is_told_in_words_without_slugs_of_what_has_a_name(edit):
    words = in_words(edit, NAMES)
    assert words and not words.endswith(".") and words[0].islower()
    assert not any(slug in words.split() for slug in SLUGS)


@given(EDITS, EDITS)
def test_edits_that_touch_nothing_in_common_can_be_made_in_any_order(one, two):
    if clashing(one, [two]) or {type(one), type(two)} & {AddEntry, RemoveEntry, SetLoadOrder}:
        return
    try:
        there, back = apply(apply(DRAFT, one), two), apply(apply(DRAFT, two), one)
    except EditRefused:
        return
    assert there == back


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (AddEntry(mod="ash", version="1.0.0", chosen=False), "added Ash 1.0.0 (brought along)"),
        (SetBuild(mod="ash", version=None), "set Ash to any fitting build"),
        (SetOptional(mod="ash", optional=False), "made Ash part of every rig"),
        (SetOptional(mod="ash", optional=True), "made Ash optional, there by default"),
        (
            SetOptional(mod="ash", optional=True, by_default=False, one_of="Trees"),
            'made Ash optional, one of "Trees", left out by default',
        ),
        (SetLabel(mod="ash", label="Wood"), 'put Ash under "Wood"'),
        (SetLabel(mod="ash", label=""), "took Ash from under its label"),
        (SetNote(mod="ash", note="burns well"), "changed the note of Ash: burns well"),
        (SetNote(mod="ash", note=""), "changed the note of Ash"),
        (SetDetails(name="Grove", purpose="group", label="Woods"), 'named the pack "Grove", listed under "Woods"'),
        (
            SetGround(game_version="2.4", loader=LoaderChoice(slug="keel"), channel_floor=Channel.STABLE),
            "moved to game version 2.4 with Keel",
        ),
        (Several(edits=(SetFair(fair=True),), label=""), "1 changes"),
    ],
)
def test_what_the_history_says(edit, words):
    assert in_words(edit, NAMES) == words
