"""What a rig has to do to be on a release, and what differs between the two. The agent does it; no rule is there.

The rules of a plan, in the order of the code:

1. A rig wants the places of the release's entries for its side, less the optional ones it does without, and the
   pack's own files. Where two entries claim a path, the one later in the load order has it. An optional entry is there
   by default or not, as the curator said, until its owner says otherwise; of a "one of" group exactly one is.
2. A wanted file that is there and the same is left alone.
3. A keepsake is left alone, whatever the release says; that is reported.
4. A different file in the way is set aside first, never deleted.
5. What an earlier release placed and this one does not want is set aside.
6. A file in a folder the release governs that neither wants is not the release's: it is set aside too, since every
   rig is to have the same. To stay, it must be made a keepsake.
7. A wanted file without an address can only be fetched by a person: until it is there, the rig waits.
"""

import enum
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from .model import Digest, Inventory, Release, ReleaseEntry, RigFile, Side
from .order import wish


class Kind(enum.StrEnum):
    """How a file of a rig differs from the release."""

    MISSING = "missing"
    CHANGED = "changed"
    EXTRA = "extra"
    AWAITED = "awaited"


@dataclass(frozen=True, kw_only=True)
class Wanted:
    """A file a rig is to have: which entry it is of (None: the pack's own), and where it comes from."""

    target: str
    size: int
    sha256: str
    mod: str | None
    name: str
    archive: str | None
    source: str | None
    url: str | None


@dataclass(frozen=True, kw_only=True)
class FileDifference:
    """One file that is not as the release has it."""

    kind: Kind
    path: str
    mod: str | None
    expected: str | None
    found: str | None


@dataclass(frozen=True, kw_only=True)
class SetAside:
    """A file to be moved out of the way, and why."""

    path: str
    reason: str


@dataclass(frozen=True, kw_only=True)
class Plan:
    """What to do: set aside first, then place. Counts are files."""

    set_aside: tuple[SetAside, ...]
    place: tuple[Wanted, ...]
    awaited: tuple[Wanted, ...]
    kept: tuple[str, ...]
    unchanged: int

    @property
    def nothing_to_do(self) -> bool:
        """Whether the rig is as the release has it, but for files a person must fetch."""
        return not self.set_aside and not self.place


def left_out(release: Release, inventory: Inventory) -> frozenset[str]:
    """The optional entries a rig does without, by what its owner said and by default."""
    without, taking = set(inventory.without), inventory.taking
    out = {
        entry.mod
        for entry in release.entries
        if entry.optional and (entry.mod in without or not (entry.by_default or entry.mod in taking))
    }
    groups: dict[str, list[ReleaseEntry]] = {}
    for entry in release.entries:
        if entry.optional and entry.one_of:
            groups.setdefault(entry.one_of, []).append(entry)
    for group in groups.values():
        left = [entry for entry in group if entry.mod not in without]
        asked = [mod for mod in taking if any(entry.mod == mod for entry in left)]
        default = [entry.mod for entry in sorted(left, key=lambda entry: not entry.by_default)]
        one = next(iter([*asked, *default]), None)
        out = (out | {entry.mod for entry in group}) - ({one} if one else set())
    return frozenset(out)


def entries_for(release: Release, side: Side, without: frozenset[str]) -> list[ReleaseEntry]:
    """The entries a rig gets, in load order."""
    wanted = [
        entry for entry in release.entries if entry.sides.on(side) and not (entry.optional and entry.mod in without)
    ]
    return sorted(wanted, key=wish)


def wanted_files(release: Release, side: Side, without: frozenset[str] = frozenset()) -> dict[str, Wanted]:
    """The files a rig is to have, by target path."""
    wanted: dict[str, Wanted] = {}
    for entry in entries_for(release, side, without):
        for place in entry.places:
            wanted[place.target] = Wanted(
                target=place.target,
                size=place.size,
                sha256=place.sha256,
                mod=entry.mod,
                name=entry.name or entry.mod,
                archive=entry.file.sha256,
                source=place.source,
                url=entry.file.url,
            )
    for file in release.files:
        if file.sha256 is not None:
            wanted[file.path] = Wanted(
                target=file.path,
                size=file.size,
                sha256=file.sha256,
                mod=None,
                name=file.path,
                archive=None,
                source=None,
                url=None,
            )
    return wanted


