"""Searching the catalogue, counting its facets, and finding what pasted text means."""

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.db import connection
from rapidfuzz import fuzz, process
from rapidfuzz.distance import OSA

from true_convoy.core import recognise
from true_convoy.core.model import PackBase
from true_convoy.core.recognise import Directory, Guess, Known, Line
from true_convoy.core.versions import Scheme, sort_key

from ..access import Refusal
from .grounds import keys_for
from .memory import FACETS, Memory, memory_of, words_of
from .models import Build, Game, Mod, Shelf

_NEAR = 3
_ALIKE = 62
_MOST_NEAR = 60


@dataclass(frozen=True, kw_only=True)
class Asked:
    """A search. ``chosen`` gives the values chosen of each facet; with ``fitting`` only what has a build for ``pack``.

    Without a text the order is by installs; with one, by how well it matches, unless ``sort`` says otherwise.
    """

    game: str
    text: str = ""
    chosen: Mapping[str, Collection[str]] = field(default_factory=dict)
    pack: PackBase | None = None
    fitting: bool = False
    sort: str = ""
    first: int = 0
    most: int = 30
    shelves: Collection[int] = ()


@dataclass(frozen=True, kw_only=True)
class Found:
    """A page of results as primary keys in order, how many there are, and the counts of every facet.

    A facet is counted among what the rest of the search finds, so its own choices do not hide its other values.
    ``mended`` is the text that was searched instead, where nothing matched what was typed.
    """

    keys: list[int]
    total: int
    counts: dict[str, dict[str, int]]
    fitting: int
    mended: str


def search(asked: Asked) -> Found:
    """Mods of a game that match; typing mistakes in names are forgiven."""
    game = Game.objects.filter(slug=asked.game).values_list("pk", flat=True).first()
    if game is None:
        return Found(keys=[], total=0, counts={}, fitting=0, mended="")
    memory = memory_of(game)
    among = memory.visible(asked.shelves)
    text, mended, ranked = asked.text.replace("\x00", "").strip()[:200], "", None
    if text:
        ranked = _matching(memory, text)
        if not ranked:
            mended = _mended(memory, text)
            ranked = _matching(memory, mended) if mended != text else []
        among &= memory.of(ranked)
    narrowed = {facet: memory.any_of(facet, asked.chosen[facet]) for facet in asked.chosen if asked.chosen[facet]}
    joined = _joined(memory, asked)
    fitting = memory.on_ground(keys_for(asked.pack)) if asked.pack is not None else 0
    counts = {}
    for facet in FACETS:
        rest = among & _all(bits for name, bits in narrowed.items() if name != facet)
        rest &= fitting if asked.fitting else rest
        if facet in joined:
            counts[facet] = {value: n for value, bits in joined[facet].items() if (n := (bits & rest).bit_count())}
        else:
            counts[facet] = dict(memory.counts(facet, rest & _both(joined, asked)))
    result = among & _all(narrowed.values()) & _both(joined, asked)
    fits = (result & fitting).bit_count()
    if asked.fitting:
        result &= fitting
    order: Iterable[int] = memory.orders.get(asked.sort or "installs", ())
    if ranked is not None and not asked.sort:
        order = (memory.number[pk] for pk in ranked if pk in memory.number)
    page = []
    for place, at in enumerate(memory.in_order(result, order)):
        if place >= asked.first + asked.most:
            break
        if place >= asked.first:
            page.append(memory.rows[at].pk)
    mended = mended if ranked else ""
    return Found(keys=page, total=result.bit_count(), counts=counts, fitting=fits, mended=mended)


def _joined(memory: Memory, asked: Asked) -> dict[str, dict[str, int]]:
    """Game version and loader, where both matter, mean a build for both at once, not one for each.

    Per facet of the two, the mods that have a build for a value of it with some chosen value of the other.
    """
    chosen = {"version": asked.chosen.get("version", ()), "loader": asked.chosen.get("loader", ())}
    found: dict[str, dict[str, int]] = {}
    for at, (facet, other) in enumerate((("version", "loader"), ("loader", "version"))):
        if chosen[other]:
            found[facet] = {}
            for key, bits in memory.grounds.items():
                version, loader, _, _ = key.split("|")
                pair = (version, loader or "none")
                if pair[1 - at] in chosen[other]:
                    found[facet][pair[at]] = found[facet].get(pair[at], 0) | bits
    return found


def _both(joined: dict[str, dict[str, int]], asked: Asked) -> int:
    """The mods with a build for a chosen version and a chosen loader at once, where both are chosen."""
    if len(joined) < 2:
        return -1
    found = 0
    for value in asked.chosen["version"]:
        found |= joined["version"].get(value, 0)
    return found


def _all(several: Iterable[int]) -> int:
    found = -1
    for bits in several:
        found &= bits
    return found


_MATCHING = (
    "WITH q AS (SELECT websearch_to_tsquery('english', %(text)s) || to_tsquery('english', %(begun)s)"
    " || to_tsquery('simple', %(begun)s) AS any)"
    " SELECT mod.id FROM catalogue_mod mod, q"
    " WHERE mod.game_id = %(game)s AND (mod.search @@ q.any OR mod.slug = %(text)s)"
    " ORDER BY ts_rank(mod.search, q.any) DESC, mod.installs DESC, mod.slug"
)
_TEXTS = 200


