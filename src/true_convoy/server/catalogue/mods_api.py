"""Looking through the catalogue: searching it, one mod, and the files of a build."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any

import msgspec
from django.http import Http404
from rest_framework.request import Request

from true_convoy.core.fit import fits, loader_name, newest_first
from true_convoy.core.model import Build as BuildValue
from true_convoy.core.model import Clashes, Game, Link, Requires, Sides
from true_convoy.core.model import Pack as PackValue
from true_convoy.core.paths import glob_matches
from true_convoy.core.places import places_of
from true_convoy.core.ranges import in_words

from ..access import Who
from ..frame import View, operation
from ..packs.models import Pack
from ..packs.queries import draft, packs_of
from . import queries
from .fitting import FitInfo, draft_clashes, fit_of
from .memory import FACETS, SORTS
from .models import Build, Contents, Mod
from .search import Asked, search, shelves_of

PER_PAGE = 30
_NEEDED_BY = 60


class ModRow(msgspec.Struct, kw_only=True):
    """A mod in a list of results; ``fit`` only where a pack was named. ``shelf`` names the shelf it stands on."""

    slug: str
    name: str
    summary: str
    authors: list[str]
    categories: list[str]
    kind: str
    reach: str
    licence: str | None
    redistribution: str
    sides: Sides
    installs: int
    newest: datetime | None
    shelf: str
    fit: FitInfo | None


class FacetValue(msgspec.Struct, kw_only=True):
    """One value of a facet, and how many mods have it among what the rest of the search finds."""

    value: str
    label: str
    count: int
    chosen: bool


class Facet(msgspec.Struct, kw_only=True):
    """What results can be narrowed by."""

    facet: str
    label: str
    values: list[FacetValue]


class ModList(msgspec.Struct, kw_only=True):
    """A page of results. ``page`` counts from 1; ``total`` is of all pages, ``fitting`` those that suit the draft."""

    mods: list[ModRow]
    total: int
    fitting: int
    page: int
    per_page: int
    mended: str
    facets: list[Facet]


class BuildRow(msgspec.Struct, kw_only=True):
    """A build: what it is for and what it needs, in words; size in bytes."""

    version: str
    channel: str
    published: datetime | None
    game_versions: str
    loaders: list[str]
    size: int
    sha256: str
    by_hand: bool
    withdrawn: str | None
    needs: list[str]
    clashes: list[str]
    changelog: str
    fits: bool | None
    reason: str


class NeededBy(msgspec.Struct, kw_only=True):
    """A mod some build of which needs this one."""

    slug: str
    name: str


class UsedIn(msgspec.Struct, kw_only=True):
    """One of the caller's packs that has the mod, and at which build."""

    pack: str
    name: str
    version: str | None
    enabled: bool


class ModInfo(msgspec.Struct, kw_only=True):
    """A mod with all its builds, newest first. ``reach_open`` says what its team states and nobody else has checked."""

    slug: str
    game: str
    name: str
    summary: str
    description: str
    authors: list[str]
    categories: list[str]
    kind: str
    kind_name: str
    reach: str
    reach_open: str
    may_check_reach: bool
    save_effect: str
    licence: str | None
    redistribution: str
    sides: Sides
    installs: int
    page: str | None
    links: list[Link]
    instructions: str
    abandoned: bool
    shelf: str
    shelf_id: int | None
    builds: list[BuildRow]
    needed_by: list[NeededBy]
    needed_by_count: int
    used_in: list[UsedIn]
    names: dict[str, str]
    fit: FitInfo | None


class PlacedFile(msgspec.Struct, kw_only=True):
    """A file of a build: where it lies in the archive, and where it goes in the game's folder, if anywhere."""

    path: str
    target: str
    size: int
    replaces: bool


class BuildFiles(msgspec.Struct, kw_only=True):
    """What a build brings. ``replaces`` counts files the game itself installs. ``whole``: placed without unpacking."""

    version: str
    size: int
    whole: bool
    files: list[PlacedFile]
    replaces: int


def _draft(request: Request) -> PackValue | None:
    slug = request.query_params.get("pack", "")
    pack = packs_of(request.user).filter(slug=slug).first() if slug else None
    return draft(pack)[1] if pack else None


_FACET_LABELS = {
    "kind": "Kind",
    "category": "Category",
    "loader": "Loader",
    "version": "Game version",
    "side": "Side",
    "reach": "Reach",
    "licence": "Licence",
}
_VALUE_LABELS = {
    ("side", "both"): "client and server",
    ("side", "client"): "client only",
    ("side", "server"): "server only",
    ("reach", "own"): "own screen",
    ("reach", "progress"): "changes progression",
    ("loader", "none"): "no loader needed",
    ("licence", "unknown"): "not stated",
}


