"""Archives that the catalogue does not have: what they are taken for, and where their files go."""

import pytest

from true_convoy.core.intake import judge, manifest_names, slug_of, unsafe_paths
from true_convoy.core.model import Build, BuildFile, ContentFile, Game, GameVersion, Kind, Packaging
from true_convoy.core.places import places_of, rewrapped

WHOLE = Kind(slug="mod", name="Mod", folder="mods", manifest="hull.toml")
LOOKS = Kind(slug="looks", name="Looks", folder="looks")
FOLDER = Kind(slug="mod", name="Mod", folder="Mods", packaging=Packaging.FOLDER, manifest="outpost.xml")
TOTAL = Kind(
    slug="total", name="Overhaul", folder="Mods", packaging=Packaging.FOLDER, manifest="outpost.xml", exclusive=True
)
OVERLAY = Kind(slug="mod", name="Mod", packaging=Packaging.OVERLAY)
BUNDLE = Kind(slug="bundle", name="Bundle", packaging=Packaging.OVERLAY)


def game(*kinds: Kind, folders: tuple[str, ...] = ()) -> Game:
    return Game(slug="g", name="G", versions=(GameVersion(label="1"),), kinds=kinds, folders=folders)


def contents(*paths: str) -> tuple[ContentFile, ...]:
    return tuple(ContentFile(path=path, size=1, sha256="a" * 64) for path in paths)


SHIPS = game(WHOLE, LOOKS)
OUTPOSTS = game(TOTAL, FOLDER, BUNDLE, folders=("Mods", "Presets"))
FEUDS = game(OVERLAY, folders=("events", "maps"))


@pytest.mark.parametrize(
    ("where", "paths", "kind", "targets", "note"),
    [
        (SHIPS, ["hull.toml", "a.bin"], "mod", ["mods/Sea_Wall-1.2.zip"], ""),
        (SHIPS, ["a.bin"], "mod", ["mods/Sea_Wall-1.2.zip"], ""),
        (OUTPOSTS, ["Wall/outpost.xml", "Wall/a.bin"], "mod", ["Mods/Wall/outpost.xml", "Mods/Wall/a.bin"], ""),
        (OUTPOSTS, ["outpost.xml", "a.bin"], "mod", ["Mods/sea-wall/outpost.xml", "Mods/sea-wall/a.bin"], "lie bare"),
        (OUTPOSTS, ["v2/x/Wall/outpost.xml", "v2/read.txt"], "mod", ["Mods/Wall/outpost.xml"], "2 folders too deep"),
        (OUTPOSTS, ["presets/a.xml"], "bundle", ["Presets/a.xml"], 'put where the game reads "Presets"'),
        (FEUDS, ["events/a.txt"], "mod", ["events/a.txt"], ""),
        (FEUDS, ["Sea Wall/events/a.txt", "Sea Wall/maps/b"], "mod", ["events/a.txt", "maps/b"], "left away"),
        (FEUDS, ["Sea Wall/Events/a.txt"], "mod", ["events/a.txt"], "left away"),
    ],
)
def test_layout_is_judged_and_put_right(where, paths, kind, targets, note):
    made = judge(where, "Sea_Wall-1.2.zip", contents(*paths), {})
    assert (made.kind, made.name, made.version, made.slug) == (kind, "Sea Wall", "1.2", "sea-wall")
    assert note in " ".join(made.notes) and bool(note) == bool(made.notes)
    file = BuildFile(name="Sea_Wall-1.2.zip", size=1, sha256="b" * 64)
    build = Build(version="1", file=file, contents=contents(*paths), unwrap=made.unwrap, wrap=made.wrap)
    placed = places_of(build, where.kind(made.kind), made.slug, (), (), where.folders)
    assert sorted(place.target for place in placed) == sorted(targets)
    assert {place.source for place in placed} <= {None, *paths}, "sources are named as the archive has them"


def test_the_manifest_names_the_mod_before_the_file_does():
    facts = {"hull.toml": {"id": "sea-wall", "name": "Sea Wall", "version": "3.0.1"}}
    made = judge(SHIPS, "download (4).zip", contents("hull.toml"), facts)
    assert (made.slug, made.name, made.version) == ("sea-wall", "Sea Wall", "3.0.1")
    assert judge(SHIPS, "download.zip", contents("a"), {}).version == "1.0.0"
    assert manifest_names(OUTPOSTS) == {"outpost.xml"}
    assert slug_of("Über: Wall!") == "ber-wall" and slug_of("???") == "unnamed"


@pytest.mark.parametrize(
    ("paths", "note"),
    [
        (["Wall/outpost.xml", "Wall/inner.zip"], "archive in the archive"),
        (["A/outpost.xml", "B/outpost.xml"], "2 mods in this archive"),
        (["Wall/Outpost.xml"], 'the game looks for "outpost.xml"'),
        (["Wall/outpost.xml", "Wall/setup.exe"], "brings a program"),
    ],
)
def test_what_is_odd_is_said(paths, note):
    assert note in " ".join(judge(OUTPOSTS, "x.zip", contents(*paths), {}).notes)


def test_paths_that_lead_out_are_named():
    bad = unsafe_paths(contents("a/b", "../c", "d\\e", "f:g", "con"))
    assert len(bad) == 3 and all(sentence.endswith(".") for sentence in bad)
    assert unsafe_paths(contents("a/b.txt")) == []


def test_unwrapping_takes_only_what_is_inside():
    build = Build(version="1", contents=contents("in/a", "in/b/c", "out"), unwrap="in/", wrap="Mine/")
    assert [item.path for item in rewrapped(build)] == ["Mine/a", "Mine/b/c"]
