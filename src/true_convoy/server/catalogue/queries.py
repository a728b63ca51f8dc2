"""Reading the catalogue as core values."""

from collections.abc import Iterable, Sequence

import msgspec
from django.db.models import Q

from true_convoy.core.errors import UnsafePath
from true_convoy.core.model import Build as BuildValue
from true_convoy.core.model import Catalogue, ContentFile, RigFile
from true_convoy.core.model import Game as GameValue
from true_convoy.core.model import Mod as ModValue
from true_convoy.core.places import places_of
from true_convoy.core.versions import Scheme

from ..access import Refusal
from .memory import memory_of
from .models import Build, Contents, Game, Mod
from .readings import Reading, readings


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

    Reached are the mods they require and what bundles those. Mods that are only suggested or clashed with, that patch
    some of these, or that may take the place of one, are loaded too, but nothing beyond them. ``contents`` loads the
    file lists of all mods reached, or of those named.
    """
    value = game_value(game)
    found: dict[str, Reading] = {}
    frontier = set(slugs)
    asked = set(frontier)
    patches = Build.objects.filter(mod__game__slug=game, bridges__overlap=list(frontier)).exclude(bridges=[])
    beside = set(patches.values_list("mod__slug", flat=True).distinct())
    while frontier:
        level = readings(game, frontier)
        found |= level
        needed = {slug for reading in level.values() for slug in reading.needed}
        beside |= {slug for reading in level.values() for slug in reading.beside}
        if needed:
            bundling = Build.objects.filter(mod__game__slug=game, bundles__overlap=list(needed)).exclude(bundles=[])
            needed |= set(bundling.values_list("mod__slug", flat=True).distinct())
        # What the catalogue does not have is not asked for again.
        frontier = needed - asked
        asked |= needed
    found |= readings(game, beside - found.keys())
    mods = tuple(found[slug].mod for slug in sorted(found))
    wanted = found.keys() if contents is True else found.keys() & set(contents or ())
    return Catalogue(games=(value,), mods=_with_contents(mods, {found[slug].pk for slug in wanted}))


def with_builds(game: str, slugs: Iterable[str]) -> dict[str, ModValue]:
    """These mods with their builds, and nothing they need."""
    return {slug: reading.mod for slug, reading in readings(game, slugs).items()}


def _with_contents(mods: tuple[ModValue, ...], wanted: set[int]) -> tuple[ModValue, ...]:
    """The mods, those wanted with the file lists of their builds."""
    if not wanted:
        return mods
    lists: dict[str, dict[str, tuple[ContentFile, ...]]] = {}
    rows = Contents.objects.filter(build__mod__in=wanted).values_list("build__mod__slug", "build__version", "files")
    for slug, version, files in rows.iterator(chunk_size=2000):
        lists.setdefault(slug, {})[version] = msgspec.convert(files, tuple[ContentFile, ...])
    return tuple(
        msgspec.structs.replace(
            mod,
            builds=tuple(
                msgspec.structs.replace(build, contents=lists[mod.slug].get(build.version, ())) for build in mod.builds
            ),
        )
        if mod.slug in lists
        else mod
        for mod in mods
    )


def ready_per_version() -> dict[str, tuple[int, dict[str, int]]]:
    """Per game how many mods it has, and for ``version|loader`` how many have a stable build there."""
    found = {}
    for pk, slug in Game.objects.values_list("pk", "slug"):
        memory = memory_of(pk)
        everybody = memory.visible(())
        ready: dict[str, int] = {}
        for ground, bits in memory.grounds.items():
            version, loader, _, letter = ground.split("|")
            if letter == "s":
                ready[f"{version}|{loader}"] = ready.get(f"{version}|{loader}", 0) | bits
        counts = {key: (bits & everybody).bit_count() for key, bits in ready.items()}
        found[slug] = (everybody.bit_count(), counts)
    return found


def needed_by(game: str, slug: str, shelves: Iterable[int]) -> list[tuple[str, str]]:
    """Slug and name of the mods some build of which requires this one, most installed first."""
    builds = Build.objects.filter(mod__game__slug=game, requires__contains=[slug]).exclude(requires=[])
    rows = Mod.objects.filter(pk__in=builds.values("mod")).filter(Q(shelf__isnull=True) | Q(shelf__in=list(shelves)))
    return list(rows.order_by("-installs", "slug").values_list("slug", "name"))


_MOST_GROUPS = 1000


def in_folder(game: str, files: Sequence[RigFile], shelves: Iterable[int]) -> tuple[dict[str, str], set[str]]:
    """Which builds a folder's files are (version by mod), and the checksums that were recognised.

    A build that is placed whole is known by its checksum. One that is unpacked is looked for by the largest file of
    each folder, and is there if all its places are, each with its content.
    """
    definition = game_value(game)
    there = {file.path: file.sha256 for file in files}
    visible = Q(mod__shelf__isnull=True) | Q(mod__shelf__in=list(shelves))
    rows = Build.objects.filter(visible, mod__game__slug=game)
    found: dict[str, str] = {}
    known: set[str] = set()
    for slug, version, sha256 in rows.filter(sha256__in=set(there.values())).values_list(
        "mod__slug", "version", "sha256"
    ):
        found.setdefault(slug, version)
        known.add(sha256)
    groups: dict[str, RigFile] = {}
    for file in files:
        key = "/".join(file.path.split("/")[:2])
        if file.sha256 not in known and (key not in groups or file.size > groups[key].size):
            groups[key] = file
    for file in sorted(groups.values(), key=lambda file: -file.size)[:_MOST_GROUPS]:
        if file.sha256 in known:
            continue
        alike = rows.filter(contents__files__contains=[{"sha256": file.sha256}]).select_related("mod", "contents")
        for build in alike.order_by("-pk")[:20]:
            value = msgspec.convert(build.document | {"contents": build.contents.files}, BuildValue)
            kind = definition.kind(build.mod.kind)
            try:
                places = places_of(value, kind, build.mod.slug, (), (), definition.folders)
            except UnsafePath:
                continue
            if places and all(there.get(place.target) == place.sha256 for place in places):
                found.setdefault(build.mod.slug, build.version)
                known |= {place.sha256 for place in places}
                break
    return found, known


def mod_row(game: str, slug: str) -> Mod:
    """A mod's row. Raises Refusal if it is not known."""
    row = Mod.objects.filter(game__slug=game, slug=slug).defer("search").first()
    if row is None:
        raise Refusal(404, "no-mod", f'The mod "{slug}" is not in the catalogue.')
    return row


def schemes(game: str, slugs: Iterable[str]) -> dict[str, Scheme]:
    """The version schemes of mods, by slug."""
    rows = Mod.objects.filter(game__slug=game, slug__among=slugs).values_list("slug", "document__version_scheme")
    return {slug: Scheme(scheme) for slug, scheme in rows}


def names(game: str, slugs: Iterable[str]) -> dict[str, str]:
    """What people call mods, by slug."""
    return dict(Mod.objects.filter(game__slug=game, slug__among=slugs).values_list("slug", "name"))
