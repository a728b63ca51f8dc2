"""Files that meet in one place, lie wrong in their archive, or stand in for the game's own."""

from collections.abc import Iterator

from ..edits import parts
from ..errors import UnsafePath
from ..model import Packaging
from ..order import contested
from ..paths import rules_keep
from ..places import layout_of, places_of
from . import mends
from .finding import Fix, Found, Grade, Mend
from .situation import Situation

SHOWN = 5


def overlaps(situation: Situation) -> Iterator[Found]:
    """Files of the same path and different content, one finding per set of entries that meet."""
    groups: dict[tuple[str, ...], list[str]] = {}
    sources: dict[tuple[str, ...], list[dict[str, str | None]]] = {}
    for file in contested(situation.order, situation.places):
        mods = tuple(dict.fromkeys(supplier.mod for supplier in file.suppliers))
        if len(mods) > 1:
            groups.setdefault(mods, []).append(file.path)
            sources.setdefault(mods, []).append({s.mod: s.source for s in file.suppliers})
    for mods, paths in groups.items():
        winner, names = situation.name(mods[-1]), [situation.name(mod) for mod in mods]
        archives = any(source is None for found in sources[mods] for source in found.values())
        yield Found(
            code="file-overlap",
            grade=Grade.STOP if archives else Grade.CAUTION,
            mods=mods,
            paths=tuple(paths),
            message=f"{' and '.join(names)} both bring {_listed(paths)}. {winner} is later in the load order and wins.",
            effect=f"What {' and '.join(names[:-1])} has there is not seen in the game.",
            facts=tuple(situation.build(mod).version for mod in mods if situation.build(mod)),  # type: ignore[union-attr]
            mends=lambda mods=mods: _apart(situation, mods, sources[mods]),  # type: ignore[misc]
        )


def _apart(situation: Situation, mods: tuple[str, ...], sources: list[dict[str, str | None]]) -> Iterator[Mend]:
    if len(mods) == 2:
        for mod in mods:
            yield mends.leave_out(situation, mod, [found[mod] for found in sources if mod in found])
    for mod in mods:
        yield mends.turn_off(situation, mod)


def _listed(paths: list[str]) -> str:
    shown = ", ".join(paths[:SHOWN])
    return shown if len(paths) <= SHOWN else f"{shown} and {len(paths) - SHOWN} more files"


def collisions(situation: Situation) -> Iterator[Found]:
    """Paths that differ in upper and lower case only, which some systems take for the same file."""
    spellings: dict[str, dict[str, tuple[str, str | None]]] = {}
    for mod in situation.order.mods:
        for place in situation.places.get(mod, ()):
            spellings.setdefault(place.target.casefold(), {}).setdefault(place.target, (mod, place.source))
    for _, found in sorted(spellings.items()):
        if len(found) < 2:
            continue
        paths = tuple(sorted(found))
        mods = tuple(dict.fromkeys(mod for mod, _ in found.values()))
        yield Found(
            code="case-collision",
            grade=Grade.CAUTION,
            mods=mods,
            paths=paths,
            message=f"{' and '.join(paths)} differ only in upper and lower case.",
            effect="On many machines they are one file, so members silently get different ones.",
            mends=lambda found=found: [  # type: ignore[misc]
                *(mends.leave_out(situation, mod, [source]) for mod, source in found.values()),
                *(mends.turn_off(situation, mod) for mod, _ in found.values()),
            ],
        )


def game_files(situation: Situation) -> Iterator[Found]:
    """Files that replace the game's own."""
    own = situation.game.own_files
    for mod, places in sorted(situation.places.items()) if own else ():
        taken = [place for place in places if rules_keep(place.target, own, ())]
        if taken:
            yield Found(
                code="replaces-game-file",
                grade=Grade.CAUTION,
                mods=(mod,),
                paths=tuple(sorted(place.target for place in taken)),
                message=f"{situation.name(mod)} replaces {_listed(sorted(p.target for p in taken))} of the game.",
                effect="The next update of the game may undo it, or no longer start with it.",
                mends=lambda mod=mod, taken=taken: [  # type: ignore[misc]
                    mends.leave_out(situation, mod, [place.source for place in taken]),
                    mends.turn_off(situation, mod),
                ],
            )


