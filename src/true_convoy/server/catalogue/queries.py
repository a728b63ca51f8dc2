"""Reading the catalogue as core values, and searching it."""

from collections.abc import Iterable

import msgspec
from django.contrib.postgres.search import SearchQuery, SearchRank
from django.db import connection
from django.db.models import FloatField, Q, QuerySet, Value
from django.db.models.functions import Coalesce, Greatest

from true_convoy.core.model import Build as BuildValue
from true_convoy.core.model import Catalogue, Clashes, Requires, Suggests
from true_convoy.core.model import Game as GameValue
from true_convoy.core.model import Mod as ModValue

from ..access import Refusal
from .models import Build, Contents, Game, Likeness, Mod


def game_value(slug: str) -> GameValue:
    """A game definition. Raises Refusal if it is not known."""
    row = Game.objects.filter(slug=slug).first()
    if row is None:
        raise Refusal(404, "no-game", f'The game "{slug}" is not in the catalogue.')
    return msgspec.convert(row.document, GameValue)


def games() -> list[GameValue]:
    """All game definitions, by name."""
    return [msgspec.convert(row.document, GameValue) for row in Game.objects.order_by("name")]


def extract(game: str, slugs: Iterable[str], *, contents: Iterable[str] | bool = False) -> Catalogue:
    """The part of the catalogue that questions about these mods can reach, level by level, a few queries each.

    Reached are the mods they require and what bundles those; mods that are only suggested or clashed with are loaded
    too, but nothing beyond them. ``contents`` loads the file lists of all mods reached, or of those named.
    """
    value = game_value(game)
    rows: dict[str, Mod] = {}
    builds: dict[str, list[BuildValue]] = {}
    frontier, beside = set(slugs), set[str]()
    wanted_contents = None if contents is True else set(contents or ())
    while frontier or beside:
        last = not frontier
        asked = (frontier or beside) - rows.keys()
        found = {row.pk: row for row in Mod.objects.filter(game__slug=game, slug__in=asked).defer("search")}
        rows |= {row.slug: row for row in found.values()}
        listed = _builds(found, wanted_contents)
        builds |= listed
        if last:
            break
        needed = {t.mod for b in _all(listed) for r in b.relations if isinstance(r, Requires) for t in r.targets}
        beside |= {r.mod for b in _all(listed) for r in b.relations if isinstance(r, Suggests | Clashes)}
        if needed:
            bundling = Build.objects.filter(mod__game__slug=game, bundles__overlap=list(needed))
            needed |= set(bundling.values_list("mod__slug", flat=True).distinct())
        frontier, beside = needed - rows.keys(), beside - rows.keys()
    mods = [msgspec.convert(rows[slug].document | {"builds": ()}, ModValue) for slug in sorted(rows)]
    full = [msgspec.structs.replace(mod, builds=tuple(builds.get(mod.slug, ()))) for mod in mods]
    return Catalogue(games=(value,), mods=tuple(full))


def with_builds(game: str, slugs: Iterable[str]) -> dict[str, ModValue]:
    """These mods with their builds, and nothing they need."""
    rows = {row.pk: row for row in Mod.objects.filter(game__slug=game, slug__in=list(slugs)).defer("search")}
    builds = _builds(rows, set())
    mods = [msgspec.convert(row.document | {"builds": ()}, ModValue) for row in rows.values()]
    return {mod.slug: msgspec.structs.replace(mod, builds=tuple(builds[mod.slug])) for mod in mods}


def _all(listed: dict[str, list[BuildValue]]) -> Iterable[BuildValue]:
    return (build for builds in listed.values() for build in builds)


def _builds(mods: dict[int, Mod], wanted_contents: set[str] | None) -> dict[str, list[BuildValue]]:
    found: dict[str, list[BuildValue]] = {mod.slug: [] for mod in mods.values()}
    with_contents = [pk for pk, mod in mods.items() if wanted_contents is None or mod.slug in wanted_contents]
    lists = dict(Contents.objects.filter(build__mod__in=with_contents).values_list("build", "files"))
    for row in Build.objects.filter(mod__in=mods).order_by("pk").iterator():
        document = row.document | ({"contents": lists[row.pk]} if row.pk in lists else {})
        found[mods[row.mod_id].slug].append(msgspec.convert(document, BuildValue))
    return found


def search(game: str, text: str, *, category: str = "", kind: str = "") -> QuerySet[Mod]:
    """Mods of a game that match a text, best first; typing mistakes in names are forgiven. No text: by installs."""
    rows = Mod.objects.filter(game__slug=game).defer("search")
    if category:
        rows = rows.filter(categories__contains=[category])
    if kind:
        rows = rows.filter(kind=kind)
    text = text.strip()[:200]
    if not text:
        return rows.order_by("-installs", "slug")
    found = _matching(rows, text)
    return found if found.exists() else _matching(rows, _mended(game, text))


def _mended(game: str, text: str) -> str:
    """A text that nothing matched, each of its words replaced by the most alike word, or beginning of one, in names."""
    words = (
        "SELECT word FROM (SELECT DISTINCT regexp_split_to_table(lower(mod.name), '[^[:alnum:]]+') AS word"
        " FROM catalogue_mod mod JOIN catalogue_game game ON game.id = mod.game_id WHERE game.slug = %(game)s) words,"
        " LATERAL (SELECT least(levenshtein(word, %(typed)s), levenshtein(left(word, length(%(typed)s)), %(typed)s)))"
        " AS far(off) WHERE length(word) < 200 AND off <= %(limit)s ORDER BY off, word LIMIT 1"
    )
    mended = []
    with connection.cursor() as cursor:
        for word in text.lower().split()[:8]:
            cursor.execute(words, {"game": game, "typed": word[:60], "limit": 1 if len(word) < 4 else 2})
            row = cursor.fetchone()
            mended.append(row[0] if row else word)
    return " ".join(mended)


def _matching(rows: QuerySet[Mod], text: str) -> QuerySet[Mod]:
    query = SearchQuery(text, config="english", search_type="websearch")
    prefix = SearchQuery(_prefix(text), config="english", search_type="raw") if _prefix(text) else query
    likeness = Likeness(text, "name")
    rank = Coalesce(SearchRank("search", query), Value(0.0), output_field=FloatField())
    return (
        rows.annotate(likeness=likeness, rank=Greatest(rank, SearchRank("search", prefix)) + likeness)
        .filter(Q(search=query) | Q(search=prefix) | Q(name__trigram_word_similar=text) | Q(slug=text))
        .order_by("-rank", "-installs", "slug")
    )


def _prefix(text: str) -> str:
    """The words of a text as a query for words that begin with them."""
    words = ["".join(c for c in word if c.isalnum()) for word in text.split()]
    return " & ".join(f"{word}:*" for word in words if word)


def names(game: str, slugs: Iterable[str]) -> dict[str, str]:
    """What people call mods, by slug."""
    return dict(Mod.objects.filter(game__slug=game, slug__in=list(slugs)).values_list("slug", "name"))
