"""The grounds kept beside a mod say what its builds say, for every ground a game offers."""

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from true_convoy.core.fit import fits, usually_runs
from true_convoy.core.model import (
    Build,
    Channel,
    Game,
    GameVersion,
    Loader,
    LoaderChoice,
    LoaderVersion,
    Outdated,
    PackBase,
)
from true_convoy.server.catalogue.grounds import every_ground, grounds_of, keys_for

LOADERS = (
    Loader(
        slug="keel",
        name="Keel",
        versions=(
            LoaderVersion(label="0.8", game_versions="vers:generic/<2"),
            LoaderVersion(label="0.9", game_versions="vers:generic/>=2", recommended=True),
        ),
    ),
    Loader(slug="outrigger", name="Outrigger", versions=(LoaderVersion(label="3"),)),
)
GAME = Game(slug="g", name="G", versions=tuple(GameVersion(label=label) for label in ("1", "2", "3")), loaders=LOADERS)
_builds = st.lists(
    st.builds(
        Build,
        version=st.sampled_from(["1.0", "2.0", "3.0"]),
        channel=st.sampled_from(list(Channel)),
        game_versions=st.sampled_from([None, "vers:generic/=1", "vers:generic/>=2", "vers:generic/<3"]),
        loaders=st.sampled_from([(), ("keel",), ("outrigger",), ("keel", "outrigger")]),
        loader_versions=st.sampled_from([None, "vers:generic/>=0.9"]),
        withdrawn=st.sampled_from([None, None, "it was broken"]),
    ),
    max_size=4,
)
_packs = st.builds(
    PackBase,
    slug=st.just("p"),
    name=st.just("P"),
    game=st.just("g"),
    game_version=st.sampled_from(["1", "2", "3"]),
    loader=st.sampled_from(
        [None, *(LoaderChoice(slug=one, version=v) for one, v in (("keel", None), ("keel", "0.9"), ("outrigger", "3")))]
    ),
    channel_floor=st.sampled_from(list(Channel)),
)


@settings(max_examples=300, deadline=None)
@given(_builds, _packs, st.sampled_from(list(Outdated)))
def test_a_key_of_a_draft_is_among_a_mods_grounds_just_where_a_build_fits(builds, draft, outdated):
    game = replace(GAME, outdated=outdated)
    if draft.loader is not None and draft.loader.version == "0.9" and draft.game_version == "1":
        return  # The loader does not load this version, so no draft stands there.
    kept = set(grounds_of(builds, game, every_ground(game)))
    offered = [build for build in builds if build.withdrawn is None]
    fitting = any(fits(build, draft) for build in offered)
    on_ground = any(fits(build, replace(draft, channel_floor=Channel.ALPHA)) for build in offered)
    lenient = not on_ground and any(usually_runs(build, draft, game) for build in offered)
    assert bool(kept & set(keys_for(draft))) == (fitting or lenient)


def test_every_ground_is_offered_once_and_only_where_its_loader_loads_the_game():
    grounds = every_ground(GAME)
    choices = [(one.game_version, one.loader or LoaderChoice(slug="none")) for one in grounds]
    found = [(version, choice.slug, choice.version) for version, choice in choices]
    assert len(found) == len(set(found)) == 3 * 3 + 3 + 3
    assert ("1", "keel", "0.8") in found and ("1", "keel", "0.9") not in found
