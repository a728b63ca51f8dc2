"""Unwrapping and wrapping archives: what counts, where it goes, and which paths path rules mean."""

from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from true_convoy.core.model import Build, BuildFile, ContentFile, Kind, Packaging
from true_convoy.core.paths import rules_keep
from true_convoy.core.places import layout_of, places_of, rewrapped

OVERLAY = Kind(slug="mod", name="Mod", packaging=Packaging.OVERLAY)
FOLDER = Kind(slug="mod", name="Mod", folder="Mods", packaging=Packaging.FOLDER, manifest="mod.xml")
_names = st.sampled_from(["a", "b", "c", "data", "mod.xml"])
_paths = st.lists(_names, min_size=1, max_size=4).map("/".join)
_folders = st.sampled_from(["", "a/", "a/b/", "data/"])
_rules = st.lists(st.sampled_from(["a/**", "**/b", "*", "data/**", "a/b/*"]), max_size=2).map(tuple)


@st.composite
def builds(draw) -> Build:
    paths = draw(st.lists(_paths, min_size=1, max_size=8, unique=True))
    # A path cannot be a file and a folder at once.
    paths = [path for path in paths if not any(other.startswith(f"{path}/") for other in paths)]
    contents = tuple(ContentFile(path=path, size=1, sha256="a" * 64) for path in paths)
    file = BuildFile(name="x.zip", size=9, sha256="b" * 64)
    return Build(
        version="1", file=file, contents=contents, unwrap=draw(_folders), wrap=draw(st.sampled_from(["", "W/"]))
    )


@given(builds())
def test_only_what_is_in_the_folder_counts_and_nothing_of_it_is_lost(build):
    inside = [item.path for item in build.contents if item.path.startswith(build.unwrap)]
    made = [item.path for item in rewrapped(build)]
    assert made == [build.wrap + path.removeprefix(build.unwrap) for path in inside]
    assert len(set(made)) == len(made)


@given(builds(), _rules, _rules)
def test_path_rules_mean_the_paths_of_the_archive(build, keep, drop):
    placed = {place.source for place in places_of(build, OVERLAY, "x", keep, drop)}
    inside = [item.path for item in build.contents if item.path.startswith(build.unwrap)]
    assert placed == {path for path in inside if rules_keep(path, keep, drop)}


@given(builds())
def test_wrapping_alone_moves_an_overlay_and_leaves_it_whole(build):
    bare = replace(build, wrap="", unwrap="")
    wrapped = replace(bare, wrap="W/")
    before = {place.source: place.target for place in places_of(bare, OVERLAY, "x", (), ())}
    after = {place.source: place.target for place in places_of(wrapped, OVERLAY, "x", (), ())}
    assert after == {source: f"W/{target}" for source, target in before.items()}


@given(builds())
def test_a_mod_of_a_folder_kind_gets_a_folder_however_it_lies(build):
    for place in places_of(build, FOLDER, "slug", (), ()):
        assert place.target.startswith("Mods/") and place.target.count("/") >= 2
    layout = layout_of(build, FOLDER, (), ())
    assert all(path.endswith("mod.xml") for path in layout.manifests)
