"""Load order, contested files, the fit table, moving to another ground, and SARIF."""

import json

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from tests.universes import build, catalogue, mod, pack, questions
from true_convoy.core.checks import check
from true_convoy.core.compare import compare
from true_convoy.core.edits import SetLoadOrder, apply
from true_convoy.core.fit import fits, fits_ground
from true_convoy.core.fit_table import fit_table, preview_move
from true_convoy.core.model import (
    After,
    Before,
    Catalogue,
    ContentFile,
    Entry,
    Game,
    GameVersion,
    Kind,
    Loader,
    LoaderChoice,
    LoaderVersion,
    Packaging,
    Requires,
)
from true_convoy.core.order import contested, in_load_order, load_order, places_by_entry
from true_convoy.core.resolve import Resolved, resolve
from true_convoy.core.sarif import as_sarif

many = settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
NAMES = list("abcdef")


def order_of(relations, *entries):
    builds = {mod: build("1.0.0", *relations.get(mod, ())) for mod in NAMES}
    made = [Entry(mod=e) if isinstance(e, str) else e for e in entries]
    return load_order(made, builds)


@many
@given(st.permutations(NAMES), st.lists(st.tuples(st.sampled_from(NAMES), st.sampled_from(NAMES)), max_size=6))
def test_relations_always_hold_and_what_none_concerns_keeps_its_place(names, pairs):
    relations: dict[str, list[After]] = {}
    rank = {name: index for index, name in enumerate(sorted(names))}
    pairs = [(one, other) for one, other in pairs if rank[one] > rank[other]]
    for one, other in pairs:
        relations.setdefault(one, []).append(After(mod=other))
    found = order_of(relations, *names)
    assert sorted(found.mods) == sorted(names) and found.circles == ()
    assert all(found.mods.index(one) > found.mods.index(other) for one, other in pairs)
    free = [name for name in names if all(name not in pair for pair in pairs)]
    assert [name for name in found.mods if name in free] == free


def test_the_curators_order_comes_first_and_before_is_the_same_as_after():
    moved = [Entry(mod="a", order=2), Entry(mod="b"), Entry(mod="c", order=1), Entry(mod="d", enabled=False)]
    assert order_of({}, *moved).mods == ("c", "a", "b")
    assert order_of({"b": [Before(mod="c")]}, *moved).mods == ("a", "b", "c")
    assert order_of({"c": [After(mod="b")]}, *moved).after == {"c": ("b",)}


def test_a_circle_is_told_with_those_in_it_and_the_rest_stays_in_order():
    found = order_of({"a": [After(mod="b")], "b": [After(mod="c")], "c": [After(mod="a")]}, "d", "c", "b", "a", "e")
    assert [set(circle) for circle in found.circles] == [{"a", "b", "c"}]
    assert set(found.mods) == set("abcde") and found.mods.index("d") < found.mods.index("e")


OVERLAYS = Game(
    slug="g",
    name="G",
    versions=(GameVersion(label="1"),),
    kinds=(Kind(slug="mod", name="Mod", packaging=Packaging.OVERLAY),),
    load_order=True,
)


def supplying(slug: str, content: str):
    return mod(slug, build("1.0.0", contents=(ContentFile(path="text/a", size=1, sha256=content * 64),)))


def test_the_last_in_the_order_wins_a_contested_file_and_a_move_is_a_change():
    universe = Catalogue(games=(OVERLAYS,), mods=(supplying("one", "a"), supplying("two", "b"), supplying("x", "a")))
    before = pack(*(Entry(mod=slug, version="1.0.0") for slug in ("one", "two")))
    mods = universe.by_slug("g")

    def winner(draft):
        builds = {entry.mod: mods[entry.mod].build("1.0.0") for entry in draft.entries}
        order = load_order(draft.entries, builds)
        return [file.winner for file in contested(order, places_by_entry(draft.entries, mods, builds, OVERLAYS))]

    after = apply(before, SetLoadOrder(mods=("two", "one")))
    assert winner(before) == ["two"] and winner(after) == ["one"]
    assert winner(replace(before, entries=(before.entries[0], Entry(mod="x", version="1.0.0")))) == []
    difference = compare(in_load_order(before, mods), in_load_order(after, mods))
    assert len(difference.changed) == 1 and "load order" in difference.changed[0].what[0]


