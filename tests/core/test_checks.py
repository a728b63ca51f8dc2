"""Each code of the checks: one case that raises it, and a near miss that does not."""

from datetime import UTC, datetime

import pytest
from msgspec.structs import replace

from tests.universes import build, mod, pack
from true_convoy.core.checks import Grade, check, mend_all
from true_convoy.core.edits import Accept, SetBuild, apply
from true_convoy.core.model import (
    After,
    Bridges,
    BuildFile,
    Bundles,
    Catalogue,
    Channel,
    Clashes,
    ContentFile,
    Entry,
    Game,
    GameVersion,
    Kind,
    KnownSetting,
    Loader,
    LoaderChoice,
    LoaderVersion,
    Memory,
    Need,
    Outdated,
    Packaging,
    Pin,
    Reach,
    Redistribution,
    Release,
    ReleaseEntry,
    Requires,
    Runtime,
    SaveEffect,
    Setting,
    Sides,
)

KEEL = Loader(
    slug="keel",
    name="Keel",
    versions=(
        LoaderVersion(label="1", game_versions="vers:generic/1", recommended=True),
        LoaderVersion(label="2", game_versions="vers:generic/1"),
        LoaderVersion(label="3", game_versions="vers:generic/2"),
    ),
)
GAME = Game(
    slug="g",
    name="G",
    versions=(GameVersion(label="1", runtime=17), GameVersion(label="2", runtime=21)),
    loaders=(KEEL, Loader(slug="sail", name="Sail", versions=(LoaderVersion(label="1"),))),
    kinds=(
        Kind(slug="mod", name="Mod", folder="mods"),
        Kind(slug="unpacked", name="Unpacked mod", folder="Mods", packaging=Packaging.FOLDER, manifest="mod.xml"),
        Kind(slug="overlay", name="Overlay", packaging=Packaging.OVERLAY),
        Kind(slug="overhaul", name="overhaul", folder="mods", exclusive=True),
    ),
    memory=Memory(base_mib=1000, per_mod_mib=100),
    own_files=("engine/**",),
    folders=("text",),
)
LENIENT = replace(GAME, outdated=Outdated.USUALLY_RUNS)
ON_KEEL = LoaderChoice(slug="keel", version="1")
OLD, BOTH = "vers:generic/<2", "vers:generic/*"
CLIENT = Sides(client=Need.REQUIRED, server=Need.UNSUPPORTED)
EVERYWHERE = Sides()


def files(*paths: str, content: str = "a") -> tuple[ContentFile, ...]:
    return tuple(ContentFile(path=path, size=1, sha256=content * 64) for path in paths)


def named(slug: str, *builds, **more):
    return mod(slug, *(builds or (build("1.0.0"),)), **({"licence": "MIT"} | more))


def at(slug: str, version: str = "1.0.0", **more) -> Entry:
    return Entry(mod=slug, version=version, **more)


def case(code, mods, raising, missing, *, game=GAME, last=None, grade=None, **more):
    """A case: the catalogue's mods, a pack that raises the code, one that does not."""
    return pytest.param(code, mods, raising, missing, game, last, grade, more, id=f"{code}-{raising.name}")


def draft(*entries, name="a", **more):
    return pack(*entries, name=name, **({"loader": ON_KEEL} | more))


