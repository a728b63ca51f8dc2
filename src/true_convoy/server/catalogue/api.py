"""Games, and importing catalogues."""

from typing import Any

import msgspec
from procrastinate.exceptions import AlreadyEnqueued
from rest_framework.request import Request

from true_convoy.core.model import Game

from ..access import Refusal, Who
from ..frame import View, operation
from ..jobs.api import JobInfo, info
from ..jobs.models import Job
from . import queries
from .actions import check_address, put_game
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
        """Keeps a game definition. Refused where packs stand on a version or loader it no longer has.

        What its mods are for by its new grounds is worked out in the background.
        """
        put_game(body.game, request.user)
        return body.game


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
