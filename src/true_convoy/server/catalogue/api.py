"""Games, starter collections, and importing catalogues."""

from typing import Annotated, Any

import msgspec
from django.shortcuts import get_object_or_404
from msgspec import Meta
from procrastinate.exceptions import AlreadyEnqueued
from rest_framework.request import Request

from true_convoy.core import documents
from true_convoy.core.model import Game
from true_convoy.core.model import Pack as PackValue

from ..access import Refusal, Who
from ..frame import View, operation
from ..jobs.api import JobInfo, info
from ..jobs.models import Job
from . import queries
from .actions import check_address, put_game
from .models import Game as GameRow
from .models import Starter
from .tasks import import_catalogue


class GameInfo(Game, frozen=True, kw_only=True):
    """A game definition, with how many mods it has and, by ``version|loader``, how many have a build there."""

    mods: int = 0
    ready: dict[str, int] = {}


class GameList(msgspec.Struct, kw_only=True):
    """All game definitions."""

    games: list[GameInfo]


class GameRequest(msgspec.Struct, kw_only=True):
    """A game definition to be kept, new or changed."""

    game: Game


class StarterInfo(msgspec.Struct, kw_only=True):
    """A starter collection: for which game, what it is, and the names of the mods it begins with."""

    id: int
    game: str
    name: str
    about: str
    mods: list[str]


class StarterList(msgspec.Struct, kw_only=True):
    """The starter collections, by name."""

    starters: list[StarterInfo]


class StarterRequest(msgspec.Struct, kw_only=True):
    """A pack document to be offered as a starter collection."""

    name: Annotated[str, Meta(min_length=1, max_length=200)]
    about: Annotated[str, Meta(max_length=500)] = ""
    document: dict[str, Any]


class ImportRequest(msgspec.Struct, kw_only=True):
    """The address of a catalogue feed."""

    address: str


class GamesView(View):
    """The games."""

    @operation(Who.SIGNED_IN, gives=GameList)
    def get(self, request: Request) -> GameList:
        """All game definitions."""
        ready = queries.ready_per_version()
        return GameList(
            games=[
                GameInfo(**msgspec.structs.asdict(game), mods=ready[game.slug][0], ready=ready[game.slug][1])
                for game in queries.games()
            ]
        )

    @operation(Who.STAFF, takes=GameRequest, gives=Game)
    def put(self, request: Request, body: GameRequest) -> Game:
        """Keeps a game definition. Refused where packs stand on a version or loader it no longer has."""
        put_game(body.game)
        return body.game


def _starters() -> StarterList:
    found = []
    for row in Starter.objects.select_related("game").order_by("name"):
        slugs = [entry["mod"] for entry in row.document["entries"] if entry.get("chosen", True)]
        named = queries.names(row.game.slug, slugs)
        about = {"id": row.pk, "game": row.game.slug, "name": row.name, "about": row.about}
        found.append(StarterInfo(**about, mods=[named.get(slug, slug) for slug in slugs]))
    return StarterList(starters=found)


class StartersView(View):
    """Starter collections."""

    @operation(Who.SIGNED_IN, gives=StarterList)
    def get(self, request: Request) -> StarterList:
        """All starter collections, by name."""
        return _starters()

    @operation(Who.STAFF, takes=StarterRequest, gives=StarterList, status=201)
    def post(self, request: Request, body: StarterRequest) -> StarterList:
        """Offers a pack document as a starter collection; one of the same name is replaced."""
        value = documents.from_builtins(PackValue, body.document)
        game = get_object_or_404(GameRow, slug=value.game)
        facts = {"about": body.about, "document": documents.to_builtins(value)}
        Starter.objects.update_or_create(game=game, name=body.name, defaults=facts)
        return _starters()


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