ROPE = named("rope", build("1.0.0"), build("2.0.0"))
NET = named("net", build("1.0.0", Requires(mod="rope", versions="vers:semver/>=2.0.0")))
LAMP = named("lamp", build("1.0.0", Clashes(mod="rope", versions="vers:semver/<2.0.0", reason="both hang it")))
BRIDGE = named("bridge", build("1.0.0", Bridges(mods=("net", "rope"))))
KNOWN = (KnownSetting(file="net.toml", key="size", minimum=1, maximum=9, default=3),)
TUNED = named("net", build("1.0.0", settings=KNOWN))
LOSES = ReleaseEntry(mod="net", version="1.0.0", name="Net", file=BuildFile(name="n.zip"), save_effect=SaveEffect.LOSES)
LAST = Release(
    slug="p",
    name="P",
    game="g",
    game_version="1",
    version="1.0.0",
    entries=(LOSES,),
    published=datetime(2026, 1, 1, tzinfo=UTC),
)
CASES = [
    case(
        "wrong-loader",
        [named("net", build("1.0.0", loaders=("sail",)), build("0.9.0", loaders=("keel",)))],
        draft(at("net")),
        draft(at("net", "0.9.0")),
        grade=Grade.STOP,
    ),
    case("wrong-loader", [], draft(loader=LoaderChoice(slug="keel", version="3"), name="loader"), draft()),
    case(
        "wrong-game-version",
        [named("net", build("1.0.0", game_versions="vers:generic/>=2"), build("0.9.0"))],
        draft(at("net")),
        draft(at("net", "0.9.0")),
        grade=Grade.STOP,
    ),
    case(
        "wrong-game-version",
        [named("net", build("1.0.0", game_versions=OLD), build("1.1.0"))],
        draft(at("net"), game_version="2", loader=None, name="lenient"),
        draft(at("net", "1.1.0"), game_version="2", loader=None),
        game=LENIENT,
        grade=Grade.CAUTION,
    ),
    case(
        "loader-too-old",
        [named("net", build("1.0.0", loaders=("keel",), loader_versions="vers:generic/>=2"))],
        draft(at("net")),
        draft(at("net"), loader=LoaderChoice(slug="keel", version="2")),
    ),
    case("runtime-mismatch", [], draft(runtime=Runtime(runtime_major=21)), draft(runtime=Runtime(runtime_major=17))),
    case("missing-requirement", [ROPE, NET], draft(at("net")), draft(at("net"), at("rope", "2.0.0"))),
    case(
        "requirement-off",
        [ROPE, NET],
        draft(at("net"), at("rope", "2.0.0", enabled=False)),
        draft(at("net", enabled=False), at("rope", "2.0.0", enabled=False)),
    ),
    case(
        "requirement-out-of-range",
        [ROPE, NET],
        draft(at("net"), at("rope", "1.0.0")),
        draft(at("net"), at("rope", "2.0.0")),
    ),
    case(
        "orphaned-library",
        [ROPE, NET],
        draft(at("rope", "2.0.0", chosen=False)),
        draft(at("net"), at("rope", "2.0.0", chosen=False)),
    ),
    case("clash", [ROPE, LAMP], draft(at("lamp"), at("rope", "1.0.0")), draft(at("lamp"), at("rope", "2.0.0"))),
    case("duplicate-mod", [ROPE], draft(at("rope", "2.0.0"), at("rope", "1.0.0")), draft(at("rope", "2.0.0"))),
    case(
        "duplicate-mod",
        [ROPE, named("raft", build("1.0.0", Bundles(mod="rope", version="2.0.0")))],
        draft(at("raft"), at("rope", "2.0.0"), name="bundled"),
        draft(at("raft")),
        grade=Grade.CAUTION,
    ),
    case(
        "dangling-bridge",
        [ROPE, NET, BRIDGE],
        draft(at("bridge"), at("rope", "2.0.0")),
        draft(at("bridge"), at("net"), at("rope", "2.0.0")),
    ),
    case(
        "missing-bridge",
        [ROPE, NET, BRIDGE],
        draft(at("net"), at("rope", "2.0.0")),
        draft(at("rope", "2.0.0")),
        grade=Grade.CAUTION,
    ),
    case(
        "file-overlap",
        [
            named("one", build("1.0.0", contents=files("text/a"))),
            named("two", build("1.0.0", contents=files("text/a", content="b"))),
            named("same", build("1.0.0", contents=files("text/a"))),
        ],
        draft(at("one"), at("two")),
        draft(at("one"), at("same")),
        kind="overlay",
        grade=Grade.CAUTION,
    ),
    case(
        "case-collision",
        [
            named("one", build("1.0.0", contents=files("text/Readme"))),
            named("two", build("1.0.0", contents=files("text/readme"))),
            named("three", build("1.0.0", contents=files("text/other"))),
        ],
        draft(at("one"), at("two")),
        draft(at("one"), at("three")),
        kind="overlay",
    ),
    case(
        "replaces-game-file",
        [
            named("one", build("1.0.0", contents=files("engine/core", "engines/x"))),
            named("two", build("1.0.0", contents=files("engines/core"))),
        ],
        draft(at("one")),
        draft(at("two")),
        kind="overlay",
    ),
    case(
        "wrong-layout",
        [
            named("one", build("1.0.0", contents=files("real.zip"))),
            named("two", build("1.0.0", contents=files("two/mod.xml", "two/x"))),
        ],
        draft(at("one")),
        draft(at("two")),
        kind="unpacked",
        grade=Grade.STOP,
    ),
    case(
        "wrong-layout",
        [
            named("one", build("1.0.0", contents=files("pack/one/mod.xml"))),
            named("two", build("1.0.0", contents=files("mod.xml", "data/x"))),
        ],
        draft(at("one"), name="too-deep"),
        draft(at("two")),
        kind="unpacked",
        grade=Grade.NOTE,
    ),
    case(
        "wrong-layout",
        [
            named("one", build("1.0.0", contents=files("Text/a"))),
            named("two", build("1.0.0", contents=files("text/a", "Other/b"))),
        ],
        draft(at("one"), name="spelling"),
        draft(at("two")),
        kind="overlay",
        grade=Grade.NOTE,
    ),
    case(
        "wrong-layout",
        [named("one", build("1.0.0", contents=files("a/mod.xml", "b/mod.xml")))],
        draft(at("one"), name="two-mods"),
        draft(at("one", keep=("b/**",))),
        kind="unpacked",
        grade=Grade.CAUTION,
    ),
    case(
        "wrong-layout",
        [
            named("one", build("1.0.0", contents=files("../outside"))),
            named("two", build("1.0.0", contents=files("outside/x"))),
        ],
        draft(at("one"), name="unsafe"),
        draft(at("two")),
        kind="overlay",
        grade=Grade.STOP,
    ),
    case(
        "several-overhauls",
        [named("one"), named("two")],
        draft(at("one"), at("two")),
        draft(at("one"), at("two", enabled=False)),
        kind="overhaul",
    ),
    case(
        "load-order-circle",
        [
            named("one", build("1.0.0", After(mod="two"))),
            named("two", build("1.0.0", After(mod="one"))),
            named("three", build("1.0.0", After(mod="two"))),
        ],
        draft(at("one"), at("two")),
        draft(at("two"), at("three")),
    ),
    case(
        "client-only-on-server",
        [named("net", sides=CLIENT)],
        draft(at("net", sides=EVERYWHERE)),
        draft(at("net", sides=CLIENT)),
    ),
    case("server-half-missing", [named("net")], draft(at("net", sides=CLIENT)), draft(at("net", sides=EVERYWHERE))),
    case(
        "server-half-missing",
        [named("rope", sides=CLIENT), named("net", build("1.0.0", Requires(mod="rope")))],
        draft(at("net", sides=Sides(client=Need.UNSUPPORTED, server=Need.REQUIRED)), at("rope"), name="never-meet"),
        draft(at("net"), at("rope")),
    ),
    case("progress-reach", [named("net", reach=Reach.PROGRESS)], draft(at("net"), fair=True), draft(at("net"))),
    case(
        "link-only-bundled",
        [named("net", build("1.0.0", contents=files("x", content="d")), redistribution=Redistribution.LINK_ONLY)],
        draft(files=(ContentFile(path="x", size=1, sha256="d" * 64),)),
        draft(files=(ContentFile(path="x", size=1, sha256="e" * 64),)),
    ),
    case(
        "no-checksum",
        [named("net", build("1.0.0", file=BuildFile(name="n.zip")), build("1.1.0"))],
        draft(at("net")),
        draft(at("net", "1.1.0")),
    ),
    case(
        "prerelease-build",
        [named("net", build("1.0.0", channel=Channel.BETA), build("0.9.0"))],
        draft(at("net")),
        draft(at("net", "0.9.0")),
        grade=Grade.CAUTION,
    ),
    case(
        "prerelease-build",
        [named("net", build("1.0.0", channel=Channel.BETA), build("0.9.0"))],
        draft(at("net"), channel_floor=Channel.BETA, name="allowed"),
        draft(at("net", "0.9.0")),
        grade=Grade.NOTE,
    ),
    case("save-loss", [named("net")], draft(), draft(at("net")), last=LAST, grade=Grade.CAUTION),
    case("unresolved", [ROPE], draft(at("gone")), draft(at("rope"))),
    case("unresolved", [ROPE], draft(at("rope", "9.9.9"), name="no-such-build"), draft(at("rope", "2.0.0"))),
    case(
        "unresolved",
        [ROPE, NET, named("old", build("1.0.0", Requires(mod="rope", versions="vers:semver/<2.0.0")))],
        draft(at("net"), at("old"), at("rope", "2.0.0"), name="impossible"),
        draft(at("net"), at("rope", "2.0.0")),
    ),
    case("licence-unknown", [named("net", licence=None)], draft(at("net")), draft(at("net", enabled=False))),
    case("newer-build", [ROPE], draft(at("rope", "1.0.0")), draft(at("rope", "1.0.0", pin=Pin(reason="works")))),
    case(
        "withdrawn-build",
        [named("net", build("1.1.0", withdrawn="It damaged worlds."), build("1.0.0"))],
        draft(at("net", "1.1.0")),
        draft(at("net")),
        grade=Grade.CAUTION,
    ),
    case("abandoned", [named("net", abandoned=True, successor="rope"), ROPE], draft(at("net")), draft(at("rope"))),
    case("pin-without-reason", [ROPE], draft(at("rope", pin=Pin())), draft(at("rope", pin=Pin(reason="2 is slow")))),
    case(
        "unknown-setting",
        [TUNED],
        draft(at("net"), settings=(Setting(file="net.toml", key="colour", value=1),)),
        draft(at("net"), settings=(Setting(file="net.toml", key="size", value=1),)),
    ),
    case(
        "value-out-of-range",
        [TUNED],
        draft(at("net"), settings=(Setting(file="net.toml", key="size", value=12),)),
        draft(at("net"), settings=(Setting(file="net.toml", key="size", value=9),)),
    ),
    case(
        "setting-of-absent-mod",
        [TUNED],
        draft(settings=(Setting(file="net.toml", key="size", value=2),)),
        draft(at("net"), settings=(Setting(file="net.toml", key="size", value=2),)),
    ),
    case(
        "memory-low",
        [ROPE],
        draft(at("rope"), runtime=Runtime(memory_min_mib=1099)),
        draft(at("rope"), runtime=Runtime(memory_min_mib=1100)),
    ),
]
WITHOUT_FIX = {"licence-unknown"}


