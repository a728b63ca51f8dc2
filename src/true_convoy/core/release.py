"""Freezing a draft into a release.

The rules:

1. The draft must resolve calmly; the release has exactly the builds the draft resolves to. Entries that are off stay
   out: a release says all a rig needs and no more.
2. A file with an address needs a checksum, because a rig refuses to place what it cannot check.
3. Where each file of a build goes follows from its kind: ``archive`` places it whole, ``folder`` unpacks it into a
   folder of its own below the kind's folder, ``overlay`` unpacks it onto the game folder. Path rules apply to what is
   unpacked. Every target must be a safe path.
4. The digest is SHA-256 over the RFC 8785 form of the document without ``digest`` and signatures.
"""

import hashlib
from datetime import UTC, datetime
from typing import Any

from msgspec.structs import asdict, replace

from .documents import canonical, to_builtins
from .errors import FreezeRefused, UnsafePath
from .model import Build, Catalogue, ContentFile, Entry, Game, Kind, Mod, Pack, Packaging, Place, Release, ReleaseEntry
from .paths import rules_keep, safe_path
from .resolve import Impossible, resolve

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
    common = {key: value for key, value in asdict(pack).items() if key != "entries"}
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
        places = places_of(build, game.kind(mod.kind), mod.slug, entry.keep, entry.drop)
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
        file=build.file,
        places=places,
        required_by=needed_by,
        save_effect=mod.save_effect,
    )


def places_of(build: Build, kind: Kind, slug: str, keep: tuple[str, ...], drop: tuple[str, ...]) -> tuple[Place, ...]:
    """Where the files of a build go. Raises UnsafePath if one would not be safe to write."""
    file = build.file
    if file is None or file.sha256 is None:
        return ()
    if kind.packaging is Packaging.ARCHIVE:
        target = safe_path("/".join(part for part in (kind.folder, file.name) if part))
        return (Place(source=None, target=target, size=file.size, sha256=file.sha256),)
    root = _manifest_folder(build.contents, kind) if kind.packaging is Packaging.FOLDER else ""
    places = []
    for item in build.contents:
        if item.sha256 is None or not item.path.startswith(root) or not rules_keep(item.path, keep, drop):
            continue
        inside = item.path[len(root) :]
        if kind.packaging is Packaging.FOLDER:
            inside = f"{kind.folder}/{root.rstrip('/').rpartition('/')[2] or slug}/{inside}".lstrip("/")
        places.append(Place(source=item.path, target=safe_path(inside), size=item.size, sha256=item.sha256))
    return tuple(places)


def _manifest_folder(contents: tuple[ContentFile, ...], kind: Kind) -> str:
    """The folder of an archive that holds the mod, with a trailing slash; empty if the archive is that folder."""
    if kind.manifest is not None:
        found = [item.path for item in contents if item.path.rpartition("/")[2] == kind.manifest]
        if found:
            return min(found, key=lambda path: (path.count("/"), path)).removesuffix(kind.manifest)
    tops = {item.path.partition("/")[0] for item in contents if "/" in item.path}
    flat = any("/" not in item.path for item in contents)
    return f"{tops.pop()}/" if len(tops) == 1 and not flat else ""