def governed_folders(release: Release) -> frozenset[str]:
    """The folders in which every file is the release's concern: those it places whole mods or mod folders in."""
    folders = set()
    for entry in release.entries:
        for place in entry.places:
            if place.source is None and "/" in place.target:
                folders.add(place.target.rpartition("/")[0])
            elif place.source is not None and place.target.count("/") >= 2 and place.source != place.target:
                folders.add(place.target.partition("/")[0])
    return frozenset(folders)


def in_folders(path: str, folders: frozenset[str]) -> bool:
    """Whether a path lies in one of the folders, at any depth."""
    parts = path.split("/")
    return any("/".join(parts[:depth]) in folders for depth in range(1, len(parts)))


def differences(
    release: Release,
    side: Side,
    files: Mapping[str, RigFile],
    keepsakes: frozenset[str] = frozenset(),
    without: frozenset[str] = frozenset(),
) -> Iterator[FileDifference]:
    """Every file that is not as the release has it, by path; keepsakes are the member's own and do not count."""
    wanted = wanted_files(release, side, without)
    folders = governed_folders(release)
    for path in sorted(wanted.keys() | files.keys()):
        goal, found = wanted.get(path), files.get(path)
        if path in keepsakes:
            continue
        if goal is None:
            if found is not None and in_folders(path, folders):
                yield _difference(Kind.EXTRA, path, None, found.sha256, None)
        elif found is None:
            by_person = goal.url is None and goal.mod is not None
            yield _difference(Kind.AWAITED if by_person else Kind.MISSING, path, goal.sha256, None, goal.mod)
        elif found.sha256 != goal.sha256:
            yield _difference(Kind.CHANGED, path, goal.sha256, found.sha256, goal.mod)


def _difference(kind: Kind, path: str, expected: Digest | None, found: str | None, mod: str | None) -> FileDifference:
    return FileDifference(kind=kind, path=path, mod=mod, expected=expected, found=found)


def plan(
    release: Release,
    inventory: Inventory,
    placed: Mapping[str, str],
    available: frozenset[str] = frozenset(),
) -> Plan:
    """What a rig does to be on a release.

    ``placed`` is what convoy placed here before (path to SHA-256); ``available`` the SHA-256 of files that are at hand
    although they have no address.
    """
    keepsakes = frozenset(inventory.keepsakes)
    files = {file.path: file for file in inventory.files}
    wanted = wanted_files(release, inventory.side, left_out(release, inventory))
    set_aside: list[SetAside] = []
    place: list[Wanted] = []
    awaited: list[Wanted] = []
    unchanged = 0
    for path in sorted(wanted):
        goal, found = wanted[path], files.get(path)
        if found is not None and found.sha256 == goal.sha256:
            unchanged += 1
        elif path in keepsakes:
            continue
        elif goal.url is None and not available & {goal.sha256, goal.archive}:
            awaited.append(goal)
            if found is not None and placed.get(path) == found.sha256:
                set_aside.append(SetAside(path=path, reason="replaced by another build"))
        else:
            if found is not None:
                ours = placed.get(path) == found.sha256
                set_aside.append(SetAside(path=path, reason="replaced by another build" if ours else "was altered"))
            place.append(goal)
    folders = governed_folders(release)
    for path in sorted(files.keys() - wanted.keys() - keepsakes):
        if path in placed:
            set_aside.append(SetAside(path=path, reason="no longer in the pack"))
        elif in_folders(path, folders):
            set_aside.append(SetAside(path=path, reason="not in the pack"))
    kept = tuple(sorted(keepsakes & (wanted.keys() | files.keys())))
    return Plan(set_aside=tuple(set_aside), place=tuple(place), awaited=tuple(awaited), kept=kept, unchanged=unchanged)
