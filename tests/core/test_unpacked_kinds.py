"""Kinds of content that are unpacked: where their files go, which folders they govern, and what counts as different."""

from datetime import UTC, datetime

import pytest
from msgspec.structs import replace

from tests.universes import build, catalogue, mod, pack
from true_convoy.core.model import (
    ContentFile,
    Entry,
    Game,
    GameVersion,
    Inventory,
    Kind,
    Packaging,
    Release,
    RigFile,
    Side,
)
from true_convoy.core.release import freeze
from true_convoy.core.sync import Kind as Difference
from true_convoy.core.sync import differences, governed_folders, in_folders, plan, wanted_files

KINDS = (
    Kind(slug="mod", name="Mod", folder="Mods", packaging=Packaging.FOLDER, manifest="about.xml"),
    Kind(slug="patch", name="Patch", packaging=Packaging.OVERLAY),
    Kind(slug="look", name="Look", folder="looks", packaging=Packaging.ARCHIVE),
)
GAME = Game(slug="g", name="G", versions=(GameVersion(label="1"),), kinds=KINDS)


def sha(path: str) -> str:
    return f"{sum(map(ord, path)):064x}"


def made(slug: str, kind: str, *paths: str):
    contents = tuple(ContentFile(path=path, size=len(path), sha256=sha(path)) for path in paths)
    file = replace(build("1.0.0").file, name=f"{slug}.zip", sha256=sha(slug))
    return mod(slug, replace(build("1.0.0"), contents=contents, file=file), kind=kind)


def release(*mods, entries: tuple[Entry, ...] = ()) -> Release:
    universe = replace(catalogue(*mods), games=(GAME,))
    draft = pack(*(entries or tuple(Entry(mod=one.slug) for one in mods)))
    return freeze(draft, universe, version="1.0.0", published=datetime(2026, 1, 1, tzinfo=UTC))


LAYOUTS = [
    (("Ember/about.xml", "Ember/art/a.png"), ["Mods/Ember/about.xml", "Mods/Ember/art/a.png"]),
    (("deep/er/Ember/about.xml", "deep/er/Ember/a.png"), ["Mods/Ember/about.xml", "Mods/Ember/a.png"]),
    (("about.xml", "art/a.png"), ["Mods/ember/about.xml", "Mods/ember/art/a.png"]),
    (("Ember/about.xml", "Ember/old/about.xml"), ["Mods/Ember/about.xml", "Mods/Ember/old/about.xml"]),
    (("Ember/about.xml", "readme.txt"), ["Mods/Ember/about.xml"]),
    (("Ember/no-manifest.txt",), ["Mods/Ember/no-manifest.txt"]),
    (("one/a.txt", "two/b.txt"), ["Mods/ember/one/a.txt", "Mods/ember/two/b.txt"]),
]


@pytest.mark.parametrize(("inside", "targets"), LAYOUTS)
def test_a_folder_kind_goes_where_its_manifest_is(inside, targets):
    assert [place.target for place in release(made("ember", "mod", *inside)).entries[0].places] == targets


def test_an_overlay_goes_onto_the_game_itself_and_path_rules_choose_of_it():
    patch = made("patch", "patch", "bin/game.cfg", "docs/read.me", "data/a.dat")
    whole = release(patch)
    assert sorted(wanted_files(whole, Side.CLIENT)) == ["bin/game.cfg", "data/a.dat", "docs/read.me"]
    chosen = release(patch, entries=(Entry(mod="patch", keep=("bin/**", "docs/**"), drop=("**/*.me",)),))
    assert sorted(wanted_files(chosen, Side.CLIENT)) == ["bin/game.cfg"]


def test_whole_mods_govern_their_folder_and_overlays_govern_nothing():
    whole = release(
        made("ember", "mod", "Ember/about.xml", "Ember/art/a.png"),
        made("patch", "patch", "bin/game.cfg"),
        made("paper", "look", "x"),
    )
    assert governed_folders(whole) == {"Mods", "looks"}
    assert in_folders("Mods/Other/about.xml", governed_folders(whole))
    assert not in_folders("bin/mine.cfg", governed_folders(whole)) and not in_folders("Mods", governed_folders(whole))


def test_differences_are_told_file_by_file():
    whole = release(made("ember", "mod", "Ember/about.xml", "Ember/a.png"), made("patch", "patch", "bin/game.cfg"))
    found = {
        "Mods/Ember/about.xml": "f" * 64,
        "Mods/Mine/about.xml": "e" * 64,
        "bin/game.cfg": sha("bin/game.cfg"),
        "bin/other.cfg": "d" * 64,
    }
    files = {path: RigFile(path=path, size=1, sha256=digest) for path, digest in found.items()}
    told = [(one.kind, one.path) for one in differences(whole, Side.CLIENT, files)]
    assert told == [
        (Difference.MISSING, "Mods/Ember/a.png"),
        (Difference.CHANGED, "Mods/Ember/about.xml"),
        (Difference.EXTRA, "Mods/Mine/about.xml"),
    ]
    kept = frozenset({"Mods/Mine/about.xml", "Mods/Ember/about.xml"})
    assert [one.path for one in differences(whole, Side.CLIENT, files, kept)] == ["Mods/Ember/a.png"]


def test_a_file_of_the_game_that_a_patch_replaces_is_set_aside_and_the_patch_goes_with_its_entry():
    with_patch = release(made("patch", "patch", "bin/game.cfg"))
    original = RigFile(path="bin/game.cfg", size=3, sha256="a" * 64)
    first = plan(with_patch, Inventory(files=(original,)), {})
    assert [(item.path, item.reason) for item in first.set_aside] == [("bin/game.cfg", "was altered")]
    assert [goal.source for goal in first.place] == ["bin/game.cfg"]
    without = release(made("paper", "look", "x"))
    placed = RigFile(path="bin/game.cfg", size=12, sha256=sha("bin/game.cfg"))
    second = plan(without, Inventory(files=(placed,)), {"bin/game.cfg": placed.sha256})
    assert [(item.path, item.reason) for item in second.set_aside] == [("bin/game.cfg", "no longer in the pack")]


def test_the_packs_own_files_are_wanted_too_and_need_nobody_to_fetch_them():
    own = ContentFile(path="config/flags/club.png", size=5, sha256="c" * 64)
    whole = replace(release(made("paper", "look", "x")), files=(own,))
    goal = wanted_files(whole, Side.SERVER)["config/flags/club.png"]
    assert (goal.mod, goal.archive, goal.sha256) == (None, None, "c" * 64)
    missing = [one for one in differences(whole, Side.CLIENT, {}) if one.path == own.path]
    assert missing[0].kind is Difference.MISSING
