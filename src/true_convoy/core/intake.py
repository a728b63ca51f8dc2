"""Judging an archive that the catalogue does not have: what it is, and where its files belong.

The rules, in the order of the code:

1. The kind is the one whose manifest the archive holds (an exclusive kind only where somebody says so); without one,
   an overlay kind whose folders the archive brings; else the game's first kind that is placed whole.
2. The mod's folder is the one that holds the manifest; of an overlay, the one that holds folders the game reads. What
   stands above it is unwrapped; a mod of a folder kind whose files lie bare is wrapped into a folder of its own.
3. Name and version come from the manifest, else from the file's name.
4. What is odd is said: archives in the archive, several mods in one, folders in another spelling, programs.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from .errors import UnsafePath
from .model import ContentFile, Game, Kind, Packaging
from .paths import safe_path

_ARCHIVES = (".zip", ".7z", ".rar", ".tar", ".tar.gz", ".tgz", ".tar.xz", ".tar.bz2")
_PROGRAMS = (".exe", ".msi", ".bat", ".cmd", ".ps1", ".scr", ".vbs", ".sh", ".app", ".com")
_NAME = re.compile(r"(?P<name>.+?)[-_ ]v?(?P<version>\d+(?:\.[0-9A-Za-z]+)*(?:[-+][0-9A-Za-z.+-]+)?)$")


@dataclass(frozen=True, kw_only=True)
class Judgement:
    """What an archive is taken for. ``unwrap`` is the folder whose contents count, ``wrap`` one put around them.

    ``target`` is where its files go in the game's folder; ``notes`` are sentences about what was seen and put right.
    """

    kind: str
    slug: str
    name: str
    version: str
    unwrap: str
    wrap: str
    target: str
    notes: tuple[str, ...]


def manifest_names(game: Game) -> frozenset[str]:
    """The file names, in small letters, that mark a mod in this game: what to read out of an archive."""
    return frozenset(kind.manifest.lower() for kind in game.kinds if kind.manifest)


def judge(
    game: Game, file_name: str, contents: Sequence[ContentFile], manifests: Mapping[str, Mapping[str, str]]
) -> Judgement:
    """What an archive of a game's mod is; ``manifests`` are the values of its manifests (id, name, version) by path."""
    paths = [item.path for item in contents]
    kind, manifest = _kind(game, paths)
    notes: list[str] = []
    unwrap = manifest.rpartition("/")[0] if manifest else _overlay_root(game, kind, paths)
    unwrap = f"{unwrap}/" if unwrap else ""
    facts = manifests.get(manifest, {})
    stem = re.sub(r"\.(zip|7z|jar|tar|tgz|tar\.\w+)$", "", file_name, flags=re.IGNORECASE)
    match = _NAME.fullmatch(stem)
    name = facts.get("name") or (match["name"] if match else stem).replace("_", " ").strip() or "Unnamed"
    version = facts.get("version") or (match["version"] if match else "1.0.0")
    slug = slug_of(facts.get("id") or name)
    wrap = ""
    if kind.packaging is Packaging.FOLDER:
        wrap = f"{unwrap.rstrip('/').rpartition('/')[2] or slug}/"
        notes += _folder_notes(unwrap, wrap)
    elif kind.packaging is Packaging.OVERLAY and unwrap:
        notes.append(
            f'The files lie in "{unwrap.rstrip("/")}", which the game does not read; that folder is left away.'
        )
    elif kind.packaging is Packaging.ARCHIVE:
        unwrap = ""
    notes += _oddities(game, kind, paths, manifest)
    target = f"{kind.folder}/{wrap}".strip("/") if kind.packaging is not Packaging.OVERLAY else ""
    return Judgement(
        kind=kind.slug,
        slug=slug,
        name=name[:200],
        version=version[:200],
        unwrap=unwrap,
        wrap=wrap,
        target=target,
        notes=tuple(notes),
    )


