"""Carrying out a plan: the hands to ``core.sync``. Fetches and stages everything first, then changes the folder."""

import hashlib
import shutil
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from rich.console import Console

from true_convoy.core.model import Inventory, Release, Side
from true_convoy.core.sync import Plan, Wanted, left_out, plan, wanted_files

from .fetch import Download, fetch_all
from .folder import RigFolder
from .problems import Failed, megabytes, said
from .store import Store, files_below, sha256_of

_CHUNK = 1 << 20
_SPARE = 32 * 1024 * 1024


@dataclass(frozen=True, kw_only=True)
class Outcome:
    """What was done: the plan, and the folder below the rig that holds what was set aside."""

    plan: Plan
    aside: str


def take_stock(
    folder: RigFolder,
    release: Release,
    side: Side,
    keepsakes: Iterable[str],
    without: Iterable[str],
    taking: Iterable[str] = (),
) -> Inventory:
    """What the folder has of a release and of the one it is on now."""
    now = folder.release()
    return Inventory(
        release=now.digest if now else None,
        side=side,
        files=folder.stocktake(now, release),
        keepsakes=tuple(sorted(keepsakes)),
        without=tuple(sorted(without)),
        taking=tuple(taking),
    )


def bring_to(
    folder: RigFolder,
    release: Release,
    document: bytes,
    inventory: Inventory,
    store: Store,
    console: Console,
) -> Outcome:
    """Brings a folder to a release. Raises Failed with the folder as it was, or finishes whole."""
    wanted = wanted_files(release, inventory.side, left_out(release, inventory))
    at_hand = {key for goal in wanted.values() if goal.url is None for key in (goal.sha256, goal.archive) if key}
    todo = plan(release, inventory, folder.placed(), frozenset(key for key in at_hand if store.has(key)))
    if todo.nothing_to_do and folder.release() == release:
        return Outcome(plan=todo, aside="")
    _check_space(folder, todo, store)
    fetch_all(_downloads(todo.place, release), store, console)
    with said(folder.root):
        staged = {goal.target: _stage(folder, number, goal, store) for number, goal in enumerate(todo.place)}
    present = {file.path: file.sha256 for file in inventory.files}
    moved = {item.path for item in todo.set_aside}
    placed = {path: sha256 for path, sha256 in present.items() if path in folder.placed() and path not in moved}
    placed |= {path: goal.sha256 for path, goal in wanted.items() if present.get(path) == goal.sha256 or path in staged}
    aside = folder.change([item.path for item in todo.set_aside], staged, placed, document)
    return Outcome(plan=todo, aside=aside)


def take_in_files(source: Path, wanted: Iterable[Wanted], store: Store) -> None:
    """Recognises files of any name in a folder by their checksum and copies those that are wanted into the store."""
    if not source.is_dir():
        raise Failed(f"There is no folder {source}. Nothing was done.")
    sought = {key for goal in wanted for key in (goal.archive or goal.sha256,) if key and not store.has(key)}
    with said(source):
        for path in files_below(source):
            if not sought:
                return
            sha256 = sha256_of(path)
            if sha256 in sought:
                store.copy_in(path, sha256)
                sought.discard(sha256)


def _downloads(place: Iterable[Wanted], release: Release) -> list[Download]:
    files = {entry.file.sha256: entry.file for entry in release.entries}
    found = {}
    for goal in place:
        file = files.get(goal.archive) if goal.archive else None
        if file is not None and file.sha256 is not None and file.url is not None:
            found[file.sha256] = Download(f"{goal.name} ({file.name})", file.url, file.size, file.sha256)
    return list(found.values())


def _check_space(folder: RigFolder, todo: Plan, store: Store) -> None:
    with said(folder.root):
        free = shutil.disk_usage(folder.root).free
    needed = sum(goal.size for goal in todo.place if not store.has(goal.archive or goal.sha256)) + _SPARE
    if needed > free:
        raise Failed(
            f"The release needs about {megabytes(needed)} of disk space and {megabytes(free)} are free. "
            "Nothing was changed; free some space and try again."
        )


def _stage(folder: RigFolder, number: int, goal: Wanted, store: Store) -> Path:
    """Makes a wanted file in staging, with the right checksum."""
    folder.inside(goal.target)
    target = folder.stage(number)
    if goal.source is None:
        if not store.has(goal.sha256):
            raise Failed(f"{goal.name} is not at hand and has no address, so nothing was changed.")
        store.give(goal.sha256, target)
        return target
    if goal.archive is None or not store.has(goal.archive):
        raise Failed(f"The archive of {goal.name} is not at hand, so nothing was changed.")
    _extract(store.path(goal.archive), goal, target)
    return target


def _extract(archive: Path, goal: Wanted, target: Path) -> None:
    """Writes one file of an archive; the release says how large it is and its checksum, so no archive can surprise."""
    digest, left = hashlib.sha256(), goal.size
    try:
        with zipfile.ZipFile(archive) as opened, opened.open(goal.source or "") as source, target.open("wb") as out:
            while chunk := source.read(min(_CHUNK, left + 1)):
                left -= len(chunk)
                if left < 0:
                    break
                digest.update(chunk)
                out.write(chunk)
    except (zipfile.BadZipFile, KeyError, RuntimeError, NotImplementedError, EOFError):
        raise Failed(f"The archive of {goal.name} is damaged or not a zip archive. Nothing was changed.") from None
    if left != 0 or digest.hexdigest() != goal.sha256:
        raise Failed(f"{goal.source} in the archive of {goal.name} is not what the release names. Nothing was changed.")
