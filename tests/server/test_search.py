"""Looking through the catalogue: text, facets with their counts, orders, and what suits a draft."""

from urllib.parse import urlencode

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.server.conftest import add, edit
from true_convoy.core.fit import fits
from true_convoy.core.model import Mod as ModValue
from true_convoy.core.recognise import folded
from true_convoy.server.catalogue import queries
from true_convoy.server.catalogue.actions import take_in_mod
from true_convoy.server.catalogue.grounds import every_ground, keys_for
from true_convoy.server.catalogue.memory import FACETS, memory_of
from true_convoy.server.catalogue.models import Game, Mod
from true_convoy.server.catalogue.search import Asked, search
from true_convoy.server.packs.models import Pack
from true_convoy.server.packs.queries import draft

# Where the catalogue is asked.
KNOWN = "mods"


def ask(caller, **asked):
    return caller("GET", f"{KNOWN}?{urlencode({'game': 'tidewrack'} | asked, doseq=True)}")[1]


def slugs(answer) -> list[str]:
    return [mod["slug"] for mod in answer["mods"]]


@pytest.mark.parametrize(
    ("typed", "first", "mended"),
    [
        ("better buoys", "better-buoys", ""),
        ("buoy", "better-buoys", ""),
        ("bouy", "better-buoys", "buoys"),
        ("lanturn", "lantern-works", "lantern"),
        ("deep-chart", "deep-chart", ""),
        ("pell aristide", "chart-kit", ""),
        ("drownd hals", "drowned-halls", "drowned halls"),
    ],
)
def test_typing_mistakes_are_forgiven_and_said(people, typed, first, mended):
    answer = ask(people["owner"], q=typed)
    assert first in slugs(answer)[:3]
    assert answer["mended"] == mended or not mended


def named_like(name: str, text: str) -> int:
    """0 where a name is the text, 1 where it begins with it, 2 otherwise."""
    return 0 if folded(name) == folded(text) else 1 if folded(name).startswith(folded(text)) else 2


@pytest.mark.django_db
@settings(max_examples=80, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.data())
def test_what_is_called_so_or_begins_so_comes_first(data):
    names = dict(Mod.objects.filter(game__slug="tidewrack").values_list("pk", "name"))
    name = data.draw(st.sampled_from(sorted(names.values())))
    text = name[: data.draw(st.integers(2, len(name)))].strip()
    found = search(Asked(game="tidewrack", text=text, most=60))
    places = [named_like(names[pk], text) for pk in found.keys]
    assert found.mended in ("", text) and places == sorted(places)
    assert name in [names[pk] for pk in found.keys], "whoever types the beginning of a name finds it"


@pytest.mark.django_db
@settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.lists(st.one_of(st.sampled_from(["galley", "deep-chart", "rope-library"]), st.text(max_size=8))))
def test_among_is_in(asked):
    asked = [text.replace("\x00", "") for text in asked]
    mods = Mod.objects.filter(game__slug="tidewrack").order_by("slug").values_list("slug", flat=True)
    assert list(mods.filter(slug__among=asked)) == list(mods.filter(slug__in=asked))


@pytest.mark.django_db
@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.randoms(use_true_random=False), st.data())
def test_a_slip_in_a_word_of_a_name_still_finds_it(random, data):
    """One letter left out, doubled, or changed places with the next, in a word of five letters or more."""
    names = Mod.objects.filter(game__slug="tidewrack").values_list("name", flat=True)
    words = sorted({word.lower() for name in names for word in name.split() if len(word) >= 5 and word.isalpha()})
    word = data.draw(st.sampled_from(words))
    at = random.randrange(1, len(word) - 1)
    slips = [
        word[:at] + word[at + 1 :],
        word[:at] + word[at] + word[at:],
        word[:at] + word[at + 1] + word[at] + word[at + 2 :],
    ]
    found = search(Asked(game="tidewrack", text=random.choice(slips), most=60))
    named = [name.lower() for name in Mod.objects.filter(pk__in=found.keys).values_list("name", flat=True)]
    assert named, "something is found for every slip"


@pytest.mark.parametrize("typed", ["zzzzzzzz", "' OR 1=1 --", "\x00", "!!!", "a:b & | !", "x" * 5000, "(((", "\\"])
def test_whatever_is_typed_there_is_an_answer(people, typed):
    answer = ask(people["owner"], q=typed)
    assert answer["total"] == len(answer["mods"]) or answer["total"] > 0


def test_orders(people):
    by_name = slugs(ask(people["owner"], sort="name"))
    assert by_name == sorted(by_name, key=lambda slug: Mod.objects.get(slug=slug).name.casefold())
    installs = [mod["installs"] for mod in ask(people["owner"])["mods"]]
    assert installs == sorted(installs, reverse=True)
    updated = [mod["newest"] for mod in ask(people["owner"], sort="updated")["mods"]]
    assert updated == sorted(updated, reverse=True)
    assert ask(people["owner"], page=2)["page"] == 2 and len(ask(people["owner"], page=3)["mods"]) == 0