class ModsView(View):
    """Looking through the catalogue."""

    @operation(
        Who.SIGNED_IN,
        gives=ModList,
        query={
            "game": "The game's slug.",
            "q": "What to look for; typing mistakes are forgiven.",
            "pack": "Say for each mod whether it suits this pack's draft.",
            "fits": "1: only mods with a build for the draft's ground.",
            "sort": "installs, updated, new or name; without it, the best match first.",
            "page": "Page of results, from 1.",
        },
        many={facet: f"Only mods with one of these: {label.lower()}." for facet, label in _FACET_LABELS.items()},
    )
    def get(self, request: Request) -> ModList:
        """Mods that match, best first, with the counts of every facet."""
        asked = request.query_params
        page = max(int(asked["page"]) if asked.get("page", "").isdigit() else 1, 1)
        slug, pack = asked.get("game", ""), _draft(request)
        pack = pack if pack is not None and pack.game == slug else None
        chosen = {facet: asked.getlist(facet) for facet in FACETS}
        found = search(
            Asked(
                game=slug,
                text=asked.get("q", ""),
                chosen=chosen,
                pack=pack,
                fitting=pack is not None and asked.get("fits") == "1",
                sort=asked["sort"] if asked.get("sort") in SORTS else "",
                first=(page - 1) * PER_PAGE,
                most=PER_PAGE,
                shelves=shelves_of(request.user),
            )
        )
        rows = Mod.objects.select_related("shelf").defer("search", "keys", "grounds").in_bulk(found.keys)
        values = queries.with_builds(slug, [row.slug for row in rows.values()]) if pack is not None else {}
        game = queries.game_value(slug) if rows else None
        clashes = draft_clashes(pack) if pack is not None else None
        return ModList(
            mods=[
                _row(row, fit_of(values[row.slug], pack, game, clashes) if pack and clashes else None)
                for row in (rows[key] for key in found.keys if key in rows)
            ],
            total=found.total,
            fitting=found.fitting,
            page=page,
            per_page=PER_PAGE,
            mended=found.mended,
            facets=[_facet(facet, found.counts.get(facet, {}), chosen[facet], game) for facet in FACETS],
        )


def _facet(facet: str, counts: dict[str, int], chosen: list[str], game: Game | None) -> Facet:
    values = counts | {value: counts.get(value, 0) for value in chosen}
    labels = {value: _value_label(facet, value, game) for value in values}
    if facet == "version" and game is not None:
        place = {version.label: index for index, version in enumerate(reversed(game.versions))}
        order = sorted(values, key=lambda value: place.get(value, len(place)))
    else:
        order = sorted(values, key=lambda value: (-values[value], labels[value]))
    return Facet(
        facet=facet,
        label=_FACET_LABELS[facet],
        values=[FacetValue(value=v, label=labels[v], count=values[v], chosen=v in chosen) for v in order],
    )


def _value_label(facet: str, value: str, game: Game | None) -> str:
    if game is not None and facet == "kind":
        return game.kind(value).name
    if game is not None and facet == "loader" and value != "none":
        return loader_name(game, value)
    return _VALUE_LABELS.get((facet, value), value)


def _row(row: Mod, fit: FitInfo | None) -> ModRow:
    document: dict[str, Any] = row.document
    return ModRow(
        slug=row.slug,
        name=row.name,
        summary=row.summary,
        authors=document["authors"],
        categories=row.categories,
        kind=row.kind,
        reach=document["reach"],
        licence=document["licence"],
        redistribution=document["redistribution"],
        sides=msgspec.convert(document["sides"], Sides),
        installs=row.installs,
        newest=row.newest,
        shelf=row.shelf.name if row.shelf else "",
        fit=fit,
    )


def visible_mod(request: Request, game: str, mod: str) -> Mod:
    """A mod the caller may see: any that is on no shelf of others, or that the pack named has. Raises Http404."""
    row = Mod.objects.select_related("shelf").filter(game__slug=game, slug=mod).first()
    if row is None:
        raise Http404
    if row.shelf_id is not None and row.shelf_id not in shelves_of(request.user):
        pack = _draft(request)
        if pack is None or pack.entry(mod) is None:
            raise Http404
    return row


