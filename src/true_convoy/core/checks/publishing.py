"""What stands in the way of a release, or of members who take it."""

from collections.abc import Iterator

from ..edits import AddEntry, RemoveFile, SetEnabled
from ..explain import Impossible
from ..fit import finished_enough
from ..model import Channel, Redistribution, SaveEffect
from ..remedies import remedies
from . import dependencies, mends
from .finding import Fix, Found, Grade, Mend
from .situation import Situation

_UNKNOWN_LICENCES = {None, "", "NOASSERTION", "NONE"}


def about_entry(situation: Situation, slug: str) -> Iterator[Found]:
    """Whether an entry's build can be published."""
    mod, build = situation.mods.get(slug), situation.build(slug)
    entry = situation.entries.get(slug)
    if entry is None:
        return
    if mod is None or build is None:
        what = f"{entry.mod}" if mod is None else f"{mod.name} {entry.version or ''}".rstrip()
        yield Found(
            code="unresolved",
            grade=Grade.STOP,
            mods=(slug,),
            message=f"{what} is not in the catalogue." if mod is None or entry.version else f"No build of {what} fits.",
            effect="It cannot be fetched, so the draft cannot be published.",
            facts=(entry.version or "",),
            mends=lambda: _other(situation, slug),
        )
        return
    if build.file is None or build.file.sha256 is None:
        yield Found(
            code="no-checksum",
            grade=Grade.STOP,
            mods=(slug,),
            message=f"{mod.name} {build.version} has no checksum in the catalogue.",
            effect="No rig could check its file, so the draft cannot be published with it.",
            facts=(build.version,),
            mends=lambda: _other(situation, slug),
        )
    if build.channel is not Channel.STABLE:
        allowed = finished_enough(build, situation.pack.channel_floor)
        effect = "It may change or break more than others do."
        if not allowed:
            effect = f"The pack takes {situation.pack.channel_floor} builds or better, so a release would not have it."
        yield Found(
            code="prerelease-build",
            grade=Grade.NOTE if allowed else Grade.CAUTION,
            mods=(slug,),
            message=f"{mod.name} {build.version} is {_article(build.channel)} build.",
            effect=effect,
            facts=(build.version, str(allowed)),
            mends=lambda: _finished(situation, slug, build.channel, allowed),
        )
    if mod.licence in _UNKNOWN_LICENCES:
        yield Found(
            code="licence-unknown",
            grade=Grade.NOTE,
            mods=(slug,),
            message=f"The licence of {mod.name} is not known.",
            effect="Ask its author before passing its file on; the recipe itself may be shared.",
        )


def _article(channel: Channel) -> str:
    return "an alpha" if channel is Channel.ALPHA else "a beta"


def _other(situation: Situation, slug: str) -> Iterator[Mend]:
    yield mends.other_builds(situation, slug)
    yield mends.turn_off(situation, slug)
    if slug not in situation.mods:
        yield mends.remove(situation, [slug])


def _finished(situation: Situation, slug: str, channel: Channel, allowed: bool) -> Iterator[Mend]:
    stable = [build for build in situation.takeable(slug) if build.channel is Channel.STABLE]
    yield (mends.set_build(situation, slug, build.version, safe=not allowed) for build in stable)
    if not allowed:
        yield mends.ground(situation, f"Take {channel} builds in this pack", floor=channel)


def resolvable(situation: Situation) -> Iterator[Found]:
    """Whether any choice of builds fits together at all."""
    answer = situation.answer
    if not isinstance(answer, Impossible) or _is_said(situation, answer):
        return
    yield Found(
        code="unresolved",
        grade=Grade.STOP,
        mods=answer.mods,
        message="No choice of builds fits together: " + " ".join(answer.explanation),
        effect="The draft cannot be published.",
        facts=answer.explanation,
        mends=lambda: (Fix(label=way.label, edit=way.edit) for way in remedies(situation.pack, situation.catalogue)),
    )


def _is_said(situation: Situation, answer: Impossible) -> bool:
    """Whether an entry that is not to be had, or a clash between two, already says it in plainer words."""
    if any(slug in situation.entries and situation.build(slug) is None for slug in answer.mods):
        return True
    stops = (found for slug in answer.mods for found in dependencies.about_entry(situation, slug))
    return any(found.code == "clash" and set(found.mods) <= set(answer.mods) for found in stops)


def bundled_files(situation: Situation) -> Iterator[Found]:
    """Own files of the pack that are somebody's who does not let them be passed on."""
    own = {file.sha256: file.path for file in situation.pack.files if file.sha256}
    for mod in sorted(situation.mods.values(), key=lambda mod: mod.slug) if own else ():
        if mod.redistribution is not Redistribution.LINK_ONLY:
            continue
        sums = {build.file.sha256 for build in mod.builds if build.file}
        sums |= {item.sha256 for build in mod.builds for item in build.contents}
        for digest in sorted(own.keys() & {one for one in sums if one}):
            path = own[digest]
            yield Found(
                code="link-only-bundled",
                grade=Grade.STOP,
                mods=(mod.slug,),
                paths=(path,),
                message=f"The pack's own file {path} is of {mod.name}, which may not be passed on.",
                effect="Publishing it would break the licence of its author.",
                mends=lambda path=path: [  # type: ignore[misc]
                    mends.fix(f"Take {path} out of the pack", [RemoveFile(path=path)], safe=True)
                ],
            )


def save_loss(situation: Situation) -> Iterator[Found]:
    """Entries of the last release that take saved things with them when they go."""
    for entry in situation.last.entries if situation.last else ():
        if entry.save_effect is SaveEffect.LOSES and entry.mod not in situation.entries:
            name = situation.mods[entry.mod].name if entry.mod in situation.mods else entry.name or entry.mod
            back = SetEnabled(mod=entry.mod, enabled=True)
            add = AddEntry(mod=entry.mod, version=entry.version, chosen=entry.chosen)
            edits = [back if entry.mod in situation.off else add]
            yield Found(
                code="save-loss",
                grade=Grade.CAUTION,
                mods=(entry.mod,),
                message=f"{name} was in the last release and is not on in the draft.",
                effect="What it added to saved worlds is lost when they are opened without it. Back them up first.",
                facts=(entry.version or "",),
                mends=lambda name=name, edits=edits: [mends.fix(f"Put {name} back", edits)],  # type: ignore[misc]
            )
