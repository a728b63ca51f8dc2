"""Where the files of a build go.

1. ``archive`` places the file whole, ``folder`` unpacks it into one of its own below the kind's folder, ``overlay``
   unpacks it onto the game folder.
2. Path rules apply to what is unpacked, before anything else is judged.
3. A build that says so is unwrapped (only what is in a folder of the archive counts) and wrapped (into another).
4. A mod's folder is the one that holds the manifest of its kind; what stands above it in the archive is left away.
5. An overlay's folder that the game reads in another spelling of upper and lower case gets the game's spelling.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from msgspec.structs import replace

from .model import Build, ContentFile, Kind, Packaging, Place
from .paths import rules_keep, safe_path

_ARCHIVES = (".zip", ".7z", ".rar", ".tar", ".tar.gz", ".tgz", ".tar.xz", ".tar.bz2")


@dataclass(frozen=True, kw_only=True)
class Layout:
    """How an archive is laid out. ``root`` is the folder that holds the mod, with a trailing slash, or empty.

    ``inside`` are archives found in it; ``respelled`` are its folders and the game's spelling of them.
    """

    root: str
    manifests: tuple[str, ...]
    inside: tuple[str, ...]
    respelled: dict[str, str]


def layout_of(
    build: Build, kind: Kind, keep: tuple[str, ...], drop: tuple[str, ...], folders: Sequence[str] = ()
) -> Layout:
    """How the kept part of a build's archive is laid out."""
    kept = [item for item in rewrapped(build) if rules_keep(_inside(build, item), keep, drop)]
    manifests = sorted(item.path for item in kept if item.path.rpartition("/")[2] == kind.manifest)
    known = {folder.casefold(): folder for folder in folders}
    tops = {item.path.partition("/")[0] for item in kept if "/" in item.path}
    respelled = {top: known[top.casefold()] for top in sorted(tops) if known.get(top.casefold(), top) != top}
    return Layout(
        root=_root(kept, manifests, kind),
        manifests=tuple(manifests),
        inside=tuple(sorted(item.path for item in kept if item.path.lower().endswith(_ARCHIVES))),
        respelled=respelled if kind.packaging is Packaging.OVERLAY else {},
    )


def rewrapped(build: Build) -> list[ContentFile]:
    """The contents of a build's archive as they count: its folder taken off, the other put around."""
    if not build.unwrap and not build.wrap:
        return list(build.contents)
    return [
        replace(item, path=build.wrap + item.path.removeprefix(build.unwrap))
        for item in build.contents
        if item.path.startswith(build.unwrap)
    ]


def _inside(build: Build, item: ContentFile) -> str:
    """Where a file of the rewrapped contents lies in the archive."""
    return build.unwrap + item.path.removeprefix(build.wrap)


def places_of(
    build: Build,
    kind: Kind,
    slug: str,
    keep: tuple[str, ...],
    drop: tuple[str, ...],
    folders: Sequence[str] = (),
) -> tuple[Place, ...]:
    """Where the files of a build go. Raises UnsafePath if one would not be safe to write."""
    file = build.file
    if file is None or file.sha256 is None:
        return ()
    if kind.packaging is Packaging.ARCHIVE:
        target = safe_path("/".join(part for part in (kind.folder, file.name) if part))
        return (Place(source=None, target=target, size=file.size, sha256=file.sha256),)
    layout = layout_of(build, kind, keep, drop, folders)
    places = []
    for item in rewrapped(build):
        source = _inside(build, item)
        if item.sha256 is None or not item.path.startswith(layout.root) or not rules_keep(source, keep, drop):
            continue
        inside = item.path[len(layout.root) :]
        if kind.packaging is Packaging.FOLDER:
            inside = f"{kind.folder}/{layout.root.rstrip('/').rpartition('/')[2] or slug}/{inside}".lstrip("/")
        top, slash, rest = inside.partition("/")
        if slash and top in layout.respelled:
            inside = f"{layout.respelled[top]}/{rest}"
        places.append(Place(source=source, target=safe_path(inside), size=item.size, sha256=item.sha256))
    return tuple(places)


def _root(contents: Sequence[ContentFile], manifests: Sequence[str], kind: Kind) -> str:
    """The folder that holds the mod; empty if the archive is that folder."""
    if kind.packaging is not Packaging.FOLDER:
        return ""
    if manifests and kind.manifest is not None:
        return min(manifests, key=lambda path: (path.count("/"), path)).removesuffix(kind.manifest)
    tops = {item.path.partition("/")[0] for item in contents if "/" in item.path}
    flat = any("/" not in item.path for item in contents)
    return f"{tops.pop()}/" if len(tops) == 1 and not flat else ""
