"""What was read lately is kept, and is never older than the database."""

import msgspec
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from true_convoy.core.model import After, Build, Bundles, Catalogue, Game, GameVersion, Mod, Requires, Suggests
from true_convoy.server.catalogue import readings
from true_convoy.server.catalogue.actions import take_in
from true_convoy.server.catalogue.models import Mod as ModRow
from true_convoy.server.catalogue.queries import extract, with_builds

SLUGS = ["one", "two", "three", "four", "five"]
GAME = Game(slug="small", name="Small", versions=(GameVersion(label="1"),))
_relations = st.one_of(
    st.sampled_from(SLUGS).map(lambda slug: Requires(mod=slug)),
    st.sampled_from(SLUGS).map(lambda slug: Suggests(mod=slug)),
    st.sampled_from(SLUGS).map(lambda slug: Bundles(mod=slug)),
    st.sampled_from(SLUGS).map(lambda slug: After(mod=slug)),
)
_builds = st.lists(_relations, max_size=3).map(lambda said: Build(version="1.0", relations=tuple(said)))
_catalogues = st.dictionaries(st.sampled_from(SLUGS), st.lists(_builds, min_size=1, max_size=1), min_size=1).map(
    lambda mods: Catalogue(
        games=(GAME,),
        mods=tuple(Mod(slug=slug, game="small", name=slug, builds=tuple(made)) for slug, made in mods.items()),
    )
)


@pytest.mark.django_db
@settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
@given(before=_catalogues, after=_catalogues, asked=st.sets(st.sampled_from(SLUGS), min_size=1))
def test_an_extract_after_an_import_is_what_reading_all_anew_gives(before, after, asked):
    ModRow.objects.filter(game__slug="small").delete()
    take_in(before)
    extract("small", asked)
    take_in(after)
    kept = extract("small", asked)
    readings._KEPT.clear()
    fresh = extract("small", asked)
    assert kept == fresh
    there = {mod.slug for mod in fresh.mods}
    known = {mod.slug: mod for mod in (*before.mods, *after.mods)}
    assert there & asked == asked & known.keys()
    for mod in fresh.mods:
        if mod.slug in asked:
            needed = {r.mod for build in mod.builds for r in build.relations if isinstance(r, Requires)}
            assert needed & known.keys() <= there, "what is required is reached"


@pytest.mark.django_db
def test_a_change_of_one_mod_reads_that_one_again_and_no_other(django_assert_num_queries):
    before = with_builds("tidewrack", ["galley", "rope-library"])
    row = ModRow.objects.get(slug="galley")
    row.document = row.document | {"summary": "Stew."}
    row.save(update_fields=["document", "changed"])
    # Builds are streamed, which is not counted.
    with django_assert_num_queries(2):
        after = with_builds("tidewrack", ["galley", "rope-library"])
    assert after["galley"].summary == "Stew." and after["rope-library"] is before["rope-library"]
    with django_assert_num_queries(1):
        assert with_builds("tidewrack", ["galley", "rope-library"]) == after


@pytest.mark.django_db
def test_no_more_is_kept_than_said(monkeypatch):
    readings._KEPT.clear()
    monkeypatch.setattr(readings, "MOST", 10)
    slugs = list(ModRow.objects.filter(game__slug="tidewrack").values_list("slug", flat=True))
    assert len(with_builds("tidewrack", slugs)) == 60 and len(readings._KEPT) == 10


@pytest.mark.django_db
def test_file_lists_come_only_where_they_are_asked_for():
    plain = extract("emberline", ["dry-stone"]).by_slug("emberline")["dry-stone"]
    listed = extract("emberline", ["dry-stone"], contents=["dry-stone"]).by_slug("emberline")
    assert all(build.contents == () for build in plain.builds)
    assert all(build.contents for build in listed["dry-stone"].builds)
    assert all(build.contents == () for build in listed["kindling"].builds)
    bare = [msgspec.structs.replace(build, contents=()) for build in listed["dry-stone"].builds]
    assert tuple(bare) == plain.builds
    everything = extract("emberline", ["dry-stone"], contents=True).mods
    assert all(build.contents for mod in everything for build in mod.builds)