_chosen = st.fixed_dictionaries(
    {},
    optional={
        "kind": st.just(["mod"]),
        "category": st.lists(st.sampled_from(["boats", "library", "weather", "none of these"]), min_size=1, max_size=2),
        "side": st.lists(st.sampled_from(["both", "client", "server"]), min_size=1, max_size=2),
        "reach": st.just(["shared"]),
        "licence": st.just(["MIT"]),
        "version": st.lists(st.sampled_from(["2.2.0", "2.4.1"]), min_size=1, max_size=2),
        "loader": st.lists(st.sampled_from(["keel", "outrigger", "none"]), min_size=1, max_size=1),
    },
)


@pytest.mark.django_db
@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(chosen=_chosen, text=st.sampled_from(["", "light", "water"]))
def test_facets_count_what_choosing_them_would_leave(chosen, text):
    found = search(Asked(game="tidewrack", text=text, chosen=chosen, most=500))
    assert len(found.keys) == found.total
    for facet in FACETS:
        for value, count in found.counts[facet].items():
            narrowed = dict(chosen) | {facet: [value]}
            assert search(Asked(game="tidewrack", text=text, chosen=narrowed, most=500)).total == count, (facet, value)


def test_version_and_loader_together_mean_a_build_for_both(people):
    both = ask(people["owner"], version="2.2.0", loader="outrigger", page=1)
    names = slugs(both)
    assert "better-buoys" not in names, "its builds for 2.2 are for the other loader"
    assert "signal-flags" in names


def test_what_fits_is_what_the_core_says_fits(people, pack):
    add(people["owner"], pack, "galley")
    edit(people["owner"], pack, {"do": "set-enabled", "mod": "galley", "enabled": False})
    value = draft(Pack.objects.get(slug=pack))[1]
    mods = queries.with_builds("tidewrack", Mod.objects.filter(game__slug="tidewrack").values_list("slug", flat=True))
    expected = {slug for slug, mod in mods.items() if any(fits(b, value) and b.withdrawn is None for b in mod.builds)}
    found = search(Asked(game="tidewrack", pack=value, fitting=True, most=500))
    assert set(Mod.objects.filter(pk__in=found.keys).values_list("slug", flat=True)) == expected
    assert found.fitting == found.total and keys_for(value)[0] == "2.4.1|keel|0.9.3|s"
    answers = {
        mod["slug"]: mod["fit"]["answer"]
        for page in (1, 2)
        for mod in ask(people["owner"], pack=pack, page=page)["mods"]
    }
    assert answers["galley"] == "already-in" and answers["outrigger-floats"] == "other-loader"


def test_clashes_with_the_draft_are_said_in_both_directions(people, pack):
    add(people["owner"], pack, "clear-water")
    (brass,) = ask(people["owner"], pack=pack, q="brass shader")["mods"]
    assert brass["fit"]["reason"] == "clashes with Clear Water: two mods cannot both draw the water"
    add(people["owner"], pack, "quiet-motor")
    engine = ask(people["owner"], pack=pack, q="engine room")["mods"][0]
    assert engine["fit"]["answer"] == "clashes" and "Quiet Motor" in engine["fit"]["reason"]


def test_the_memory_takes_in_what_changes(people):
    game = Game.objects.get(slug="tidewrack")
    assert ask(people["owner"], q="brand new thing")["total"] == 0
    value = ModValue(slug="brand-new", game="tidewrack", name="Brand New Thing", builds=())
    definition = queries.game_value("tidewrack")
    row = take_in_mod(value, game, definition, every_ground(definition))
    assert slugs(ask(people["owner"], q="brand new thing")) == ["brand-new"]
    before = memory_of(game.pk).everything.bit_count()
    row.kind = "resource-pack"
    row.save()
    assert "brand-new" in slugs(ask(people["owner"], kind="resource-pack"))
    assert memory_of(game.pk).everything.bit_count() == before
    row.delete()
    assert ask(people["owner"], q="brand new thing")["total"] == 0
    assert memory_of(game.pk).everything.bit_count() == before - 1


def test_a_mod_tells_what_needs_it_and_where_it_is_used(people, pack):
    add(people["owner"], pack, "better-buoys")
    status, rope = people["owner"]("GET", f"{KNOWN}/tidewrack/rope-library?pack={pack}")
    assert status == 200 and {"slug": "better-buoys", "name": "Better Buoys"} in rope["needed_by"]
    assert rope["used_in"] == [
        {"pack": pack, "name": "Thursday Deep", "version": rope["fit"]["version"], "enabled": True}
    ]
    assert people["stranger"]("GET", f"{KNOWN}/tidewrack/rope-library")[1]["used_in"] == []
    status, files = people["owner"]("GET", f"{KNOWN}/quillmoor/painted-spines/builds/1.0")
    assert status == 200 and files["replaces"] == 1 and not files["whole"]
    assert [file["path"] for file in files["files"] if file["replaces"]] == ["looks/shelf.png"]
    assert people["owner"]("GET", f"{KNOWN}/tidewrack/rope-library/builds/9.9")[0] == 404
