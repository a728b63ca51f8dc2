"""What entries need, what they cannot be with, and what nothing needs any more."""

from collections.abc import Iterator, Set

from ..edits import AddEntry, Edit, RemoveEntry, SetChosen, SetEnabled, SetPin
from ..fit import newest_first
from ..model import Bridges, Build, Bundles, Clashes, Relation, Requires
from ..ranges import in_range
from . import mends
from .finding import Found, Grade, Mend
from .situation import Situation, range_words

_STOPS = "The game stops while loading."


def about_entry(situation: Situation, slug: str, only: Set[str] | None = None) -> Iterator[Found]:
    """Whether an entry has what its build needs, and nothing it clashes with; ``only`` as far as it is about these."""
    build = situation.build(slug)
    for relation in build.relations if build else ():
        if only is not None and not _is_about(relation, only):
            continue
        if isinstance(relation, Requires):
            if not situation.meets(slug, relation):
                yield _unmet(situation, slug, relation)
        elif isinstance(relation, Clashes):
            other = situation.build(relation.mod)
            if other is not None and relation.mod != slug and in_range(relation.versions, other.version):
                yield _clash(situation, slug, relation, other)
        elif isinstance(relation, Bridges):
            missing = [mod for mod in relation.mods if mod not in situation.entries]
            if missing:
                yield _dangling(situation, slug, relation, missing)


def _is_about(relation: Relation, mods: Set[str]) -> bool:
    if isinstance(relation, Requires):
        return relation.mod in mods or any(target.mod in mods for target in relation.any)
    if isinstance(relation, Bridges):
        return any(mod in mods for mod in relation.mods)
    return isinstance(relation, Clashes) and relation.mod in mods


def _unmet(situation: Situation, slug: str, relation: Requires) -> Found:
    name, targets = situation.name(slug), relation.targets
    wanted = " or ".join(situation.target(target) for target in targets)
    off = [t for t in targets if t.mod in situation.off]
    wrong = [t for t in targets if situation.build(t.mod) is not None]
    same_side = [t for t in wrong if situation.sides(slug) & situation.sides(t.mod)]
    if wrong:
        other = wrong[0].mod
        build = situation.build(other)
        version = build.version if build else ""
        code, says = "requirement-out-of-range", f"{version} is in the draft"
        if not same_side:
            code, says = "server-half-missing", f"{situation.name(other)} is on the other side only"
    elif off:
        other, version = off[0].mod, off[0].mod
        code, says = "requirement-off", "it is turned off" if len(targets) == 1 else "it is turned off in the draft"
    else:
        other, version = targets[0].mod, ""
        code, says = "missing-requirement", "it is not in the draft"
    return Found(
        code=code,
        grade=Grade.STOP,
        mods=(slug, other),
        message=f"{name} needs {wanted}, and {says}.",
        effect=_STOPS,
        facts=(wanted, version),
        mends=lambda: _meet(situation, slug, relation, code, other),
    )


def _meet(situation: Situation, slug: str, relation: Requires, code: str, other: str) -> Iterator[Mend]:
    providers = [target.mod for target in relation.targets]
    if code == "requirement-off":
        pinned = situation.off[other].pin is not None
        turn_on = [SetEnabled(mod=other, enabled=True)]
        yield [
            mends.fix(f"Turn on {situation.name(other)}", turn_on, safe=not pinned),
            mends.bring(situation, providers),
        ]
    if code == "requirement-out-of-range":
        target = next(target for target in relation.targets if target.mod == other)
        fitting = [build for build in situation.takeable(other) if in_range(target.versions, build.version)]
        yield [
            *(mends.set_build(situation, other, build.version) for build in fitting),
            mends.bring(situation, providers),
            mends.settle(situation),
        ]
        yield mends.other_builds(situation, slug, safe=False, at_most=4)
    if code in ("missing-requirement", "server-half-missing"):
        yield [mends.bring(situation, providers), mends.settle(situation)]
    yield mends.turn_off(situation, slug)


def _clash(situation: Situation, slug: str, relation: Clashes, other: Build) -> Found:
    name, second = situation.name(slug), situation.name(relation.mod)
    why = f" ({relation.reason})" if relation.reason else ""
    return Found(
        code="clash",
        grade=Grade.STOP,
        mods=tuple(sorted((slug, relation.mod))),
        message=f"{name} clashes with {second}{range_words(relation.versions)}{why}, and both are in the draft.",
        effect="Only one of the two can work; the game may stop, or worlds may be damaged.",
        facts=(slug, other.version, relation.reason),
        mends=lambda: _part(situation, slug, relation.mod),
    )


def _part(situation: Situation, one: str, other: str) -> Iterator[Mend]:
    for slug in (other, one):
        yield mends.other_builds(situation, slug, safe=False, at_most=3)
    for slug in (other, one):
        yield mends.turn_off(situation, slug)


def _dangling(situation: Situation, slug: str, relation: Bridges, missing: list[str]) -> Found:
    absent = " and ".join(situation.name(mod) for mod in missing)
    between = " and ".join(situation.name(mod) for mod in relation.mods)
    return Found(
        code="dangling-bridge",
        grade=Grade.STOP,
        mods=(slug, *missing),
        message=f"{situation.name(slug)} makes {between} work together; {absent} {_is(missing)} not on in the draft.",
        effect="A compatibility patch for a mod that is not there makes the game stop.",
        facts=tuple(relation.mods),
        mends=lambda: _about_bridge(situation, slug, missing),
    )


