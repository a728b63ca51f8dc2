"""Mods as they were read lately: a draft is looked at again and again while somebody works on it.

What is kept is the value of a mod with all its builds, and what leads on from it, by the time the mod last changed; a
mod that has changed since is read again. Whatever changes a build must therefore touch its mod.
"""

import threading
from collections import OrderedDict
from collections.abc import Iterable
from datetime import datetime

import msgspec
from django.db import connection

from true_convoy.core.model import Build, Clashes, Mod, Requires, Suggests

from .models import Mod as ModRow

MOST = 5000
_DECODER = msgspec.json.Decoder(tuple[Build, ...])
_BUILDS_OF = (
    "SELECT mod_id, '[' || string_agg(document::text, ',' ORDER BY id) || ']' FROM catalogue_build"
    " WHERE mod_id = ANY(%s) GROUP BY mod_id"
)


class Reading(msgspec.Struct, frozen=True, kw_only=True, gc=False):
    """A mod with its builds. ``needed`` are the mods its requirements name, ``beside`` others it is judged with."""

    pk: int
    changed: datetime
    mod: Mod
    needed: frozenset[str]
    beside: frozenset[str]


_KEPT: OrderedDict[int, Reading] = OrderedDict()
_LOCK = threading.Lock()


def readings(game: str, slugs: Iterable[str]) -> dict[str, Reading]:
    """The mods with these slugs that the catalogue has, by slug."""
    rows = ModRow.objects.filter(game__slug=game, slug__among=slugs).values_list("pk", "slug", "changed")
    found: dict[str, Reading] = {}
    stale: dict[int, datetime] = {}
    with _LOCK:
        for pk, slug, changed in rows:
            kept = _KEPT.get(pk)
            if kept is not None and kept.changed == changed:
                _KEPT.move_to_end(pk)
                found[slug] = kept
            else:
                stale[pk] = changed
    if stale:
        fresh = _read(stale)
        found |= {reading.mod.slug: reading for reading in fresh}
        with _LOCK:
            _KEPT.update((reading.pk, reading) for reading in fresh)
            while len(_KEPT) > MOST:
                _KEPT.popitem(last=False)
    return found


def _read(changed: dict[int, datetime]) -> list[Reading]:
    mods = dict(ModRow.objects.filter(pk__in=changed).values_list("pk", "document"))
    found = []
    # Thousands of builds are read for a large draft: a mod's together, as text, straight into values, and the first of
    # them while the database writes the next.
    with connection.cursor() as cursor:
        for pk, documents in cursor.cursor.stream(_BUILDS_OF, [list(mods)]):
            found.append(_reading(pk, changed[pk], mods.pop(pk), _DECODER.decode(documents)))
    return found + [_reading(pk, changed[pk], document, ()) for pk, document in mods.items()]


def _reading(pk: int, changed: datetime, document: dict[str, object], builds: tuple[Build, ...]) -> Reading:
    mod = msgspec.structs.replace(msgspec.convert(document | {"builds": ()}, Mod), builds=builds)
    needed: set[str] = set()
    beside = {*mod.counterparts, *([mod.successor] if mod.successor else [])}
    for relation in (relation for build in builds for relation in build.relations):
        if type(relation) is Requires:
            needed.update(target.mod for target in relation.any)
            if relation.mod is not None:
                needed.add(relation.mod)
        elif type(relation) is Suggests or type(relation) is Clashes:
            beside.add(relation.mod)
    return Reading(pk=pk, changed=changed, mod=mod, needed=frozenset(needed), beside=frozenset(beside))
