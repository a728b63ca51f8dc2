"""Freezing a draft into a release.

The rules:

1. The draft must resolve calmly; the release has exactly the builds the draft resolves to. Entries that are off stay
   out: a release says all a rig needs and no more.
2. A file with an address needs a checksum, because a rig refuses to place what it cannot check.
3. Where each file of a build goes follows from its kind (see ``places``). Every target must be a safe path.
4. Entries are listed in load order; where the game goes by that order, each says its place in it.
5. The digest is SHA-256 over the RFC 8785 form of the document without ``digest`` and signatures.
"""

import hashlib
from datetime import UTC, datetime
from typing import Any

from msgspec.structs import asdict, replace

from .documents import canonical, to_builtins
from .errors import FreezeRefused, UnsafePath
from .explain import Impossible
from .model import Catalogue, Entry, Game, Mod, Pack, PackBase, Release, ReleaseEntry
from .order import load_order
from .places import places_of
from .resolve import resolve

_UNSIGNED = ("digest", "signatures")


def digest_of(document: dict[str, Any]) -> str:
    """The digest of a release document given as plain JSON values."""
    return hashlib.sha256(canonical({k: v for k, v in document.items() if k not in _UNSIGNED})).hexdigest()


def digest_holds(release: Release) -> bool:
    """Whether a release is what its digest says."""
    return digest_of(to_builtins(release)) == release.digest


def freeze(
    pack: Pack,
    catalogue: Catalogue,
    *,
    version: str,
    published: datetime,
    channel: str = "steady",
    notes: str = "",
    previous: str | None = None,
) -> Release:
    """The release of a draft. Raises FreezeRefused with a sentence that says what is in the way."""
    game = catalogue.game(pack.game)
    if game is None:
        raise FreezeRefused(f'The catalogue does not have the game "{pack.game}".')
    resolved = resolve(pack, catalogue)
    if isinstance(resolved, Impossible):
        raise FreezeRefused("The draft does not fit together: " + " ".join(resolved.explanation))
    mods = catalogue.by_slug(pack.game)
    wanted = [entry for entry in pack.entries if entry.mod in resolved.builds and entry.enabled]
    wanted += [Entry(mod=slug, chosen=False) for slug in resolved.added]
    entries = tuple(
        _frozen(entry, mods[entry.mod], resolved.builds[entry.mod], game, resolved.required_by.get(entry.mod, ()))
        for entry in wanted
    )
    order = load_order(wanted, {slug: mods[slug].build(version) for slug, version in resolved.builds.items()})
    rank = {slug: index for index, slug in enumerate(order.mods)}
    entries = tuple(
        replace(entry, order=rank[entry.mod]) if game.load_order else entry
        for entry in sorted(entries, key=lambda entry: rank[entry.mod])
    )
    common = {key: getattr(pack, key) for key in PackBase.__struct_fields__}
    if common["runtime"].runtime_major is None:
        common["runtime"] = replace(pack.runtime, runtime_major=game.runtime_for(pack.game_version))
    release = Release(
        **common,
        entries=entries,
        version=version,
        channel=channel,
        published=published.astimezone(UTC).replace(microsecond=0),
        notes=notes,
        previous=previous,
    )
    return replace(release, digest=digest_of(to_builtins(release)))


def _frozen(entry: Entry, mod: Mod, version: str, game: Game, needed_by: tuple[str, ...]) -> ReleaseEntry:
    build = mod.build(version)
    if build is None or build.file is None:
        raise FreezeRefused(f"{mod.name} {version} has no file in the catalogue.")
    if build.file.sha256 is None:
        raise FreezeRefused(f"{mod.name} {version} has no checksum, so no rig could check its file.")
    try:
        places = places_of(build, game.kind(mod.kind), mod.slug, entry.keep, entry.drop, game.folders)
    except UnsafePath as error:
        raise FreezeRefused(f"{mod.name} {version} cannot be placed. {error}") from None
    kept = {key: value for key, value in asdict(entry).items() if key not in ("version", "sides")}
    return ReleaseEntry(
        **kept,
        version=version,
        name=mod.name,
        kind=mod.kind,
        sides=entry.sides or mod.sides,
        page=mod.page,
        instructions=mod.instructions,
        file=build.file,
        places=places,
        required_by=needed_by,
        save_effect=mod.save_effect,
    )