@pytest.mark.parametrize("code, mods, raising, missing, game, last, grade, more", CASES)
def test_each_code_is_raised_where_it_should_be_and_not_beside_it(
    code, mods, raising, missing, game, last, grade, more
):
    universe = Catalogue(games=(game,), mods=tuple(replace(one, **more) for one in mods))
    found = [finding for finding in check(raising, universe, last) if finding.code == code]
    assert len(found) == 1
    assert grade in (None, found[0].grade)
    assert found[0].message.endswith(".") and found[0].effect.endswith(".")
    assert code not in [finding.code for finding in check(missing, universe, last)]
    harmless = found[0].grade is Grade.NOTE and code == "wrong-layout"
    assert found[0].fixes or code in WITHOUT_FIX or harmless, "whoever reads it can do something"
    stops = {(one.code, one.mods) for one in check(raising, universe, last) if one.grade is Grade.STOP}
    for fix in found[0].fixes:
        after = check(apply(raising, fix.edit), universe, last)
        assert (code, found[0].mods) not in [(one.code, one.mods) for one in after], fix.label
        assert {(one.code, one.mods) for one in after if one.grade is Grade.STOP} <= stops, fix.label


def test_every_code_that_can_be_said_has_its_case():
    from pathlib import Path
    from re import findall

    import true_convoy.core.checks as checks

    text = "".join(path.read_text() for path in Path(checks.__file__).parent.glob("*.py"))
    said = set(findall(r'"([a-z]+(?:-[a-z]+)+|clash|unresolved|abandoned)"', text)) - {"dangling"}
    codes = {param.values[0] for param in CASES}
    # The same words for the other half of the game need no cases of their own.
    assert said - {"client-half-missing", "server-only-on-client", "true-convoy"} <= codes