def about_entry(situation: Situation, slug: str) -> Iterator[Found]:
    """Whether the archive of an entry is laid out as its kind asks."""
    entry, mod, build = situation.entries.get(slug), situation.mods.get(slug), situation.build(slug)
    if entry is None or mod is None or build is None or not build.contents:
        return
    kind = situation.game.kind(mod.kind)
    if kind.packaging is Packaging.ARCHIVE:
        return
    try:
        places_of(build, kind, slug, entry.keep, entry.drop, situation.game.folders)
    except UnsafePath as error:
        yield Found(
            code="wrong-layout",
            grade=Grade.STOP,
            mods=(slug,),
            message=f"{mod.name} {build.version} cannot be placed. {error}",
            effect="No rig would write such a file, so the draft cannot be published with it.",
            facts=(build.version,),
            mends=lambda: [mends.other_builds(situation, slug), mends.turn_off(situation, slug)],
        )
        return
    layout = layout_of(build, kind, entry.keep, entry.drop, situation.game.folders)
    named = f"{mod.name} {build.version}"
    if kind.manifest and not layout.manifests and kind.packaging is Packaging.FOLDER:
        why = f"It holds the archive {layout.inside[0]} instead." if layout.inside else ""
        yield Found(
            code="wrong-layout",
            grade=Grade.STOP,
            mods=(slug,),
            message=f"{named} has no {kind.manifest} in its archive. {why}".strip(),
            effect="The game does not see the mod at all.",
            facts=(build.version,),
            mends=lambda: [mends.other_builds(situation, slug), mends.turn_off(situation, slug)],
        )
    elif len(layout.manifests) > 1:
        yield Found(
            code="wrong-layout",
            grade=Grade.CAUTION,
            mods=(slug,),
            message=f"{named} holds {len(layout.manifests)} mods in one archive; {layout.root or 'the top'} is taken.",
            effect="The others are placed inside it, where the game does not look.",
            facts=(build.version, *layout.manifests),
            mends=lambda: [mends.only_folder(situation, slug, path.rpartition("/")[0]) for path in layout.manifests],
        )
    elif layout.root.count("/") > 1 or layout.respelled:
        how = f"as {next(iter(layout.respelled.values()))}" if layout.respelled else "without the folders above it"
        where = next(iter(layout.respelled), layout.root.rstrip("/"))
        yield Found(
            code="wrong-layout",
            grade=Grade.NOTE,
            mods=(slug,),
            message=f"{named} has its files in {where}, which the game does not read; they are placed {how}.",
            effect="Nothing needs to be done; it is put right for everybody.",
            facts=(build.version, where),
        )


def overhauls(situation: Situation) -> Iterator[Found]:
    """More than one mod of a kind of which a pack can hold one."""
    kinds: dict[str, list[str]] = {}
    exclusive = {kind.slug for kind in situation.game.kinds if kind.exclusive}
    for slug in situation.entries if exclusive else ():
        if slug in situation.mods and situation.mods[slug].kind in exclusive:
            kinds.setdefault(situation.mods[slug].kind, []).append(slug)
    for kind, mods in kinds.items():
        if len(mods) > 1:
            names = " and ".join(situation.name(mod) for mod in mods)
            yield Found(
                code="several-overhauls",
                grade=Grade.STOP,
                mods=tuple(sorted(mods)),
                message=f"{names} each change the whole game; a pack can hold one {situation.game.kind(kind).name}.",
                effect="They overwrite each other, and the game does not work with both.",
                mends=lambda mods=mods: [_only(situation, mod, mods) for mod in mods],  # type: ignore[misc]
            )


def _only(situation: Situation, kept: str, mods: list[str]) -> Fix | None:
    made = [mends.turn_off(situation, mod) for mod in mods if mod != kept]
    edits = [edit for one in made if one is not None for edit in parts(one.edit)]
    return mends.fix(f"Keep {situation.name(kept)} and turn off the rest", list(dict.fromkeys(edits)))


def circles(situation: Situation) -> Iterator[Found]:
    """Relations of load order that lead in a circle."""
    for circle in situation.order.circles:
        chain = ", ".join(
            f"{situation.name(mod)} after {situation.name(circle[i - 1])}" for i, mod in enumerate(circle)
        )
        yield Found(
            code="load-order-circle",
            grade=Grade.CAUTION,
            mods=circle,
            message=f"The load order leads in a circle: {chain}.",
            effect="One of these wishes cannot hold; the first by your own order loads first.",
            mends=lambda circle=circle: [mends.turn_off(situation, mod) for mod in circle],  # type: ignore[misc]
        )
