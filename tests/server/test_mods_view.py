"""What the catalogue says of a mod to somebody with a draft: fits or not and why, in the words of the trade."""

import pytest

from tests.server.conftest import add, edit, publish
from true_convoy.core.fit_table import preview_move
from true_convoy.server.catalogue.queries import extract
from true_convoy.server.packs.models import Pack
from true_convoy.server.packs.queries import draft

CATALOGUE = "mods"


def listed(caller, pack: str, slug: str) -> dict:
    """A mod as the list of results shows it."""
    name = slug.replace("-", " ")
    found = caller("GET", f"{CATALOGUE}?game=tidewrack&pack={pack}&q={name}")[1]
    return next(mod for mod in found["mods"] if mod["slug"] == slug)


@pytest.mark.parametrize(
    ("ground", "slug", "answer", "reason"),
    [
        (("2.4.1", "keel", "0.9.3"), "galley", "fits", "fits with 1.3.0"),
        (
            ("2.4.1", "keel", "0.9.3"),
            "deep-chart",
            "older-build",
            "3.1.0-beta.2 is beta, the pack takes stable or better",
        ),
        (("2.4.1", "keel", "0.9.3"), "outrigger-floats", "other-loader", "needs Outrigger; the draft uses Keel"),
        (("2.4.1", "outrigger", "3.4"), "rust-and-rot", "other-loader", "needs Keel; the draft uses Outrigger"),
        (("2.2.0", "keel", "0.8.6"), "seal-colony", "no-build", "is for game version 2.4 or newer, below 2.6"),
        (("2.4.1", None, None), "galley", "other-loader", "the draft uses no loader"),
    ],
)
def test_each_result_says_whether_it_suits_and_why_not(people, ground, slug, answer, reason):
    version, loader, loader_version = ground
    choice = {"slug": loader, "version": loader_version} if loader else None
    body = {"name": "P", "game": "tidewrack", "game_version": version, "loader": choice}
    status, made = people["owner"]("POST", "packs", body)
    assert status == 201, made
    fit = listed(people["owner"], made["slug"], slug)["fit"]
    assert fit["answer"] == answer and reason in fit["reason"]
    whole = people["owner"]("GET", f"{CATALOGUE}/tidewrack/{slug}?pack={made['slug']}")[1]
    assert whole["fit"] == fit, "the list and the mod's own page say the same"


def test_facets_have_names_for_people_and_keep_what_is_chosen(people):
    path = f"{CATALOGUE}?game=tidewrack&category=boats&side=server&q=zzzzzz"
    facets = {facet["facet"]: facet for facet in people["owner"]("GET", path)[1]["facets"]}
    assert [facet["label"] for facet in facets.values()][:4] == ["Kind", "Category", "Loader", "Game version"]
    (boats,) = [value for value in facets["category"]["values"] if value["chosen"]]
    assert (boats["value"], boats["count"]) == ("boats", 0), "a choice stays in sight where nothing is left"
    plain = people["owner"]("GET", f"{CATALOGUE}?game=tidewrack")[1]["facets"]
    labels = {value["value"]: value["label"] for facet in plain for value in facet["values"]}
    assert (
        labels["keel"] == "Keel"
        and labels["resource-pack"] == "Resource pack"
        and labels["both"] == "client and server"
    )
    versions = next(facet for facet in plain if facet["facet"] == "version")["values"]
    assert [value["value"] for value in versions][:2] == ["2.5.0-pre2", "2.4.1"], "the newest first"


def test_builds_tell_what_they_need_and_clash_with_in_words(people, pack):
    chart = people["owner"]("GET", f"{CATALOGUE}/tidewrack/deep-chart?pack={pack}")[1]
    newest = next(build for build in chart["builds"] if build["version"] == "3.0.2")
    assert newest["needs"] == ["Chart Kit 2.0 or newer", "Rope Library 2.0 or newer"]
    assert newest["loaders"] == ["Keel"] and newest["game_versions"] == "2.4 or newer, below 2.6"
    assert not any("vers:" in str(value) for build in chart["builds"] for value in build.values())
    engine = people["owner"]("GET", f"{CATALOGUE}/tidewrack/engine-room?pack={pack}")[1]
    assert engine["builds"][0]["clashes"] == ["Quiet Motor (both replace the motor block)"]
    rest = people["owner"]("GET", f"{CATALOGUE}/tidewrack/leviathan-rest?pack={pack}")[1]
    assert "guest book" in rest["instructions"] and all(build["by_hand"] for build in rest["builds"])


def test_the_draft_tells_what_the_last_release_has_already(people, pack):
    owner = people["owner"]
    add(owner, pack, "galley")
    first = owner("GET", f"packs/{pack}/draft")[1]["totals"]
    assert first["shared"] == 0 and first["download"] > 0
    publish(owner, pack, "1.0.0")
    add(owner, pack, "clear-water")
    totals = owner("GET", f"packs/{pack}/draft")[1]["totals"]
    assert totals["shared"] == first["download"] < totals["download"]


def test_a_move_and_the_searchs_fits_agree_on_what_is_lost(people, pack):
    owner = people["owner"]
    add(owner, pack, "galley", "engine-room", "rust-and-rot")
    value = draft(Pack.objects.get(slug=pack))[1]
    slugs = [entry.mod for entry in value.entries]
    move = preview_move(value, extract("tidewrack", slugs), "2.4.1", "outrigger")
    lost = {shift.mod for shift in move.lost}
    body = {
        "name": "Q",
        "game": "tidewrack",
        "game_version": "2.4.1",
        "loader": {"slug": "outrigger", "version": "3.4"},
    }
    other = owner("POST", "packs", body)[1]["slug"]
    for slug in ("galley", "engine-room", "rust-and-rot"):
        assert (listed(owner, other, slug)["fit"]["answer"] == "other-loader") == (slug in lost), slug
    assert {"engine-room", "rust-and-rot"} <= lost and "galley" not in lost
    assert edit(owner, other, {"do": "add", "mod": "galley", "version": "1.3.0", "chosen": True})[0] == 201