def test_an_accepted_caution_comes_back_when_its_facts_change():
    beta = named("net", build("1.1.0", channel=Channel.BETA), build("1.0.0", channel=Channel.BETA))
    universe, before = Catalogue(games=(GAME,), mods=(beta,)), draft(at("net"))
    (caution,) = [one for one in check(before, universe) if one.code == "prerelease-build"]
    accepted = Accept(code=caution.code, mods=caution.mods, facts=caution.facts, reason="its author is one of us")
    after = apply(before, accepted)
    assert [o.accepted for o in check(after, universe) if o.code == caution.code] == ["its author is one of us"]
    raised = apply(after, SetBuild(mod="net", version="1.1.0"))
    assert [o.accepted for o in check(raised, universe) if o.code == caution.code] == [None]


def test_mending_all_takes_every_level_and_nothing_that_was_chosen():
    pulley = named("pulley", build("1.0.0", Requires(mod="rope", versions="vers:semver/>=2.0.0")))
    crane = named("crane", build("1.0.0", Requires(mod="pulley")))
    universe = Catalogue(games=(GAME,), mods=(ROPE, LAMP, pulley, crane))
    broken = draft(at("crane"), at("lamp"), at("rope", "1.0.0", chosen=False))
    mending = mend_all(broken, universe)
    after = apply(broken, mending.edit)
    assert {entry.mod: entry.version for entry in after.entries} == {
        "crane": "1.0.0",
        "lamp": "1.0.0",
        "rope": "2.0.0",
        "pulley": "1.0.0",
    }
    assert mending.left == 0 and all(finding.grade is Grade.NOTE for finding in check(after, universe))