@many
@given(questions())
def test_a_cell_counts_what_has_a_build_and_moving_there_gives_a_draft_that_fits(question):
    universe, draft = question
    table = fit_table(draft, universe)
    mods = universe.by_slug("g")
    for cell in table.cells:
        there = replace(draft, game_version=cell.game_version)
        enabled = [entry.mod for entry in draft.entries if entry.enabled]
        assert set(cell.fitting) == {slug for slug in enabled if any(fits(b, there) for b in mods[slug].builds)}
        assert set(cell.fitting) | set(cell.missing) == set(enabled)
        move = preview_move(draft, universe, cell.game_version, None)
        if move.edit is None:
            assert move.explanation
            continue
        after = apply(draft, move.edit)
        answer = resolve(after, universe)
        assert isinstance(answer, Resolved) and answer.added == () and after.game_version == cell.game_version
        for entry in after.entries:
            if entry.enabled and entry.version is not None:
                # A pin holds a build that is less finished than the pack takes; it does not hold one on a wrong ground.
                suits = fits_ground if entry.pin else fits
                assert suits(mods[entry.mod].build(entry.version), after), "what stays on fits there"


KEEL = Loader(slug="keel", name="Keel", versions=(LoaderVersion(label="1", game_versions="vers:generic/1"),))
SAIL = Loader(slug="sail", name="Sail", versions=(LoaderVersion(label="5"), LoaderVersion(label="4", recommended=True)))
TWO = Game(slug="g", name="G", versions=(GameVersion(label="1"), GameVersion(label="2")), loaders=(KEEL, SAIL))


def test_moving_to_another_loader_replaces_what_the_catalogue_knows_a_counterpart_of():
    lamp = mod("lamp", build("1.0.0", Requires(mod="oil"), loaders=("keel",)), counterparts=("lantern",))
    oil = mod("oil", build("1.0.0", loaders=("keel",)))
    lantern = mod("lantern", build("3.0.0", loaders=("sail",)))
    rope = mod("rope", build("1.0.0", loaders=("keel",)), build("1.1.0", loaders=("sail",)))
    universe = Catalogue(games=(TWO,), mods=(lamp, oil, lantern, rope))
    entries = [Entry(mod=m, version="1.0.0") for m in ("lamp", "rope")] + [
        Entry(mod="oil", version="1.0.0", chosen=False)
    ]
    draft = pack(*entries, loader=LoaderChoice(slug="keel", version="1"))
    table = fit_table(draft, universe)
    cells = {(cell.game_version, cell.loader): cell for cell in table.cells}
    assert not cells["2", "keel"].open and cells["1", "keel"].here
    assert cells["2", "sail"].loader_version == "4" and set(cells["2", "sail"].missing) == {"lamp", "oil"}
    assert table.newest_whole == ("1", "keel")
    move = preview_move(draft, universe, "2", "sail")
    assert [(one.mod, one.by, one.new) for one in move.replaced] == [("lamp", "lantern", "3.0.0")]
    assert [one.mod for one in move.raised] == ["rope"] and [one.mod for one in move.lost] == ["oil"]
    after = apply(draft, move.edit)
    assert after.loader == LoaderChoice(slug="sail", version="4")
    assert {entry.mod for entry in after.entries if entry.enabled} == {"lantern", "rope"}
    assert not [finding for finding in check(after, universe) if finding.grade == "stop"]


def test_findings_become_a_sarif_log_that_points_at_the_entry():
    universe = catalogue(mod("net", build("1.0.0", Requires(mod="rope"))), mod("rope", build("1.0.0")))
    text = json.dumps({"entries": [{"mod": "other"}, {"mod": "net"}]}, indent=1)
    log = as_sarif(check(pack(Entry(mod="net", version="1.0.0")), universe), "p.pack.json", text, "0.1.0")
    run = log["runs"][0]
    (stop,) = [result for result in run["results"] if result["level"] == "error"]
    assert log["version"] == "2.1.0" and stop["ruleId"] == "missing-requirement"
    assert run["tool"]["driver"]["rules"][stop["ruleIndex"]]["id"] == stop["ruleId"]
    line = stop["locations"][0]["physicalLocation"]["region"]["startLine"]
    assert '"net"' in text.splitlines()[line - 1]
