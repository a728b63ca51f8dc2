"""Whether builds suit a pack's ground: one table, each answer with its reason in words."""

import pytest

from tests.universes import build, mod, pack
from true_convoy.core.fit import Misfit, fits, fits_ground, nearest, newest_first, newest_fitting
from true_convoy.core.model import Channel, LoaderChoice

KEEL = LoaderChoice(slug="keel", version="0.9.3")
GROUND = pack(game_version="2.4.1", loader=KEEL)
CASES = [
    ({}, GROUND, None, "fits"),
    ({"game_versions": "vers:generic/>=2.4|<2.5"}, GROUND, None, "fits"),
    (
        {"game_versions": "vers:generic/<2.4"},
        GROUND,
        Misfit.GAME_VERSION,
        "is for game version below 2.4, the pack is on 2.4.1",
    ),
    ({"loaders": ("keel", "outrigger")}, GROUND, None, "fits"),
    ({"loaders": ("outrigger",)}, GROUND, Misfit.LOADER, "is for outrigger, the pack uses keel"),
    ({"loaders": ("a", "b")}, GROUND, Misfit.LOADER, "is for a or b, the pack uses keel"),
    ({"loaders": ("keel",)}, pack(game_version="2.4.1"), Misfit.LOADER, "is for keel, the pack uses no loader"),
    (
        {"loader_versions": "vers:generic/>=1.0"},
        GROUND,
        Misfit.LOADER_VERSION,
        "needs keel 1.0 or newer, the pack has 0.9.3",
    ),
    ({"loader_versions": "vers:generic/>=1.0"}, pack(game_version="1"), None, "fits"),
    ({"loader_versions": "vers:generic/>=1"}, pack(loader=LoaderChoice(slug="keel")), None, "fits"),
    ({"channel": Channel.BETA}, GROUND, Misfit.CHANNEL, "is beta, the pack takes stable or better"),
    ({"channel": Channel.BETA}, pack(channel_floor=Channel.ALPHA), None, "fits"),
    (
        {"channel": Channel.ALPHA},
        pack(channel_floor=Channel.BETA),
        Misfit.CHANNEL,
        "is alpha, the pack takes beta or better",
    ),
]


@pytest.mark.parametrize(("facts", "ground", "misfit", "reason"), CASES)
def test_each_answer_has_its_reason(facts, ground, misfit, reason):
    answer = fits(build("1.0.0", **facts), ground)
    assert (answer.misfit, answer.reason, bool(answer)) == (misfit, reason, misfit is None)


def test_the_channel_is_no_matter_of_the_ground():
    assert fits_ground(build("1.0.0", channel=Channel.ALPHA), GROUND)


def test_the_newest_is_by_version_not_by_order_of_the_list():
    lamp = mod("lamp", build("1.10.0"), build("1.9.0"), build("2.0.0", loaders=("outrigger",)), build("1.2.0"))
    assert [one.version for one in newest_first(lamp)] == ["2.0.0", "1.10.0", "1.9.0", "1.2.0"]
    assert newest_fitting(lamp, GROUND).version == "1.10.0"


def test_the_nearest_is_the_one_that_misses_by_least():
    lamp = mod(
        "lamp",
        build("3.0.0", loaders=("outrigger",)),
        build("2.0.0", game_versions="vers:generic/>=2.5"),
        build("1.0.0", game_versions="vers:generic/<2"),
    )
    found, fit = nearest(lamp, GROUND)
    assert (found.version, fit.misfit) == ("2.0.0", Misfit.GAME_VERSION)
    assert nearest(mod("none"), GROUND) is None and newest_fitting(lamp, GROUND) is None
