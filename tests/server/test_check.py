"""The Check station's endpoints on the demo world: findings, mending, previews, the fit table, load order, picture."""

import pytest

from true_convoy.server.catalogue.queries import extract


@pytest.fixture
def broken(people, pack, mod_host):
    """The owner, a pack of two mods that lack a library and that the catalogue has a patch for, and a way to edit."""
    owner = people["owner"]

    def edit(**made):
        base = owner("GET", f"packs/{pack}/draft")[1]["revision"]
        status, answer = owner("POST", f"packs/{pack}/edits", {"base": base, "edit": made})
        assert status == 201, answer

    for mod, version in (("deep-chart", "3.0.0"), ("better-buoys", "1.5.1")):
        edit(do="add", mod=mod, version=version)
    return owner, pack, edit


def found(owner, pack):
    return {finding["code"]: finding for finding in owner("GET", f"packs/{pack}/findings")[1]["findings"]}


def test_findings_are_mended_as_one_edit(broken):
    owner, pack, edit = broken
    before = found(owner, pack)
    assert before["missing-requirement"]["grade"] == "stop"
    assert before["missing-bridge"]["mods"][0] == "buoy-chart-bridge", "patches are found though nothing asks for them"
    status, preview = owner(
        "POST", f"packs/{pack}/preview-edit", {"edit": before["missing-bridge"]["fixes"][0]["edit"]}
    )
    assert status == 200 and preview["does"] == ["added Buoys on the Chart 1.1.0"] and preview["gone"]
    mending = owner("GET", f"packs/{pack}/mending")[1]
    assert any(label.startswith("Add Rope Library") for label in mending["labels"]) and mending["left"] == 0
    edit(**mending["edit"])
    after = owner("GET", f"packs/{pack}/findings")[1]
    assert (after["stops"], after["cautions"], after["mendable"]) == (0, 0, 0)
    assert owner("GET", f"packs/{pack}/draft")[1]["last_words"].startswith("mended ")


def test_an_accepted_caution_is_counted_apart(broken):
    owner, pack, edit = broken
    caution = found(owner, pack)["missing-bridge"]
    edit(do="accept", reason="we do without", **{key: caution[key] for key in ("code", "mods", "facts")})
    answer = owner("GET", f"packs/{pack}/findings")[1]
    assert (answer["cautions"], answer["accepted"]) == (0, 1)
    edit(do="unaccept", **{key: caution[key] for key in ("code", "mods", "facts")})
    assert owner("GET", f"packs/{pack}/findings")[1]["accepted"] == 0


def test_the_fit_table_and_a_move(broken):
    owner, pack, edit = broken
    table = owner("GET", f"packs/{pack}/fit-table")[1]
    here = next(cell for cell in table["cells"] if cell["here"])
    assert here["game_version"] == "2.4.1" and here["loader"] == "keel" and here["missing"] == []
    move = owner("GET", f"packs/{pack}/move?game_version=2.4.1&loader=outrigger")[1]
    edit(**move["edit"])
    assert owner("GET", f"packs/{pack}/draft")[1]["loader"]["slug"] == "outrigger"
    status, refused = owner("GET", f"packs/{pack}/move?game_version=9.9")
    assert status == 400 and refused["detail"] == "Tidewrack has no such version or loader."


def test_order_and_picture_tell_who_needs_whom(broken):
    owner, pack, _ = broken
    order = owner("GET", f"packs/{pack}/load-order")[1]
    assert [row["mod"] for row in order["rows"]] == ["deep-chart", "better-buoys"] and not order["decides"]
    picture = owner("GET", f"packs/{pack}/picture")[1]
    missing = {node["mod"] for node in picture["nodes"] if not node["there"]}
    assert "rope-library" in missing
    assert {"source": "deep-chart", "target": "rope-library", "kind": "needs", "met": False} in picture["edges"]


def test_an_extract_has_the_patches_of_its_mods_and_nothing_far_away(mod_host, pack):
    reached = {mod.slug for mod in extract("tidewrack", ["deep-chart", "better-buoys"]).mods}
    assert "buoy-chart-bridge" in reached and "harbour-folk" not in reached
