"""Previews for assembling a pack: what adding or removing mods brings with it, and the one edit that does it all."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from msgspec.structs import replace

from .edits import (
    AddEntry,
    Edit,
    RemoveEntry,
    SetBuild,
    SetChosen,
    SetEnabled,
    SetPin,
    Several,
    apply,
    parts,
    touches,
)
from .errors import EditRefused
from .explain import Impossible
from .fit import fits, fits_ground, nearest, newest_first, newest_fitting
from .model import Build, Catalogue, Entry, Game, Mod, Pack, Release, Requires, Suggests, Target
from .ranges import in_range
from .remedies import remedies
from .resolve import resolve


@dataclass(frozen=True, kw_only=True)
class Coming:
    """A mod that comes into the draft: at which build, of what size in bytes, and which mods need it."""

    mod: str
    name: str
    version: str
    size: int
    chosen: bool
    required_by: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Moving:
    """An entry that takes another build so that all fits."""

    mod: str
    name: str
    old: str | None
    new: str


@dataclass(frozen=True, kw_only=True)
class Choice:
    """A mod that could meet a requirement; ``taken``: it does. ``version`` None where it has no build that fits."""

    mod: str
    name: str
    version: str | None
    size: int
    taken: bool


@dataclass(frozen=True, kw_only=True)
class Alternatives:
    """A requirement that several mods could meet, and which mod has it."""

    by: str
    by_name: str
    choices: tuple[Choice, ...]


@dataclass(frozen=True, kw_only=True)
class Extra:
    """A mod that somebody suggests beside those that come. ``version`` None where it has no build that fits."""

    mod: str
    name: str
    summary: str
    suggested_by: tuple[str, ...]
    version: str | None


@dataclass(frozen=True, kw_only=True)
class Way:
    """An edit of the draft with which adding becomes possible, in words, and the one edit that does both."""

    label: str
    edit: Edit


@dataclass(frozen=True, kw_only=True)
class AddPreview:
    """What adding mods would do. ``edit`` is None where it is impossible; then ``explanation`` says why.

    ``ways`` are the smallest edits of the draft that would make it possible.
    """

    edit: Edit | None
    coming: tuple[Coming, ...]
    moving: tuple[Moving, ...]
    already: tuple[str, ...]
    alternatives: tuple[Alternatives, ...]
    suggested: tuple[Extra, ...]
    explanation: tuple[str, ...]
    ways: tuple[Way, ...]


@dataclass(frozen=True, kw_only=True)
class RemovePreview:
    """What removing mods would do: what still needs them, what nothing else needs then, and the edit for all."""

    edit: Edit
    needed_by: tuple[str, ...]
    orphans: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Totals:
    """The foot of the waybill: sizes in bytes, memory in MiB.

    ``shared`` is the part of the download that the last release has too, so that rigs on it need not fetch it again.
    """

    entries: int
    brought_along: int
    off: int
    download: int
    shared: int
    disk: int
    memory_mib: int


def preview_add(
    pack: Pack,
    catalogue: Catalogue,
    wanted: Sequence[str],
    versions: Mapping[str, str] | None = None,
    along: Sequence[str] = (),
    *,
    with_ways: bool = True,
) -> AddPreview:
    """What adding ``wanted`` would bring, at all levels.

    ``versions`` names builds the curator has chosen, ``along`` mods that are to meet requirements where several could.
    """
    mods = catalogue.by_slug(pack.game)
    versions = versions or {}
    already = tuple(slug for slug in wanted if (entry := pack.entry(slug)) and entry.enabled and entry.chosen)
    asked = [slug for slug in dict.fromkeys(wanted) if slug not in already]
    along = [slug for slug in along if slug not in asked and slug in mods]
    trial = _with_chosen(pack, [*asked, *along], versions)
    resolved = resolve(trial, catalogue, adding=[slug for slug in asked if pack.entry(slug) is None])
    if isinstance(resolved, Impossible):
        reasons = (*resolved.explanation, *_nearest_words(pack, catalogue.game(pack.game), mods, asked))
        found = _ways(pack, catalogue, trial, asked, versions, along) if with_ways else ()
        return AddPreview(
            edit=None,
            coming=(),
            moving=(),
            already=already,
            alternatives=(),
            suggested=(),
            explanation=reasons,
            ways=found,
        )
    edits: list[Edit] = []
    coming: list[Coming] = []
    moving: list[Moving] = []
    new = [slug for slug in (*along, *resolved.added) if slug in resolved.builds]
    for slug in dict.fromkeys((*asked, *new, *resolved.builds)):
        version, entry, chosen = resolved.builds[slug], pack.entry(slug), slug in asked
        if entry is None:
            edits.append(AddEntry(mod=slug, version=version, chosen=chosen))
        else:
            edits += _adjustments(entry, version, chosen)
        if entry is None or not entry.enabled:
            coming.append(
                Coming(
                    mod=slug,
                    name=mods[slug].name,
                    version=version,
                    size=_size(mods[slug].build(version)),
                    chosen=chosen,
                    required_by=tuple(mods[other].name for other in resolved.required_by.get(slug, ())),
                )
            )
        elif entry.version is not None and entry.version != version:
            moving.append(Moving(mod=slug, name=mods[slug].name, old=entry.version, new=version))
    return AddPreview(
        edit=Several(edits=tuple(edits), label=_added_words(asked, mods, len(coming))) if edits else None,
        coming=tuple(coming),
        moving=tuple(moving),
        already=already,
        alternatives=tuple(_alternatives(pack, mods, resolved.builds, [one.mod for one in coming])),
        suggested=_suggested(pack, asked, resolved.builds, mods),
        explanation=(),
        ways=(),
    )


def _ways(
    pack: Pack,
    catalogue: Catalogue,
    trial: Pack,
    asked: Sequence[str],
    versions: Mapping[str, str],
    along: Sequence[str],
) -> tuple[Way, ...]:
    """The smallest edits of the draft, none of what is to be added, after which adding is possible."""
    found = []
    for remedy in remedies(trial, catalogue):
        if touches(remedy.edit) & {f"entry:{slug}" for slug in asked if pack.entry(slug) is None}:
            continue
        try:
            after = apply(pack, remedy.edit)
        except EditRefused:
            continue
        preview = preview_add(after, catalogue, asked, versions, along, with_ways=False)
        if preview.edit is not None:
            edits = (*parts(remedy.edit), *parts(preview.edit))
            label = preview.edit.label if isinstance(preview.edit, Several) else ""
            found.append(
                Way(label=remedy.label, edit=Several(edits=edits, label=f"{label}, and {_lower(remedy.label)}"))
            )
    return tuple(found)


def _lower(label: str) -> str:
    return label[:1].lower() + label[1:]


def _alternatives(
    pack: Pack, mods: Mapping[str, Mod], builds: Mapping[str, str], coming: Sequence[str]
) -> Iterable[Alternatives]:
    """Requirements of what comes that several mods could meet, one of which comes too."""
    for slug in coming:
        build = mods[slug].build(builds[slug])
        for relation in build.relations if build else ():
            if not isinstance(relation, Requires) or len(relation.targets) < 2:
                continue
            targets = [target for target in relation.targets if target.mod in mods]
            if any(target.mod in builds and target.mod not in coming for target in targets):
                continue
            choices = tuple(_choice(pack, mods[target.mod], target, builds) for target in targets)
            if sum(choice.version is not None for choice in choices) > 1:
                yield Alternatives(by=slug, by_name=mods[slug].name, choices=choices)


def _choice(pack: Pack, mod: Mod, target: Target, builds: Mapping[str, str]) -> Choice:
    taken = mod.slug in builds
    fitting = (b for b in newest_first(mod) if fits(b, pack) and in_range(target.versions, b.version))
    build = mod.build(builds[mod.slug]) if taken else next((b for b in fitting if b.withdrawn is None), None)
    return Choice(mod=mod.slug, name=mod.name, version=build.version if build else None, size=_size(build), taken=taken)


def preview_remove(pack: Pack, catalogue: Catalogue, unwanted: Sequence[str]) -> RemovePreview:
    """What removing ``unwanted`` would leave behind. Raises EditRefused if one is not in the draft."""
    for slug in unwanted:
        if pack.entry(slug) is None:
            raise EditRefused(f'"{slug}" is not in the draft any more.')
    mods = catalogue.by_slug(pack.game)
    before = resolve(pack, catalogue)
    rest = replace(pack, entries=tuple(entry for entry in pack.entries if entry.mod not in unwanted))
    after = resolve(rest, catalogue)
    needed_by: set[str] = set()
    if not isinstance(before, Impossible):
        for slug in unwanted:
            needed_by.update(set(before.required_by.get(slug, ())) - set(unwanted))
    orphans: tuple[str, ...] = ()
    if not isinstance(after, Impossible) and not isinstance(before, Impossible):
        orphans = tuple(sorted(set(after.dropped) - set(before.dropped)))
    names = ", ".join(mods[slug].name if slug in mods else slug for slug in unwanted[:3])
    label = f"removed {names}" + (f" and {len(unwanted) - 3} more" if len(unwanted) > 3 else "")
    edits = tuple(RemoveEntry(mod=slug) for slug in (*dict.fromkeys(unwanted), *orphans))
    return RemovePreview(
        edit=Several(edits=edits, label=label),
        needed_by=tuple(sorted(mods[slug].name if slug in mods else slug for slug in needed_by)),
        orphans=orphans,
    )


def depending_on(pack: Pack, catalogue: Catalogue, mods: Sequence[str]) -> tuple[str, ...]:
    """The enabled entries that could not do without some mods, at every level: what would have to go with them."""
    gone = set(mods)
    before = resolve(pack, catalogue)
    needs = {} if isinstance(before, Impossible) else before.required_by
    growing = True
    while growing:
        found = {caller for slug in gone for caller in needs.get(slug, ())} - gone
        entries = {entry.mod for entry in pack.entries if entry.enabled}
        growing = bool(found & entries)
        gone |= found & entries
    return tuple(sorted(gone - set(mods)))


def totals(pack: Pack, catalogue: Catalogue, last: Release | None = None) -> Totals:
    """Counts, sizes and advised memory of the enabled entries; an entry without a version counts no bytes."""
    mods = catalogue.by_slug(pack.game)
    enabled = [entry for entry in pack.entries if entry.enabled]
    builds = [mods[entry.mod].build(entry.version) for entry in enabled if entry.mod in mods]
    download = sum(_size(build) for build in builds)
    known = {entry.file.sha256 for entry in last.entries} if last else set()
    shared = sum(_size(b) for b in builds if b is not None and b.file and b.file.sha256 and b.file.sha256 in known)
    unpacked = sum(max(_size(build), sum(item.size for item in build.contents)) for build in builds if build)
    game = catalogue.game(pack.game)
    memory = game.memory.base_mib + game.memory.per_mod_mib * len(enabled) if game else 0
    return Totals(
        entries=len(enabled),
        brought_along=sum(not entry.chosen for entry in enabled),
        off=len(pack.entries) - len(enabled),
        download=download,
        shared=shared,
        disk=max(download, unpacked),
        memory_mib=memory,
    )


def _with_chosen(pack: Pack, asked: Iterable[str], versions: Mapping[str, str]) -> Pack:
    entries = {entry.mod: entry for entry in pack.entries}
    for slug in asked:
        entry = replace(entries.get(slug, Entry(mod=slug)), enabled=True, chosen=True)
        entries[slug] = replace(entry, version=versions[slug]) if slug in versions else entry
    return replace(pack, entries=tuple(entries.values()))


def _adjustments(entry: Entry, version: str, chosen: bool) -> list[Edit]:
    edits: list[Edit] = []
    if not entry.enabled:
        edits.append(SetEnabled(mod=entry.mod, enabled=True))
    if chosen and not entry.chosen:
        edits.append(SetChosen(mod=entry.mod, chosen=True))
    if entry.version != version:
        # Only the pin of an entry that was off can be in the way: the pins of the others hold.
        if entry.pin is not None:
            edits.append(SetPin(mod=entry.mod, pin=None))
        edits.append(SetBuild(mod=entry.mod, version=version))
    return edits


def _added_words(asked: Sequence[str], mods: Mapping[str, Mod], coming: int) -> str:
    names = [mods[slug].name for slug in asked]
    shown = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
    extra = coming - len(asked)
    return f"added {shown}" + (f" and {extra} they need" if extra > 0 else "")


def _size(build: Build | None) -> int:
    return build.file.size if build is not None and build.file is not None else 0


def _suggested(
    pack: Pack, asked: Iterable[str], builds: Mapping[str, str], mods: Mapping[str, Mod]
) -> tuple[Extra, ...]:
    found: dict[str, list[str]] = {}
    for slug in asked:
        build = mods[slug].build(builds[slug])
        for relation in build.relations if build else ():
            if isinstance(relation, Suggests) and relation.mod in mods and relation.mod not in builds:
                found.setdefault(relation.mod, []).append(mods[slug].name)
    return tuple(
        Extra(
            mod=slug,
            name=mods[slug].name,
            summary=mods[slug].summary,
            suggested_by=tuple(by),
            version=best.version if (best := newest_fitting(mods[slug], pack)) else None,
        )
        for slug, by in sorted(found.items())
    )


def _nearest_words(pack: Pack, game: Game | None, mods: Mapping[str, Mod], asked: Iterable[str]) -> Iterable[str]:
    """For mods that have nothing for this ground: what they do have, so that nobody is left guessing."""
    for slug in asked:
        mod = mods.get(slug)
        if mod is not None and not any(fits_ground(build, pack) for build in mod.builds):
            found = nearest(mod, pack, game)
            if found is not None:
                yield f"The nearest build of {mod.name}, {found[0].version}, {found[1].reason}."
