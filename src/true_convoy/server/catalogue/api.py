"""Games and mods, and importing catalogues."""

from datetime import datetime
from typing import Any

import msgspec
from django.shortcuts import get_object_or_404
from procrastinate.exceptions import AlreadyEnqueued
from rest_framework.request import Request

from true_convoy.core.fit import fits, nearest, newest_first, newest_fitting
from true_convoy.core.model import Build as BuildValue
from true_convoy.core.model import Game, Requires, Sides
from true_convoy.core.model import Mod as ModValue
from true_convoy.core.model import Pack as PackValue
from true_convoy.core.ranges import in_words

from ..access import Refusal, Who
from ..frame import View, operation
from ..jobs.api import JobInfo, info
from ..jobs.models import Job
from ..packs.queries import draft, packs_of
from . import queries
from .actions import check_address
from .models import Mod
from .tasks import import_catalogue

PER_PAGE = 30


class GameList(msgspec.Struct, kw_only=True):
    """All game definitions."""

    games: list[Game]


class FitInfo(msgspec.Struct, kw_only=True):
    """Whether a mod suits the draft, with the reason: ``answer`` is fits, older-build, no-build or already-in."""

    answer: str
    version: str
    reason: str


class ModRow(msgspec.Struct, kw_only=True):
    """A mod in a list of results; ``fit`` only where a pack was named."""

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
    fit: FitInfo | None


class ModList(msgspec.Struct, kw_only=True):
    """A page of results. ``page`` counts from 1; ``total`` is of all pages."""

    mods: list[ModRow]
    total: int
    page: int
    per_page: int


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
    needs: list[str]
    changelog: str
    fits: bool | None
    reason: str


class ModInfo(msgspec.Struct, kw_only=True):
    """A mod with all its builds, newest first."""

    slug: str
    game: str
    name: str
    summary: str
    description: str
    authors: list[str]
    categories: list[str]
    kind: str
    reach: str
    save_effect: str
    licence: str | None
    redistribution: str
    sides: Sides
    installs: int
    page: str | None
    builds: list[BuildRow]


class ImportRequest(msgspec.Struct, kw_only=True):
    """The address of a catalogue feed."""

    address: str


class GamesView(View):
    """The games."""

    @operation(Who.SIGNED_IN, gives=GameList)
    def get(self, request: Request) -> GameList:
        """All game definitions."""
        return GameList(games=queries.games())


def _draft(request: Request) -> PackValue | None:
    slug = request.query_params.get("pack", "")
    pack = packs_of(request.user).filter(slug=slug).first() if slug else None
    return draft(pack)[1] if pack else None


def fit_of(mod: ModValue, pack: PackValue) -> FitInfo:
    """Whether and with which build a mod suits a draft, and why not."""
    entry, best, newest = pack.entry(mod.slug), newest_fitting(mod, pack), next(iter(newest_first(mod)), None)
    if entry is not None:
        off = "" if entry.enabled else ", turned off"
        return FitInfo(answer="already-in", version=entry.version or "", reason=f"is in the draft{off}")
    if best is not None and best is newest:
        return FitInfo(answer="fits", version=best.version, reason=f"fits with {best.version}")
    if best is not None and newest is not None:
        why = f"fits with the older {best.version}; {newest.version} {fits(newest, pack).reason}"
        return FitInfo(answer="older-build", version=best.version, reason=why)
    near = nearest(mod, pack)
    why = f"no build fits; the nearest, {near[0].version}, {near[1].reason}" if near else "has no builds"
    return FitInfo(answer="no-build", version="", reason=why)


class ModsView(View):
    """Looking through the catalogue."""

    @operation(
        Who.SIGNED_IN,
        gives=ModList,
        query={
            "game": "The game's slug.",
            "q": "What to look for; typing mistakes are forgiven.",
            "category": "Only mods of this category.",
            "kind": "Only this kind of content.",
            "pack": "Say for each mod whether it suits this pack's draft.",
            "page": "Page of results, from 1.",
        },
    )
    def get(self, request: Request) -> ModList:
        """Mods that match, best first."""
        asked = request.query_params
        page = max(int(asked["page"]) if asked.get("page", "").isdigit() else 1, 1)
        given = {"category": asked.get("category", ""), "kind": asked.get("kind", "")}
        rows = queries.search(asked.get("game", ""), asked.get("q", ""), **given)
        chosen = list(rows[(page - 1) * PER_PAGE : page * PER_PAGE])
        pack = _draft(request)
        values: dict[str, ModValue] = {}
        if pack is not None and pack.game == asked.get("game"):
            values = queries.with_builds(pack.game, [row.slug for row in chosen])
        return ModList(
            mods=[_row(row, fit_of(values[row.slug], pack) if pack and row.slug in values else None) for row in chosen],
            total=rows.count(),
            page=page,
            per_page=PER_PAGE,
        )


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
        fit=fit,
    )


class ModView(View):
    """One mod."""

    @operation(Who.SIGNED_IN, gives=ModInfo, query={"pack": "Say for each build whether it suits this pack's draft."})
    def get(self, request: Request, game: str, mod: str) -> ModInfo:
        """A mod and its builds."""
        get_object_or_404(Mod, game__slug=game, slug=mod)
        value = queries.with_builds(game, [mod])[mod]
        needed = {t.mod for b in value.builds for r in b.relations if isinstance(r, Requires) for t in r.targets}
        names, pack = queries.names(game, needed), _draft(request)
        facts = {
            key: getattr(value, key)
            for key in ModInfo.__struct_fields__
            if key not in ("builds", "authors", "categories")
        }
        return ModInfo(
            **facts,
            authors=list(value.authors),
            categories=list(value.categories),
            builds=[_build_row(build, names, pack) for build in newest_first(value)],
        )


def _build_row(build: BuildValue, names: dict[str, str], pack: PackValue | None) -> BuildRow:
    fit = fits(build, pack) if pack is not None else None
    return BuildRow(
        version=build.version,
        channel=build.channel,
        published=build.published,
        game_versions=in_words(build.game_versions),
        loaders=list(build.loaders),
        size=build.file.size if build.file else 0,
        sha256=(build.file.sha256 or "") if build.file else "",
        by_hand=build.file is None or build.file.url is None,
        needs=[need_words(relation, names) for relation in build.relations if isinstance(relation, Requires)],
        changelog=build.changelog,
        fits=bool(fit) if fit is not None else None,
        reason=fit.reason if fit is not None else "",
    )


def need_words(relation: Requires, names: dict[str, str]) -> str:
    """A requirement as people say it."""
    parts = []
    for target in relation.targets:
        said = in_words(target.versions)
        parts.append(names.get(target.mod, target.mod) + ("" if said == "any version" else f" {said}"))
    return " or ".join(parts)


class ImportsView(View):
    """Importing catalogues."""

    @operation(Who.STAFF, takes=ImportRequest, gives=JobInfo, status=202)
    def post(self, request: Request, body: ImportRequest) -> JobInfo:
        """Begins to import a catalogue feed in the background."""
        return info(start_import(check_address(body.address), request.user))


def start_import(address: str, by: Any) -> Job:
    """Puts an import into the queue. Raises Refusal if one is waiting already."""
    job = Job.objects.create(title="Importing the catalogue", unit="mods", owner=by)
    try:
        import_catalogue.defer(job=job.pk, address=address)
    except AlreadyEnqueued:
        job.delete()
        raise Refusal(409, "busy", "An import is waiting already. Let it finish first.") from None
    return job
