"""The load order: which entry loads after which, and which file wins where several supply it.

1. The curator's wish is the order they gave (``Entry.order``, lowest first), then the entries without one in the order
   of the draft.
2. An ``after`` or ``before`` relation between two enabled entries always holds. Of the entries that may come next, the
   one that the wish has first does, so entries that no relation concerns keep their places.
3. Relations that lead in a circle cannot all hold: where nothing may come next, the first by the wish of those that
   wait for each other does, and the circle is told.
4. Of several entries that supply a file, the last in the order wins.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from heapq import heapify, heappop, heappush

from msgspec.structs import replace

from .errors import UnsafePath
from .model import After, Before, Build, Entry, Game, Mod, Pack, Place
from .places import places_of


@dataclass(frozen=True, kw_only=True)
class LoadOrder:
    """Mods from first to last; which of them each must come after; circles of relations, each as the mods in it."""

    mods: tuple[str, ...]
    after: dict[str, tuple[str, ...]]
    circles: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, kw_only=True)
class Supplier:
    """An entry that supplies a file: from where in its archive (None: the whole file), and its checksum."""

    mod: str
    source: str | None
    sha256: str


@dataclass(frozen=True, kw_only=True)
class Contested:
    """A file that several entries supply with different content, in load order: the last wins."""

    path: str
    suppliers: tuple[Supplier, ...]

    @property
    def winner(self) -> str:
        """The mod whose file is there in the end."""
        return self.suppliers[-1].mod


def wish(entry: Entry) -> tuple[bool, int]:
    """The sort key of the curator's wish; entries without an order keep the order they are listed in."""
    return entry.order is None, entry.order or 0


def load_order(entries: Iterable[Entry], builds: Mapping[str, Build | None]) -> LoadOrder:
    """The load order of the enabled entries, whose builds give the relations."""
    wished = list(dict.fromkeys(entry.mod for entry in sorted((e for e in entries if e.enabled), key=wish)))
    rank = {mod: index for index, mod in enumerate(wished)}
    after: dict[str, set[str]] = {mod: set() for mod in wished}
    for mod in wished:
        build = builds.get(mod)
        for relation in build.relations if build else ():
            if isinstance(relation, After) and relation.mod in rank and relation.mod != mod:
                after[mod].add(relation.mod)
            elif isinstance(relation, Before) and relation.mod in rank and relation.mod != mod:
                after[relation.mod].add(mod)
    mods, circles = _sorted(wished, rank, after)
    return LoadOrder(
        mods=tuple(mods),
        after={mod: tuple(sorted(found)) for mod, found in after.items() if found},
        circles=tuple(circles),
    )


def _sorted(
    wished: Sequence[str], rank: Mapping[str, int], after: Mapping[str, set[str]]
) -> tuple[list[str], list[tuple[str, ...]]]:
    waiting = {mod: set(after[mod]) for mod in wished}
    followers: dict[str, list[str]] = {}
    for mod in wished:
        for other in after[mod]:
            followers.setdefault(other, []).append(mod)
    ready = [rank[mod] for mod in wished if not waiting[mod]]
    heapify(ready)
    done: dict[str, None] = {}
    circles: list[tuple[str, ...]] = []
    while len(done) < len(wished):
        if not ready:
            circle = _circle(next(mod for mod in wished if mod not in done), waiting)
            circles.append(circle)
            first = min(circle, key=rank.__getitem__)
            waiting[first].clear()
            heappush(ready, rank[first])
        mod = wished[heappop(ready)]
        if mod in done:
            continue
        done[mod] = None
        for follower in followers.get(mod, ()):
            if mod in waiting[follower]:
                waiting[follower].discard(mod)
                if not waiting[follower]:
                    heappush(ready, rank[follower])
    return list(done), circles


def _circle(start: str, waiting: Mapping[str, set[str]]) -> tuple[str, ...]:
    """Mods that wait for each other in a ring, beginning with the first by name."""
    path = [start]
    while (following := min(waiting[path[-1]])) not in path:
        path.append(following)
    ring = path[path.index(following) :][::-1]
    begin = ring.index(min(ring))
    return tuple(ring[begin:] + ring[:begin])


def in_load_order(pack: Pack, mods: Mapping[str, Mod]) -> Pack:
    """The pack with every enabled entry's place in the load order written out, as a release has it."""
    builds = {e.mod: mods[e.mod].build(e.version) if e.mod in mods else None for e in pack.entries}
    rank = {mod: index for index, mod in enumerate(load_order(pack.entries, builds).mods)}
    return replace(pack, entries=tuple(replace(entry, order=rank.get(entry.mod)) for entry in pack.entries))


def places_by_entry(
    entries: Iterable[Entry], mods: Mapping[str, Mod], builds: Mapping[str, Build | None], game: Game
) -> dict[str, tuple[Place, ...]]:
    """Where the files of each enabled entry go; one that cannot be placed, which is a finding of its own, has none."""
    found = {}
    for entry in entries:
        build, mod = builds.get(entry.mod), mods.get(entry.mod)
        if entry.enabled and build is not None and mod is not None:
            try:
                found[entry.mod] = places_of(build, game.kind(mod.kind), mod.slug, entry.keep, entry.drop, game.folders)
            except UnsafePath:
                found[entry.mod] = ()
    return found


def contested(order: LoadOrder, places: Mapping[str, Sequence[Place]]) -> tuple[Contested, ...]:
    """The files that more than one entry supplies with different content, by path."""
    by_target: dict[str, list[Supplier]] = {}
    for mod in order.mods:
        for place in places.get(mod, ()):
            supplier = Supplier(mod=mod, source=place.source, sha256=place.sha256)
            by_target.setdefault(place.target, []).append(supplier)
    return tuple(
        Contested(path=path, suppliers=tuple(suppliers))
        for path, suppliers in sorted(by_target.items())
        if len(suppliers) > 1 and len({supplier.sha256 for supplier in suppliers}) > 1
    )