def _matching(memory: Memory, text: str) -> list[int]:
    """The mods that match a text or words that begin so, best first. Texts asked lately are remembered."""
    if text not in memory.texts:
        words = ["".join(c for c in word if c.isalnum()) for word in text.split()]
        begun = " & ".join(f"{word}:*" for word in words if word)
        with connection.cursor() as cursor:
            cursor.execute(_MATCHING, {"game": memory.game, "text": text, "begun": begun})
            found = [pk for (pk,) in cursor.fetchall()]
        # How names begin is known here, also where it is words like "so" and "the", which PostgreSQL passes over.
        begun_so = memory.beginning(recognise.folded(text))
        there = set(found)
        found += [pk for pk in begun_so if pk not in there]
        found.sort(key=lambda pk: begun_so.get(pk, 2))
        if len(memory.texts) >= _TEXTS:
            memory.texts.clear()
        memory.texts[text] = found
    return memory.texts[text]


def _mended(memory: Memory, text: str) -> str:
    """A text that nothing matched, each of its words replaced by the most alike word, or beginning of one, in names."""
    return " ".join(_likest(memory, word) for word in words_of(text)[:8])


def _likest(memory: Memory, word: str) -> str:
    """The word of names, or one that begins like it, with the fewest slips between: two at most, one in short words."""
    begun = memory.begun(len(word))
    if word in begun or word.isdigit():
        return word
    limit = 1 if len(word) < 4 else 2
    found = process.extract(word, list(begun), scorer=OSA.distance, score_cutoff=limit, limit=20)
    return min(((off, begun[start]) for start, off, _ in found), default=(0, word))[1]


def shelves_of(user: Any) -> list[int]:
    """The shelves a person has a part in: those they are on, and those of packs they curate."""
    on = Shelf.objects.filter(people=user).values_list("pk", flat=True)
    curated = Shelf.objects.filter(pack__memberships__user=user, pack__memberships__role__in=("owner", "curator"))
    return sorted({*on, *curated.values_list("pk", flat=True)})


def hidden_from(user: Any, game: str, slugs: Iterable[str]) -> list[str]:
    """Those of some mods that stand on a shelf this person has no part in."""
    rows = Mod.objects.filter(game__slug=game, slug__among=slugs, shelf__isnull=False)
    return sorted(rows.exclude(shelf__in=shelves_of(user)).values_list("slug", flat=True))


def refuse_hidden(user: Any, game: str, slugs: Iterable[str]) -> None:
    """Raises Refusal where a mod stands on a shelf of other people; it is as if it were not there."""
    if hidden := hidden_from(user, game, slugs):
        raise Refusal(404, "no-mod", f'The mod "{hidden[0]}" is not in the catalogue. Nothing was added.')


# --- pasted text -----------------------------------------------------------------------------------------------


def directory(game: str, lines: Sequence[Line], shelves: Collection[int]) -> Directory:
    """What the catalogue knows of the lines of a text, in a few queries however many lines there are."""
    wanted = recognise.keys(lines)
    rows = Mod.objects.filter(game__slug=game)
    rows = rows.filter(shelf__isnull=True) | rows.filter(shelf__in=list(shelves))
    keys: dict[str, Guess] = {}
    found: dict[int, tuple[str, str, str]] = {}
    named = rows.filter(keys__overlap=sorted(wanted)).order_by("installs", "slug")
    for pk, slug, name, own, scheme in named.values_list("pk", "slug", "name", "keys", "document__version_scheme"):
        found[pk] = (slug, name, scheme)
        keys |= {key: Guess(slug, None) for key in own if key in wanted}
    sums = [key for key in wanted if len(key) == 64]
    if sums:
        builds = Build.objects.filter(sha256__in=sums, mod__in=rows).select_related("mod").defer("document")
        for build in builds:
            mod = build.mod
            found[mod.pk] = (mod.slug, mod.name, mod.document["version_scheme"])
            keys[build.sha256] = Guess(mod.slug, build.version)
    known = _known(found)
    unknown = recognise.unknown(lines, Directory(mods=known, keys=keys))[:_MOST_NEAR]
    near = _near(game, unknown, shelves)
    return Directory(mods=known, keys=keys, near=near)


def _known(found: Mapping[int, tuple[str, str, str]]) -> dict[str, Known]:
    versions: dict[int, list[tuple[Any, ...]]] = {pk: [] for pk in found}
    rows = Build.objects.filter(mod__in=list(found)).values_list("mod_id", "version", "document__published")
    for pk, version, published in rows:
        versions[pk].append((sort_key(Scheme(found[pk][2]), version), published or "", version))
    return {
        slug: Known(mod=slug, name=name, versions=tuple(one[-1] for one in sorted(versions[pk], reverse=True)))
        for pk, (slug, name, _) in found.items()
    }


def _near(game: str, texts: Sequence[str], shelves: Collection[int]) -> dict[str, list[str]]:
    """For each text the mods with the most similar names."""
    pk = Game.objects.filter(slug=game).values_list("pk", flat=True).first()
    if pk is None or not texts:
        return {}
    memory = memory_of(pk)
    visible = memory.visible(shelves)
    names = {at: memory.names[at] for at in memory.in_order(visible, memory.orders.get("installs", ()))}
    near = {}
    for text in texts:
        found = process.extract(text, names, scorer=fuzz.ratio, score_cutoff=_ALIKE, limit=_NEAR)
        near[text] = [memory.rows[at].slug for _, _, at in found]
    return near
