"""The smallest edits that make an impossible draft possible: one case of each kind, the gentlest first."""

import pytest
from msgspec.structs import replace

from tests.universes import GAME, build, catalogue, mod, pack
from true_convoy.core.edits import apply
from true_convoy.core.model import (
    Catalogue,
    Channel,
    Clashes,
    Entry,
    Loader,
    LoaderChoice,
    LoaderVersion,
    Pin,
    Requires,
)
from true_convoy.core.remedies import remedies
from true_convoy.core.resolve import Resolved, resolve

ROPE = mod("rope", build("1.0.0"), build("2.0.0"))
NET = mod("net", build("1.0.0", Requires(mod="rope", versions="vers:semver/>=2.0.0")))
OLD = mod("old", build("1.0.0", Requires(mod="rope", versions="vers:semver/<2.0.0")))
KEEL = Loader(
    slug="keel",
    name="Keel",
    versions=(
        LoaderVersion(label="1", game_versions="vers:generic/1"),
        LoaderVersion(label="2", game_versions="vers:generic/1", recommended=True),
        LoaderVersion(label="3", game_versions="vers:generic/2"),
    ),
)
HELD = Pin(reason="works")
CASES = [
    (
        pack("net", Entry(mod="rope", version="1.0.0", pin=HELD)),
        [ROPE, NET],
        ["Raise Rope from 1.0.0 to 2.0.0 (its pin goes)", "Turn off Net"],
    ),
    (
        pack("old", Entry(mod="rope", version="2.0.0", pin=HELD)),
        [ROPE, OLD],
        ["Lower Rope from 2.0.0 to 1.0.0 (its pin goes)", "Turn off Old"],
    ),
    (pack("net", "old"), [ROPE, NET, OLD], ["Turn off Net", "Turn off Old"]),
    (
        pack("raw"),
        [mod("raw", build("1.0.0", channel=Channel.BETA))],
        ["Take beta builds", "Take alpha builds", "Turn off Raw"],
    ),
    (
        pack("late", loader=LoaderChoice(slug="keel", version="1")),
        [mod("late", build("1.0.0", loader_versions="vers:generic/>=2"))],
        ["Take Keel 2", "Move to game version 2 with Keel 3", "Turn off Late"],
    ),
    (
        pack("next"),
        [mod("next", build("1.0.0", game_versions="vers:generic/>=2"))],
        ["Move to game version 2", "Turn off Next"],
    ),
    (
        pack("one", "two", "three"),
        [
            mod("one", build("1.0.0", Clashes(mod="two"), Clashes(mod="three"))),
            mod("two", build("1.0.0", Clashes(mod="three"))),
            mod("three", build("1.0.0")),
        ],
        ["Turn off One and turn off Three", "Turn off Three and turn off Two", "Turn off One and turn off Two"],
    ),
]


@pytest.mark.parametrize("draft, mods, labels", CASES, ids=[case[2][0] for case in CASES])
def test_each_kind_of_edit_is_found_and_the_gentlest_comes_first(draft, mods, labels):
    game = replace(GAME, loaders=(KEEL,) if draft.loader else ())
    universe = Catalogue(games=(game,), mods=tuple(mods))
    found = remedies(draft, universe)
    said = [way.label for way in found]
    assert said == labels
    for way in found:
        assert isinstance(resolve(apply(draft, way.edit), universe), Resolved)


def test_what_no_edit_of_a_few_steps_mends_has_no_remedy():
    many = [mod(f"m{i}", build("1.0.0", Requires(mod="gone"))) for i in range(9)]
    assert remedies(pack(*(one.slug for one in many)), catalogue(*many)) == ()
