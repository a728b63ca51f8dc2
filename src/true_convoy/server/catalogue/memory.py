"""The search's memory: of every mod the facts that lists are narrowed and counted by, as bit sets.

A game's mods are numbered; each facet value is an integer with the bits of the mods that have it. Narrowing is then
``&`` and counting is counting bits, so that all facets of fifty thousand mods are counted in a few milliseconds. The
text itself is searched by PostgreSQL. Each process keeps its own memory and takes in what has changed since it looked.
"""

import threading
from bisect import bisect_left
from collections import defaultdict
from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

import msgspec
from django.db import models
from django.db.models.signals import post_delete
from django.dispatch import receiver

from true_convoy.core.recognise import folded

from .models import Game, Mod

FACETS = ("kind", "category", "loader", "version", "side", "reach", "licence")
SORTS = ("installs", "updated", "new", "name")
# Rows that are committed late carry an earlier time; what changed shortly before is looked at again.
_OVERLAP = timedelta(minutes=2)


class Row(msgspec.Struct, frozen=True, kw_only=True, gc=False):
    """What is kept of one mod. There are many, and none holds another, so the collector of circles passes them by."""

    pk: int
    slug: str
    name: str
    installs: int
    updated: float
    new: float
    shelf: int | None
    facts: tuple[tuple[str, str], ...]
    grounds: tuple[str, ...]