def test_where_two_safe_answers_work_somebody_must_decide():
    wrong = draft(at("net"), settings=(Setting(file="net.toml", key="size", value=12),))
    universe = Catalogue(games=(GAME,), mods=(TUNED,))
    (finding,) = [one for one in check(wrong, universe) if one.code == "value-out-of-range"]
    assert [fix.safe for fix in finding.fixes] == [True, False], "to set it right is safe, to drop it a decision"
    assert mend_all(wrong, universe).labels == ("Set it to 9",)
    held = draft(at("net"), at("rope", "1.0.0", pin=Pin(reason="2 is slow")))
    stops = [one for one in check(held, Catalogue(games=(GAME,), mods=(ROPE, NET))) if one.grade is Grade.STOP]
    fixes = [fix for stop in stops for fix in stop.fixes]
    assert fixes and not any(fix.safe for fix in fixes), "a pin that goes was somebody's decision"


def test_the_sentences_of_a_finding_say_what_follows_and_what_to_do():
    universe = Catalogue(games=(GAME,), mods=(ROPE, NET))
    (stop,) = [f for f in check(draft(at("net"), at("rope", "1.0.0")), universe) if f.grade is Grade.STOP]
    assert stop.message == "Net needs Rope 2.0.0 or newer, and 1.0.0 is in the draft."
    assert stop.effect == "The game stops while loading."
    assert [fix.label for fix in stop.fixes] == ["Raise Rope to 2.0.0", "Turn off Net"]