def slug_of(text: str) -> str:
    """A slug made of a name."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:80] or "unnamed"


def _kind(game: Game, paths: Sequence[str]) -> tuple[Kind, str]:
    """The kind of an archive and the path of its manifest, the least deep where there are several."""
    by_depth = sorted(paths, key=lambda path: (path.count("/"), path))
    for kind in sorted(game.kinds, key=lambda kind: kind.exclusive):
        if kind.manifest is not None:
            found = [path for path in by_depth if path.rpartition("/")[2].lower() == kind.manifest.lower()]
            if found:
                return kind, found[0]
    folders = {folder.lower() for folder in game.folders}
    overlays = [kind for kind in game.kinds if kind.packaging is Packaging.OVERLAY and not kind.exclusive]
    if overlays and any(part.lower() in folders for path in paths for part in path.split("/")[:-1]):
        return overlays[0], ""
    whole = next((kind for kind in game.kinds if kind.packaging is Packaging.ARCHIVE), None)
    return whole or (game.kinds[0] if game.kinds else game.kind("mod")), ""


def _overlay_root(game: Game, kind: Kind, paths: Sequence[str]) -> str:
    """The folder, not itself one the game reads, below which the folders that it reads begin."""
    if kind.packaging is not Packaging.OVERLAY or not paths:
        return ""
    folders = {folder.lower() for folder in game.folders}
    root: list[str] = []
    while True:
        inside = [path.split("/")[len(root) :] for path in paths if path.split("/")[: len(root)] == root]
        tops = {parts[0] for parts in inside if len(parts) > 1}
        if len(tops) != 1 or any(top.lower() in folders for top in tops) or any(len(parts) == 1 for parts in inside):
            return "/".join(root)
        root.append(tops.pop())


def _folder_notes(unwrap: str, wrap: str) -> list[str]:
    depth = unwrap.rstrip("/").count("/")
    if not unwrap:
        return [f'The files lie bare in the archive; they get a folder of their own, "{wrap.rstrip("/")}".']
    if depth > 0:
        above = unwrap.rstrip("/").rpartition("/")[0]
        return [f'The mod lies {depth} folder{"s" if depth > 1 else ""} too deep; "{above}" is left away.']
    return []


def _oddities(game: Game, kind: Kind, paths: Sequence[str], manifest: str) -> list[str]:
    notes = []
    if manifest and kind.manifest and manifest.rpartition("/")[2] != kind.manifest:
        notes.append(f'The manifest is spelled "{manifest.rpartition("/")[2]}"; the game looks for "{kind.manifest}".')
    if kind.manifest and not manifest and kind.packaging is Packaging.FOLDER:
        notes.append(f'There is no "{kind.manifest}" in it, so the game will not see a mod here.')
    several = [path for path in paths if kind.manifest and path.rpartition("/")[2].lower() == kind.manifest.lower()]
    if len(several) > 1:
        notes.append(f"There are {len(several)} mods in this archive; only the first is taken.")
    inner = [path for path in paths if path.lower().endswith(_ARCHIVES)]
    if inner:
        notes.append(f'There is an archive in the archive ("{inner[0]}"); the game will not look into it.')
    programs = [path for path in paths if path.lower().endswith(_PROGRAMS)]
    if programs:
        notes.append(f'It brings a program ("{programs[0]}"). Look at it before anybody starts it.')
    if kind.packaging is Packaging.OVERLAY:
        known = {folder.lower(): folder for folder in game.folders}
        tops = sorted({path.partition("/")[0] for path in paths if "/" in path})
        respelled = [top for top in tops if known.get(top.lower(), top) != top]
        notes += [f'The folder "{top}" is put where the game reads "{known[top.lower()]}".' for top in respelled]
    return notes


def unsafe_paths(contents: Sequence[ContentFile]) -> list[str]:
    """A sentence for each path of an archive that must not be written; the first few are enough to refuse it."""
    found = []
    for item in contents:
        try:
            safe_path(item.path)
        except UnsafePath as error:
            found.append(str(error))
            if len(found) == 3:
                break
    return found
