"""Previews for assembling a pack: what adding or removing mods brings with it, and the one edit that does it all."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from msgspec.structs import replace

from .edits import AddEntry, Edit, RemoveEntry, SetBuild, SetChosen, SetEnabled, Several
from .errors import EditRefused
from .fit import fits_ground, nearest
from .model import Build, Catalogue, Entry, Mod, Pack, Suggests
from .resolve import Impossible, resolve


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
class AddPreview:
    """What adding mods would do. ``edit`` is None where it is impossible; then ``explanation`` says why."""

    edit: Edit | None
    coming: tuple[Coming, ...]
    moving: tuple[Moving, ...]
    already: tuple[str, ...]
    suggested: tuple[str, ...]
    explanation: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class RemovePreview:
    """What removing mods would do: what still needs them, what nothing else needs then, and the edit for all."""

    edit: Edit
    needed_by: tuple[str, ...]
    orphans: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class Totals:
    """The foot of the waybill: sizes in bytes, memory in MiB."""

    entries: int
    brought_along: int
    off: int
    download: int
    disk: int
    memory_mib: int


def preview_add(
    pack: Pack, catalogue: Catalogue, wanted: Sequence[str], versions: Mapping[str, str] | None = None
) -> AddPreview:
    """What adding ``wanted`` would bring, at all levels. ``versions`` names builds the curator has chosen."""
    mods = catalogue.by_slug(pack.game)
    versions = versions or {}
    already = tuple(slug for slug in wanted if (entry := pack.entry(slug)) and entry.enabled and entry.chosen)
    asked = [slug for slug in dict.fromkeys(wanted) if slug not in already]
    trial = _with_chosen(pack, asked, versions)
    resolved = resolve(trial, catalogue)
    if isinstance(resolved, Impossible):
        reasons = (*resolved.explanation, *_nearest_words(pack, mods, asked))
        return AddPreview(edit=None, coming=(), moving=(), already=already, suggested=(), explanation=reasons)
    edits: list[Edit] = []
    coming: list[Coming] = []
    moving: list[Moving] = []
    for slug in (*asked, *resolved.added, *(s for s in resolved.builds if s not in asked and s not in resolved.added)):
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
        suggested=_suggested(asked, resolved.builds, mods),
        explanation=(),
    )


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


def totals(pack: Pack, catalogue: Catalogue) -> Totals:
    """Counts, sizes and advised memory of the enabled entries; an entry without a version counts no bytes."""
    mods = catalogue.by_slug(pack.game)
    enabled = [entry for entry in pack.entries if entry.enabled]
    builds = [mods[entry.mod].build(entry.version) for entry in enabled if entry.mod in mods]
    download = sum(_size(build) for build in builds)
    unpacked = sum(max(_size(build), sum(item.size for item in build.contents)) for build in builds if build)
    game = catalogue.game(pack.game)
    memory = game.memory.base_mib + game.memory.per_mod_mib * len(enabled) if game else 0
    return Totals(
        entries=len(enabled),
        brought_along=sum(not entry.chosen for entry in enabled),
        off=len(pack.entries) - len(enabled),
        download=download,
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
        edits.append(SetBuild(mod=entry.mod, version=version))
    return edits


def _added_words(asked: Sequence[str], mods: Mapping[str, Mod], coming: int) -> str:
    names = [mods[slug].name for slug in asked]
    shown = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
    extra = coming - len(asked)
    return f"added {shown}" + (f" and {extra} they need" if extra > 0 else "")


def _size(build: Build | None) -> int:
    return build.file.size if build is not None and build.file is not None else 0


def _suggested(asked: Iterable[str], builds: Mapping[str, str], mods: Mapping[str, Mod]) -> tuple[str, ...]:
    found = set()
    for slug in asked:
        build = mods[slug].build(builds[slug])
        for relation in build.relations if build else ():
            if isinstance(relation, Suggests) and relation.mod in mods and relation.mod not in builds:
                found.add(relation.mod)
    return tuple(sorted(found))


def _nearest_words(pack: Pack, mods: Mapping[str, Mod], asked: Iterable[str]) -> Iterable[str]:
    """For mods that have nothing for this ground: what they do have, so that nobody is left guessing."""
    for slug in asked:
        mod = mods.get(slug)
        if mod is not None and not any(fits_ground(build, pack) for build in mod.builds):
            found = nearest(mod, pack)
            if found is not None:
                yield f"The nearest build of {mod.name}, {found[0].version}, {found[1].reason}."
