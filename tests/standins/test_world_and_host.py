"""The invented world is the same everywhere, coherent, and served as a mod host would."""

import hashlib
import tomllib
import zipfile

import httpx
import pytest

from tests.conftest import SCALE
from tests.universes import pack as universe_pack
from true_convoy.core import documents
from true_convoy.core.model import (
    Bridges,
    Bundles,
    Catalogue,
    Clashes,
    Entry,
    LoaderChoice,
    Packaging,
    Redistribution,
    Requires,
)
from true_convoy.core.paths import safe_path
from true_convoy.core.resolve import Resolved, resolve
from true_convoy.standins.world import WORLDS, load_world, make_worlds

KEEL = LoaderChoice(slug="keel", version="0.9.3")


def test_making_it_again_gives_the_same_bytes(world, tmp_path):
    make_worlds(WORLDS, tmp_path, scale=SCALE)
    assert (tmp_path / "catalogue.json").read_bytes() == (world / "catalogue.json").read_bytes()
    for file in sorted((world / "files").iterdir())[::25]:
        assert (tmp_path / "files" / file.name).read_bytes() == file.read_bytes()


def test_it_shows_the_real_shapes(tidewrack):
    counted = {game.slug: [mod for mod in tidewrack.mods if mod.game == game.slug] for game in tidewrack.games}
    numbers = {slug: (len(mods), sum(len(mod.builds) for mod in mods)) for slug, mods in counted.items()}
    assert numbers == {"tidewrack": (60, 250), "emberline": (80, 260), "quillmoor": (60, 147)}
    builds = [(mod, build) for mod in tidewrack.mods for build in mod.builds]
    kinds = {type(relation) for _, build in builds for relation in build.relations}
    assert {Requires, Clashes, Bundles, Bridges} <= kinds
    assert any(
        len(relation.targets) > 1 for _, b in builds for relation in b.relations if isinstance(relation, Requires)
    )
    assert {loader for _, build in builds for loader in build.loaders} == {"keel", "outrigger"}
    assert {build.channel for _, build in builds} == {"stable", "beta", "alpha"}
    by_hand = {mod.slug for mod, build in builds if build.file.url is None}
    assert by_hand == {"leviathan-rest"}
    assert any(mod.redistribution is Redistribution.LINK_ONLY for mod in tidewrack.mods)
    unsupported = {(mod.sides.client, mod.sides.server) for mod in tidewrack.mods}
    assert ("required", "unsupported") in unsupported and ("unsupported", "required") in unsupported


def test_every_requirement_names_a_mod_that_is_there(tidewrack):
    known = {mod.slug for mod in tidewrack.mods}
    for mod in tidewrack.mods:
        for build in mod.builds:
            for relation in build.relations:
                if isinstance(relation, Requires):
                    assert {target.mod for target in relation.targets} <= known, (mod.slug, build.version)


def test_nearly_every_mod_can_be_played_on_the_newest_stable_ground(tidewrack):
    stuck = []
    grounds = {"tidewrack": ("2.4.1", KEEL), "emberline": ("3.2.1", None), "quillmoor": ("1.9", None)}
    for mod in tidewrack.mods:
        version, loader = grounds[mod.game]
        draft = universe_pack(Entry(mod=mod.slug), game=mod.game, game_version=version, loader=loader)
        if not isinstance(resolve(draft, tidewrack), Resolved):
            stuck.append(mod.slug)
    assert stuck == ["outrigger-floats"], "the one that is for the other loader only"


def test_archives_are_what_the_catalogue_says(world, tidewrack):
    game = tidewrack.game("tidewrack")
    for mod in tidewrack.mods[::9]:
        for build in mod.builds:
            path = world / "files" / build.file.name
            assert hashlib.sha256(path.read_bytes()).hexdigest() == build.file.sha256
            assert path.stat().st_size == build.file.size
            with zipfile.ZipFile(path) as archive:
                inside = {name: archive.read(name) for name in archive.namelist()}
            assert {item.path: item.sha256 for item in build.contents} == {
                safe_path(name): hashlib.sha256(data).hexdigest() for name, data in inside.items()
            }
            if mod.game == "tidewrack":
                manifest = tomllib.loads(inside["tidewrack.mod.toml"].decode())
                assert manifest == {"id": mod.slug, "name": mod.name, "version": build.version}
                assert tomllib.loads(inside[f"settings/{mod.slug}.toml"].decode())["enabled"] is True
            if mod.game == "emberline" and mod.kind == "mod":
                path = next(path for path in inside if path.endswith("outpost.xml"))
                assert f"<id>{mod.slug}</id>" in inside[path].decode()
    assert game.kind("mod").packaging is Packaging.ARCHIVE and game.kind("unheard-of").folder == "mods"


@pytest.mark.parametrize("world", WORLDS)
def test_names_are_unique_and_texts_are_sentences(world):
    mods = load_world(world)["mods"]
    assert len({row[0][0] for row in mods.values()}) == len(mods)
    for slug, row in mods.items():
        assert row[0][9].endswith(".") and len(row[0][9]) < 90, slug


def test_the_feed_is_paged_and_whole(mod_host):
    seen, address = [], f"{mod_host.feed}?per_page=25"
    while address:
        page = httpx.get(address).json()
        assert documents.from_builtins(Catalogue, page).total == 200
        seen += [mod["slug"] for mod in page["mods"]]
        address = page["next"]
    assert len(seen) == len(set(seen)) == 200
    assert all(
        b["file"]["url"] is None or b["file"]["url"].startswith(mod_host.address) for b in page["mods"][0]["builds"]
    )


def test_files_have_length_tag_and_ranges(mod_host, world):
    name = "galley-1.3.0.zip"
    whole = (world / "files" / name).read_bytes()
    answer = httpx.get(f"{mod_host.address}/files/{name}")
    assert answer.content == whole and answer.headers["Content-Length"] == str(len(whole)) and answer.headers["ETag"]
    part = httpx.get(f"{mod_host.address}/files/{name}", headers={"Range": "bytes=100-"})
    assert part.status_code == 206 and part.content == whole[100:]


@pytest.mark.parametrize("path", ["/files/none.zip", "/files/..%2fcatalogue.json", "/pages/none", "/files/"])
def test_what_is_not_there_is_not_found(mod_host, path):
    assert httpx.get(mod_host.address + path).status_code == 404


def test_pages_of_mods_link_to_their_files(mod_host):
    page = httpx.get(f"{mod_host.address}/pages/leviathan-rest").text
    assert "<h1>Leviathan&#x27;s Rest</h1>" in page and "/files/leviathan-rest-1.1.1.zip" in page
