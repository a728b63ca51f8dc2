"""What has moved on since builds were chosen."""

from collections.abc import Iterator

from ..edits import SetPin
from ..fit import is_newer
from . import mends
from .finding import Found, Grade, Mend
from .situation import Situation


def about_entry(situation: Situation, slug: str) -> Iterator[Found]:
    """Whether an entry's build and mod are kept up."""
    entry, mod, build = situation.entries.get(slug), situation.mods.get(slug), situation.build(slug)
    if entry is None or mod is None:
        return
    if entry.pin is not None and not entry.pin.reason.strip():
        yield Found(
            code="pin-without-reason",
            grade=Grade.NOTE,
            mods=(slug,),
            message=f"{mod.name} is pinned, and nobody wrote down why.",
            effect="In half a year nobody will know whether the pin is still needed.",
            mends=lambda: [mends.fix(f"Let the pin of {mod.name} go", [SetPin(mod=slug, pin=None)])],
        )
    if mod.abandoned:
        named = f" {situation.name(mod.successor)} takes over from it." if mod.successor else ""
        yield Found(
            code="abandoned",
            grade=Grade.NOTE,
            mods=(slug,),
            message=f"{mod.name} is not kept up any more.{named}",
            effect="It will not follow the game to its next version.",
            mends=lambda: [mends.replace_with(situation, slug, mod.successor)] if mod.successor else [],
        )
    if build is not None and build.withdrawn is not None:
        because = f": {build.withdrawn.rstrip('.')}" if build.withdrawn else ""
        yield Found(
            code="withdrawn-build",
            grade=Grade.CAUTION,
            mods=(slug,),
            message=f"{mod.name} {build.version} was withdrawn by its author{because}.",
            effect="New members may not be able to fetch it, and it may be broken.",
            facts=(build.version,),
            mends=lambda: _kept(situation, slug),
        )
    elif build is not None and entry.pin is None and entry.version is not None:
        newest = next(situation.takeable(slug), None)
        if newest and is_newer(mod, newest.version, build.version):
            yield Found(
                code="newer-build",
                grade=Grade.NOTE,
                mods=(slug,),
                message=f"{mod.name} {newest.version} is out; the draft has {build.version}.",
                effect="Read what changed before taking it.",
                facts=(build.version, newest.version),
                mends=lambda: [mends.set_build(situation, slug, newest.version, safe=False)],
            )


def _kept(situation: Situation, slug: str) -> Iterator[Mend]:
    yield mends.other_builds(situation, slug)
    yield mends.turn_off(situation, slug)
