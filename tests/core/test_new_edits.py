"""Edits of the whole pack: what each does, what it touches, how it is said, and that it survives being stored."""

import pytest

from tests.universes import pack
from true_convoy.core.edits import (
    Accept,
    RemoveFile,
    RemoveSetting,
    SetFair,
    SetGround,
    SetLoadOrder,
    SetRuntime,
    SetSetting,
    Several,
    Unaccept,
    apply,
    clashing,
    edit_from,
    edit_to,
    in_words,
    parts,
    touches,
)
from true_convoy.core.errors import EditRefused
from true_convoy.core.model import Accepted, Channel, ContentFile, LoaderChoice, Runtime, Setting

FLAG = ContentFile(path="flags/club.png", size=1)
RANGE = Setting(file="buoys.toml", key="range", value=4)
TAKEN = Accepted(code="save-loss", mods=("net",), facts="f", reason="we know")
BEFORE = pack("net", "rope", files=(FLAG,), settings=(RANGE,), accepted=(TAKEN,))
WIDER = Setting(file="buoys.toml", key="range", value=8)
GROUND = SetGround(game_version="2", loader=LoaderChoice(slug="keel", version="3"), channel_floor=Channel.STABLE)
CASES = [
    (SetFair(fair=True), "details", "said that the pack plays fair", lambda p: p.fair),
    (SetRuntime(runtime=Runtime(runtime_major=21)), "runtime", "changed what the pack asks of a machine",
     lambda p: p.runtime.runtime_major == 21),
    (SetLoadOrder(mods=("rope", "net")), "load-order", "changed the load order",
     lambda p: [entry.order for entry in p.entries] == [1, 0]),
    (SetSetting(setting=WIDER), "setting:buoys.toml:range", "set range of buoys.toml",
     lambda p: p.settings == (WIDER,)),
    (RemoveSetting(file="buoys.toml", key="range"), "setting:buoys.toml:range",
     "took range of buoys.toml out of the settings", lambda p: p.settings == ()),
    (RemoveFile(path=FLAG.path), f"file:{FLAG.path}", f"took the file {FLAG.path} out of the pack",
     lambda p: p.files == ()),
    (Accept(code="save-loss", mods=("net",), facts="g", reason="still"), "accepted:save-loss:net",
     "accepted a caution (save-loss): still", lambda p: [(a.facts, a.reason) for a in p.accepted] == [("g", "still")]),
    (Unaccept(code="save-loss", mods=("net",), facts="f"), "accepted:save-loss:net",
     "no longer accepts a caution (save-loss)", lambda p: p.accepted == ()),
    (GROUND, "ground", "moved to game version 2 with Keel 3", lambda p: p.loader.version == "3"),
]  # fmt: skip


@pytest.mark.parametrize("edit, about, words, done", CASES, ids=[case[0].__class__.__name__ for case in CASES])
def test_each_edit_does_what_it_says_and_can_be_stored(edit, about, words, done):
    assert done(apply(BEFORE, edit))
    assert touches(edit) == {about} and in_words(edit, {"keel": "Keel"}) == words
    assert edit_from(edit_to(edit)) == edit and parts(edit) == (edit,)
    assert clashing(edit, [edit]) == {about} and not clashing(edit, [SetLoadOrder(mods=())]) - {"load-order"}


@pytest.mark.parametrize(
    "edit", [RemoveFile(path="gone"), RemoveSetting(file="gone", key="x"), SetLoadOrder(mods=("gone",))]
)
def test_what_is_not_there_any_more_is_said(edit):
    with pytest.raises(EditRefused, match=r"gone.*any more"):
        apply(BEFORE, edit)


def test_several_edits_are_one_and_none_is_made_if_one_is_refused():
    both = Several(edits=(SetFair(fair=True), RemoveFile(path="gone")))
    assert parts(both) == both.edits
    with pytest.raises(EditRefused):
        apply(BEFORE, both)
    assert not BEFORE.fair