def _is(mods: list[str]) -> str:
    return "is" if len(mods) == 1 else "are"


def _about_bridge(situation: Situation, slug: str, missing: list[str]) -> Iterator[Mend]:
    entry = situation.entries[slug]
    yield mends.remove(situation, [slug], safe=not entry.chosen)
    if all(mod in situation.off for mod in missing):
        names = " and ".join(situation.name(mod) for mod in missing)
        yield mends.fix(f"Turn on {names}", [SetEnabled(mod=mod, enabled=True) for mod in missing])


def twice(situation: Situation) -> Iterator[Found]:
    """The same mod twice."""
    if len(situation.entries) + len(situation.off) == len(situation.pack.entries):
        return
    seen: set[str] = set()
    for slug in (entry.mod for entry in situation.pack.entries):
        if slug in seen:
            yield Found(
                code="duplicate-mod",
                grade=Grade.STOP,
                mods=(slug,),
                message=f"{situation.name(slug)} is in the draft twice.",
                effect="The game stops, or loads one of the two by chance.",
                mends=lambda slug=slug: [_only_once(situation, slug)],  # type: ignore[misc]
            )
        seen.add(slug)


def beside(situation: Situation) -> Iterator[Found]:
    """A mod beside a copy of it that another mod carries inside."""
    for slug, carriers in sorted(situation.bundled.items()):
        build = situation.build(slug)
        for carrier in carriers if build is not None else ():
            if carrier != slug:
                yield _beside(situation, slug, carrier)


def _only_once(situation: Situation, slug: str) -> Mend:
    first = next(entry for entry in situation.pack.entries if entry.mod == slug)
    edits: list[Edit] = [RemoveEntry(mod=slug), AddEntry(mod=slug, version=first.version, chosen=first.chosen)]
    if first.pin is not None:
        edits.append(SetPin(mod=slug, pin=first.pin))
    return mends.fix(f"Keep the first {situation.name(slug)}", edits, safe=True)


def _beside(situation: Situation, slug: str, carrier: str) -> Found:
    inside, build = situation.build(carrier), situation.build(slug)
    carried = [r for r in (inside.relations if inside else ()) if isinstance(r, Bundles) and r.mod == slug]
    version = carried[0].version if carried else None
    return Found(
        code="duplicate-mod",
        grade=Grade.CAUTION,
        mods=(slug, carrier),
        message=f"{situation.name(carrier)} carries {situation.name(slug)} {version or ''}".rstrip()
        + f" inside, and {situation.name(slug)} {build.version if build else ''} is in the draft as well.",
        effect="Which of the two copies the game takes is not certain.",
        facts=(version or "", build.version if build else ""),
        mends=lambda: [mends.remove(situation, [slug], safe=not situation.entries[slug].chosen)],
    )


def orphans(situation: Situation) -> Iterator[Found]:
    """What came along and nothing needs any more."""
    unneeded = [slug for slug in situation.entries if slug not in situation.needed]
    for slug in unneeded:
        yield Found(
            code="orphaned-library",
            grade=Grade.NOTE,
            mods=(slug,),
            message=f"{situation.name(slug)} came along with another mod, and nothing needs it now.",
            effect="It is downloaded and loaded for nothing.",
            mends=lambda slug=slug: _tidy(situation, slug),  # type: ignore[misc]
        )


def _tidy(situation: Situation, slug: str) -> Iterator[Mend]:
    yield mends.remove(situation, [slug], safe=True)
    # What only other unneeded entries need can go with them only.
    callers = {slug}
    for other in situation.mentioned_by.get(slug, ()):
        if other not in situation.needed:
            callers.add(other)
    if len(callers) > 1:
        yield mends.remove(situation, [slug, *sorted(callers - {slug})], safe=True)
    edit = SetChosen(mod=slug, chosen=True)
    yield mends.fix(f"Keep {situation.name(slug)} as a chosen entry", [edit])


def missing_bridges(situation: Situation) -> Iterator[Found]:
    """Patches that the catalogue has for mods that are all in the draft."""
    for slug, mod in sorted(situation.mods.items()):
        if slug in situation.entries:
            continue
        for build in newest_first(mod):
            bridge = next((r for r in build.relations if isinstance(r, Bridges)), None)
            if bridge and bridge.mods and all(other in situation.entries for other in bridge.mods):
                if any(True for _ in situation.takeable(slug)):
                    yield _no_bridge(situation, slug, bridge)
                break


def _no_bridge(situation: Situation, slug: str, bridge: Bridges) -> Found:
    between = " and ".join(situation.name(mod) for mod in bridge.mods)
    return Found(
        code="missing-bridge",
        grade=Grade.CAUTION,
        mods=(slug, *bridge.mods),
        message=f"{between} are both in the draft, and {situation.name(slug)}, which makes them work together, is not.",
        effect="Without the patch they may get into each other's way.",
        mends=lambda: _add_bridge(situation, slug),
    )


def _add_bridge(situation: Situation, slug: str) -> Iterator[Mend]:
    if slug in situation.off:
        yield mends.fix(f"Turn on {situation.name(slug)}", [SetEnabled(mod=slug, enabled=True)], safe=True)
        return
    yield (
        mends.fix(f"Add {situation.name(slug)} {build.version}", [AddEntry(mod=slug, version=build.version)], safe=True)
        for build in situation.takeable(slug)
    )