class ModView(View):
    """One mod."""

    @operation(Who.SIGNED_IN, gives=ModInfo, query={"pack": "Say for each build whether it suits this pack's draft."})
    def get(self, request: Request, game: str, mod: str) -> ModInfo:
        """A mod and its builds, what needs it, and which of the caller's packs have it."""
        row = visible_mod(request, game, mod)
        value, definition, pack = queries.with_builds(game, [mod])[mod], queries.game_value(game), _draft(request)
        pack = pack if pack is not None and pack.game == game else None
        named = {t.mod for b in value.builds for r in b.relations if isinstance(r, Requires) for t in r.targets}
        named |= {r.mod for b in value.builds for r in b.relations if isinstance(r, Clashes)}
        names = queries.names(game, named)
        needing = queries.needed_by(game, mod, shelves_of(request.user))
        on_team = row.shelf_id is not None and row.shelf_id in shelves_of(request.user)
        own = {"kind_name", "reach_open", "may_check_reach", "shelf", "shelf_id", "builds", "authors", "categories"}
        own |= {"links", "needed_by", "needed_by_count", "used_in", "names", "fit"}
        return ModInfo(
            **{key: getattr(value, key) for key in ModInfo.__struct_fields__ if key not in own},
            kind_name=definition.kind(value.kind).name,
            reach_open=row.stated_reach if row.stated_reach and row.reach_checked_by_id is None else "",
            may_check_reach=on_team and row.stated_by_id != request.user.pk,
            shelf=row.shelf.name if row.shelf else "",
            shelf_id=row.shelf_id if on_team else None,
            authors=list(value.authors),
            categories=list(value.categories),
            links=list(value.links),
            builds=[_build_row(build, names, pack, definition) for build in newest_first(value)],
            needed_by=[NeededBy(slug=slug, name=name) for slug, name in needing[:_NEEDED_BY]],
            needed_by_count=len(needing),
            used_in=_used_in(request.user, game, mod),
            names=names,
            fit=fit_of(value, pack, definition, draft_clashes(pack)) if pack is not None else None,
        )


def _used_in(user: Any, game: str, mod: str) -> list[UsedIn]:
    found = []
    for pack in packs_of(user).filter(game=game):
        entry = _value(pack).entry(mod)
        if entry is not None:
            found.append(UsedIn(pack=pack.slug, name=pack.name, version=entry.version, enabled=entry.enabled))
    return found


def _value(pack: Pack) -> PackValue:
    return draft(pack)[1]


def _build_row(build: BuildValue, names: dict[str, str], pack: PackValue | None, game: Game) -> BuildRow:
    fit = fits(build, pack, game) if pack is not None else None
    return BuildRow(
        version=build.version,
        channel=build.channel,
        published=build.published,
        game_versions=in_words(build.game_versions),
        loaders=[loader_name(game, slug) for slug in build.loaders],
        size=build.file.size if build.file else 0,
        sha256=(build.file.sha256 or "") if build.file else "",
        by_hand=build.file is None or build.file.url is None,
        withdrawn=build.withdrawn,
        needs=[need_words(relation, names) for relation in build.relations if isinstance(relation, Requires)],
        clashes=[clash_words(relation, names) for relation in build.relations if isinstance(relation, Clashes)],
        changelog=build.changelog,
        fits=bool(fit) if fit is not None else None,
        reason=fit.reason if fit is not None else "",
    )


def need_words(relation: Requires, names: Mapping[str, str]) -> str:
    """A requirement as people say it."""
    parts = []
    for target in relation.targets:
        said = in_words(target.versions)
        parts.append(names.get(target.mod, target.mod) + ("" if said == "any version" else f" {said}"))
    return " or ".join(parts)


def clash_words(relation: Clashes, names: Mapping[str, str]) -> str:
    """A clash as people say it."""
    said = in_words(relation.versions)
    name = names.get(relation.mod, relation.mod) + ("" if said == "any version" else f" {said}")
    return f"{name} ({relation.reason})" if relation.reason else name


class BuildFilesView(View):
    """The files of one build."""

    @operation(Who.SIGNED_IN, gives=BuildFiles, query={"pack": "Lets members of this pack see what is in its draft."})
    def get(self, request: Request, game: str, mod: str, version: str) -> BuildFiles:
        """What a build brings, where each file goes, and which replace files of the game itself."""
        row = visible_mod(request, game, mod)
        return build_files(row, version, queries.game_value(game))


def build_files(
    row: Mod, version: str, game: Game, keep: tuple[str, ...] = (), drop: tuple[str, ...] = ()
) -> BuildFiles:
    """The files of a build under path rules; what they drop has no target. Raises Http404, UnsafePath."""
    build = Build.objects.filter(mod=row, version=version).first()
    if build is None:
        raise Http404
    files = Contents.objects.filter(build=build).values_list("files", flat=True).first() or []
    value = msgspec.convert(build.document | {"contents": files}, BuildValue)
    places = places_of(value, game.kind(row.kind), row.slug, keep, drop, game.folders)
    whole = any(place.source is None for place in places)
    targets = {place.source: place.target for place in places}
    listed = [
        PlacedFile(
            path=item.path,
            target=targets.get(item.path, ""),
            size=item.size,
            replaces=item.path in targets and glob_matches(targets[item.path], game.own_files),
        )
        for item in value.contents
    ]
    if whole and value.file is not None:
        target = places[0].target
        replaces = glob_matches(target, game.own_files)
        listed = [PlacedFile(path=value.file.name, target=target, size=value.file.size, replaces=replaces)]
    return BuildFiles(
        version=version,
        size=value.file.size if value.file else 0,
        whole=whole,
        files=listed,
        replaces=sum(file.replaces for file in listed),
    )
