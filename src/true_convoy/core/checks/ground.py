"""Builds, loader and runtime against the draft's ground."""

from collections.abc import Iterator

from msgspec.structs import replace

from ..edits import SetRuntime
from ..fit import Misfit, fits_ground, loader_versions
from ..model import Build, LoaderChoice, LoaderVersion
from ..ranges import in_range, in_words
from . import mends
from .finding import Fix, Found, Grade, Mend
from .situation import Situation


def about_entry(situation: Situation, slug: str) -> Iterator[Found]:
    """Whether an entry's build runs on the ground."""
    build = situation.build(slug)
    if build is None:
        return
    fit = fits_ground(build, situation.pack, situation.game)
    if fit:
        return
    said = f"{situation.name(slug)} {build.version} {fit.reason}."
    facts = (build.version, situation.pack.game_version, str(situation.pack.loader))
    if fit.misfit is Misfit.LOADER:
        yield Found(
            code="wrong-loader",
            grade=Grade.STOP,
            mods=(slug,),
            message=said,
            effect="It is not loaded, and the game may stop at the start because of it.",
            facts=facts,
            mends=lambda: _other_build(situation, slug),
        )
    elif fit.misfit is Misfit.GAME_VERSION:
        runs = situation.usually_runs(build)
        effect = "It may still run, but nobody has said so." if runs else "The game refuses it or stops while loading."
        yield Found(
            code="wrong-game-version",
            grade=Grade.CAUTION if runs else Grade.STOP,
            mods=(slug,),
            message=said,
            effect=effect,
            facts=facts,
            mends=lambda: _other_build(situation, slug),
        )
    else:
        yield Found(
            code="loader-too-old",
            grade=Grade.STOP,
            mods=(slug,),
            message=said,
            effect="The game stops while loading.",
            facts=facts,
            mends=lambda: _newer_loader(situation, slug, build),
        )


def _other_build(situation: Situation, slug: str) -> Iterator[Mend]:
    yield [*mends.other_builds(situation, slug), mends.bring(situation, [slug])]
    for other in situation.mods[slug].counterparts:
        yield mends.replace_with(situation, slug, other)
    yield mends.turn_off(situation, slug)


def _newer_loader(situation: Situation, slug: str, build: Build) -> Iterator[Mend]:
    fitting = [one for one in _loader_versions(situation) if in_range(build.loader_versions, one.label)]
    yield (_with_loader(situation, version) for version in fitting)
    yield from _other_build(situation, slug)


def _loader_versions(situation: Situation) -> list[LoaderVersion]:
    """The versions of the pack's loader that load its game version, best first."""
    chosen = situation.pack.loader
    loader = situation.game.loader(chosen.slug) if chosen else None
    return loader_versions(loader, situation.pack.game_version) if loader else []


def _with_loader(situation: Situation, version: LoaderVersion) -> Fix | None:
    chosen = situation.pack.loader
    if chosen is None or chosen.version == version.label:
        return None
    loader = LoaderChoice(slug=chosen.slug, version=version.label)
    return mends.ground(situation, f"Take {situation.loader_name()} {version.label}", loader=loader, safe=True)


def whole(situation: Situation) -> Iterator[Found]:
    """Whether loader and runtime go with the game version."""
    pack, chosen = situation.pack, situation.pack.loader
    loader = situation.game.loader(chosen.slug) if chosen else None
    version = next((v for v in loader.versions if chosen and v.label == chosen.version), None) if loader else None
    if loader and version and not in_range(version.game_versions, pack.game_version):
        yield Found(
            code="wrong-loader",
            grade=Grade.STOP,
            mods=(),
            message=f"{loader.name} {version.label} is for game version {in_words(version.game_versions)}, "
            f"the pack is on {pack.game_version}.",
            effect="The game does not start with it.",
            facts=(version.label, pack.game_version),
            mends=lambda: [[_with_loader(situation, other) for other in _loader_versions(situation)]],
        )
    needed, asked = situation.game.runtime_for(pack.game_version), pack.runtime.runtime_major
    if needed is not None and asked is not None and needed != asked:
        runtime = SetRuntime(runtime=replace(pack.runtime, runtime_major=needed))
        yield Found(
            code="runtime-mismatch",
            grade=Grade.STOP,
            mods=(),
            message=f"Game version {pack.game_version} needs runtime {needed}, the pack asks for runtime {asked}.",
            effect="The game does not start for anybody who follows the pack.",
            facts=(str(needed), str(asked)),
            mends=lambda: [mends.fix(f"Ask for runtime {needed}", [runtime], safe=True)],
        )
