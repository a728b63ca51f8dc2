"""Any text somebody pastes: each line is taken for the mod it means, or says why not."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.universes import pack
from true_convoy.core.model import Entry
from true_convoy.core.recognise import Answer, Directory, Guess, Known, TooMuch, folded, keys, page_key, read, recognise
from true_convoy.core.recognise import unknown as not_known

MODS = {
    "better-buoys": Known(mod="better-buoys", name="Better Buoys", versions=("1.5.1", "1.4.2")),
    "crows-nest": Known(mod="crows-nest", name="Crow's Nest", versions=("1.0.2",)),
    "2nd-mate": Known(mod="2nd-mate", name="2nd Mate", versions=("2.0.0-beta.1",)),
    "moor": Known(mod="moor", name="Möor & Wünder", versions=("1",)),
}
SUM = "ab" * 32
DIRECTORY = Directory(
    mods=MODS,
    keys={folded(text): Guess(slug, None) for slug, known in MODS.items() for text in (slug, known.name)}
    | {page_key("https://mods.example/p/77"): Guess("crows-nest", None), SUM: Guess("better-buoys", "1.4.2")},
    near={"beter boys": ("better-buoys",)},
)


def taken(text: str, *entries: Entry) -> list:
    return recognise(read(text), DIRECTORY, pack(*entries))


@pytest.mark.parametrize(
    ("line", "mod", "version"),
    [
        ("Better Buoys", "better-buoys", None),
        ("better-buoys", "better-buoys", None),
        ("BETTER_BUOYS", "better-buoys", None),
        ("- Better Buoys", "better-buoys", None),
        ("3. Better Buoys,", "better-buoys", None),
        ("[x] Better Buoys", "better-buoys", None),
        ("* **Better Buoys**", "better-buoys", None),
        ("“Better Buoys”", "better-buoys", None),
        ("Better Buoys - rings, and lights up", "better-buoys", None),
        ("Better Buoys 1.4.2", "better-buoys", "1.4.2"),
        ("Better Buoys v1.4.2", "better-buoys", "1.4.2"),
        ("Better Buoys (1.4.2)", "better-buoys", "1.4.2"),
        ("better-buoys@1.4.2", "better-buoys", "1.4.2"),
        ("better-buoys==1.4.2", "better-buoys", "1.4.2"),
        ("better-buoys-1.4.2.zip", "better-buoys", "1.4.2"),
        ("2nd-mate-2.0.0-beta.1.7z", "2nd-mate", "2.0.0-beta.1"),
        ("crow's nest", "crows-nest", None),
        ("Crow’s Nest", "crows-nest", None),
        ("Moor & Wunder", "moor", None),
        ("pkg:generic/tidewrack/better-buoys@1.4.2?arch=any#sub", "better-buoys", "1.4.2"),
        ("see pkg:generic/better%2Dbuoys.", "better-buoys", None),
        ("https://mods.example/p/77", "crows-nest", None),
        ("http://www.mods.example/p/77/?tab=files", "crows-nest", None),
        ("https://other.example/mods/better-buoys/files/1234", "better-buoys", None),
        ("https://other.example/get/better-buoys-1.4.2.zip", "better-buoys", "1.4.2"),
        ("[Better Buoys](https://nowhere.example/x)", "better-buoys", None),
        ("Better Buoys: https://nowhere.example/abc", "better-buoys", None),
        ("[20:14] Idris: Better Buoys!", "better-buoys", None),
        ("20:14 <Idris> better-buoys", "better-buoys", None),
        ("@Tove Lindqvist: Crow's Nest, please", "crows-nest", None),
        ("Better Buoys;1.4.2;MIT", "better-buoys", "1.4.2"),
        ('"Better Buoys","better-buoys","1.4.2"', "better-buoys", "1.4.2"),
        ("Better Buoys\t1.4.2", "better-buoys", "1.4.2"),
        ("| Better Buoys | 1.4.2 |", "better-buoys", "1.4.2"),
        (f"{SUM}  some-file.zip", "better-buoys", "1.4.2"),
        ("Bet\u200bter Buo\u202eys", "better-buoys", None),
    ],
)
def test_a_line_is_taken_for_the_mod_it_means(line, mod, version):
    (found,) = taken(line)
    assert (found.answer, found.mod, found.version) == (Answer.FOUND, mod, version)


@pytest.mark.parametrize(
    "line", ["", "   ", "# what we play", "// not these", "name,version", "|---|---|", "Mod\tVersion"]
)
def test_lines_that_name_nothing_say_nothing(line):
    assert taken(line) == []


def test_doubles_what_is_in_and_what_is_not_known_are_told_apart():
    text = "Better Buoys\nbeter boys\nhttps://x.example/better-buoys\nCrow's Nest 9.9\n2nd Mate\n????"
    there = Entry(mod="2nd-mate", version="2.0.0-beta.1")
    first, near, double, odd, inside, nothing = taken(text, there)
    assert first.answer is Answer.FOUND and first.versions == ("1.5.1", "1.4.2")
    assert near.answer is Answer.UNKNOWN and near.near == ("better-buoys",)
    assert double.answer is Answer.TWICE and double.note == "The same as line 1."
    assert odd.version is None and odd.note == "Crow's Nest has no build 9.9; the best fitting one is taken."
    assert inside.answer is Answer.ALREADY and inside.note == "It is in the draft at 2.0.0-beta.1."
    assert nothing.answer is Answer.UNREADABLE and nothing.note == "There is no name in this line."
    assert not_known(read(text), DIRECTORY) == ["beter boys"]
    off = Entry(mod="2nd-mate", enabled=False)
    assert taken("2nd Mate", off)[0].answer is Answer.FOUND, "what is off may be added again"


def test_far_too_much_is_refused_and_a_far_too_long_line_named():
    with pytest.raises(TooMuch, match="2,000 lines"):
        read("x\n" * 10_000)
    assert len(read("x\n" * 2000)) == 2000
    (long,) = taken("x" * 5000)
    assert long.answer is Answer.UNREADABLE and len(long.text) < 100


@given(st.text(max_size=300))
def test_whatever_is_pasted_each_line_gets_an_answer(text):
    lines = read(text)
    found = recognise(lines, DIRECTORY, pack())
    assert [one.number for one in found] == [line.number for line in lines]
    assert all(key == folded(key) or "/" in key or len(key) == 64 for key in keys(lines))


@given(st.sampled_from(sorted(MODS)), st.text(alphabet=" \t-*>.,;!", max_size=4), st.text(alphabet=" .,;!", max_size=3))
def test_what_stands_around_a_name_does_not_hide_it(slug, before, after):
    found = taken(f"{before}{MODS[slug].name}{after}")
    assert [one.mod for one in found] == [slug]