@dataclass
class Memory:
    """The mods of one game. Bits are places in ``rows``; ``number`` gives a mod's place by its key."""

    game: int
    rows: list[Row] = field(default_factory=list)
    number: dict[int, int] = field(default_factory=dict)
    bits: dict[tuple[str, str], int] = field(default_factory=lambda: defaultdict(int))
    grounds: dict[str, int] = field(default_factory=lambda: defaultdict(int))
    shelves: dict[int | None, int] = field(default_factory=lambda: defaultdict(int))
    everything: int = 0
    orders: dict[str, list[int]] = field(default_factory=dict)
    words: tuple[str, ...] = ()
    starts: dict[int, dict[str, str]] = field(default_factory=dict)
    texts: dict[str, list[int]] = field(default_factory=dict)
    names: list[str] = field(default_factory=list)
    seen: datetime | None = None
    removals: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)

    def refresh(self) -> None:
        """Takes in the mods that changed since the last look."""
        with self.lock:
            rows = Mod.objects.filter(game=self.game)
            newest = rows.aggregate(newest=models.Max("changed"))["newest"]
            removals = Game.objects.values_list("removals", flat=True).get(pk=self.game)
            if removals != self.removals:
                self.clear()
                self.removals = removals
            if newest is None or newest == self.seen:
                return
            if self.seen is not None:
                rows = rows.filter(changed__gt=self.seen - _OVERLAP)
            changed = False
            for row in _read(rows):
                changed = self.put(row) or changed
            self.seen = newest
            if changed:
                self.sort()

    def clear(self) -> None:
        """Forgets everything: something was removed, whose place cannot be given to another."""
        self.rows.clear()
        for table in (self.number, self.bits, self.grounds, self.shelves):
            table.clear()
        self.everything, self.seen = 0, None

    def put(self, row: Row) -> bool:
        at = self.number.get(row.pk)
        if at is not None and self.rows[at] == row:
            return False
        if at is None:
            at = self.number[row.pk] = len(self.rows)
            self.rows.append(row)
        else:
            self.mark(self.rows[at], at, there=False)
            self.rows[at] = row
        self.mark(row, at, there=True)
        return True

    def mark(self, row: Row, at: int, *, there: bool) -> None:
        bit = 1 << at
        tables: list[tuple[dict[Any, int], Iterable[object]]] = [
            (self.bits, row.facts),
            (self.grounds, row.grounds),
            (self.shelves, [row.shelf]),
        ]
        for table, keys in tables:
            for key in keys:
                table[key] = table[key] | bit if there else table[key] & ~bit
        self.everything |= bit

    def sort(self) -> None:
        at = range(len(self.rows))
        self.names = [folded(row.name) for row in self.rows]
        self.orders = {
            "installs": sorted(at, key=lambda i: (-self.rows[i].installs, self.rows[i].slug)),
            "updated": sorted(at, key=lambda i: (-self.rows[i].updated, self.rows[i].slug)),
            "new": sorted(at, key=lambda i: (-self.rows[i].new, self.rows[i].slug)),
            "name": sorted(at, key=lambda i: (self.names[i], self.rows[i].slug)),
        }
        self.words = tuple(sorted({word for row in self.rows for word in words_of(row.name) if not word.isdigit()}))
        self.starts.clear()
        self.texts.clear()

    def begun(self, length: int) -> dict[str, str]:
        """The words of names and how they begin, up to a length, each with the first word that begins so."""
        if length not in self.starts:
            starts = {}
            for word in reversed(self.words):
                starts[word[:length]] = word
            self.starts[length] = starts | {word: word for word in self.words if len(word) <= length + 2}
        return self.starts[length]

    def beginning(self, text: str) -> dict[int, int]:
        """The mods, by primary key, whose folded names begin with a text: 0 for those called just so, 1 for others."""
        order, name = self.orders.get("name", []), self.names.__getitem__
        begun = order[bisect_left(order, text, key=name) : bisect_left(order, f"{text}\U0010ffff", key=name)]
        return {self.rows[at].pk: int(name(at) != text) for at in begun} if text else {}

    def visible(self, shelves: Collection[int]) -> int:
        """The mods that everybody finds, and those on the shelves named."""
        found = self.shelves[None]
        for shelf in shelves:
            found |= self.shelves[shelf]
        return found

    def any_of(self, facet: str, values: Iterable[str]) -> int:
        """The mods that have one of the values."""
        found = 0
        for value in values:
            found |= self.bits.get((facet, value), 0)
        return found

    def on_ground(self, keys: Iterable[str]) -> int:
        """The mods that have a build for one of these grounds."""
        found = 0
        for key in keys:
            found |= self.grounds.get(key, 0)
        return found

    def of(self, pks: Iterable[int]) -> int:
        """The bits of mods by their primary keys."""
        mask = bytearray(len(self.rows) // 8 + 1)
        for pk in pks:
            at = self.number.get(pk)
            if at is not None:
                mask[at >> 3] |= 1 << (at & 7)
        return int.from_bytes(mask, "little")

    def in_order(self, bits: int, order: Iterable[int]) -> Iterator[int]:
        """The places of the bits that are set, in an order."""
        mask = bits.to_bytes(len(self.rows) // 8 + 1, "little")
        return (at for at in order if mask[at >> 3] >> (at & 7) & 1)

    def counts(self, facet: str, among: int) -> Mapping[str, int]:
        """How many of some mods have each value of a facet; values that none has are left out."""
        found = {value: (bits & among).bit_count() for (name, value), bits in self.bits.items() if name == facet}
        return {value: count for value, count in found.items() if count}


_MEMORIES: dict[int, Memory] = {}
_COLUMNS = (
    *("pk", "slug", "name", "installs", "newest", "first", "shelf_id", "kind", "categories", "grounds"),
    *("document__sides", "document__reach", "document__licence"),
)


def memory_of(game: int) -> Memory:
    """The up-to-date memory of a game."""
    memory = _MEMORIES.setdefault(game, Memory(game=game))
    memory.refresh()
    return memory


@receiver(post_delete, sender=Mod)
def removed(instance: Mod, **_: Any) -> None:
    """Lets every process know that its memory of the game holds something that is gone."""
    Game.objects.filter(pk=instance.game_id).update(removals=models.F("removals") + 1)


def words_of(text: str) -> list[str]:
    """The words of a name as they are compared."""
    return "".join(c if c.isalnum() else " " for c in text.lower()).split()


def _read(rows: "models.QuerySet[Mod]") -> Iterator[Row]:
    for (
        pk,
        slug,
        name,
        installs,
        newest,
        first,
        shelf,
        kind,
        categories,
        grounds,
        sides,
        reach,
        licence,
    ) in rows.values_list(*_COLUMNS).iterator(chunk_size=5000):
        facts = {("kind", kind), ("reach", reach or "shared"), ("licence", licence or "unknown")}
        facts |= {("category", category) for category in categories}
        facts.add(("side", _side(sides or {})))
        for ground in grounds:
            version, loader, _, _ = ground.split("|")
            facts.add(("version", version))
            facts.add(("loader", loader or "none"))
        yield Row(
            pk=pk,
            slug=slug,
            name=name,
            installs=installs,
            updated=newest.timestamp() if newest else 0.0,
            new=first.timestamp() if first else 0.0,
            shelf=shelf,
            facts=tuple(sorted(facts)),
            grounds=tuple(grounds),
        )


def _side(sides: Mapping[str, str]) -> str:
    client, server = (sides.get(side, "required") != "unsupported" for side in ("client", "server"))
    return "both" if client and server else "client" if client else "server"
