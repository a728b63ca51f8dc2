"""Live changes: what is committed is announced through PostgreSQL's NOTIFY and passed on as server-sent events.

Announcements carry no contents, only what changed (``topic``) and in which pack; readers ask again for what they show.
Any number of server processes hear the same announcements.
"""

import asyncio
import json
import time
from collections.abc import AsyncIterator
from typing import Any

import psycopg
from django.db import connection
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse

CHANNEL = "convoy_events"
BEAT_SECONDS = 15.0


def announce(topic: str, pack: str = "", **facts: Any) -> None:
    """Announces a change when the current transaction is committed."""
    payload = json.dumps({"topic": topic, "pack": pack, **facts})
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, payload])


class Hub:
    """One listening connection of this process, and the readers it passes announcements on to."""

    def __init__(self) -> None:
        self.readers: set[asyncio.Queue[dict[str, Any]]] = set()
        self.task: asyncio.Task[None] | None = None

    async def read(self) -> AsyncIterator[dict[str, Any] | None]:
        """Announcements as they come; None now and then, so that a closed connection is noticed."""
        queue: asyncio.Queue[dict[str, Any]] = asyncio.Queue(maxsize=1000)
        self.readers.add(queue)
        if self.task is None or self.task.done():
            self.task = asyncio.create_task(self.listen())
        try:
            while True:
                try:
                    yield await asyncio.wait_for(queue.get(), BEAT_SECONDS)
                except TimeoutError:
                    yield None
        finally:
            self.readers.discard(queue)

    async def listen(self) -> None:
        """Hears announcements until nobody reads; connects again when the connection is lost."""
        while self.readers:
            try:
                async with await psycopg.AsyncConnection.connect(**_parameters(), autocommit=True) as heard:
                    await heard.execute(f"LISTEN {CHANNEL}")
                    self.pass_on({"topic": "everything", "pack": ""})
                    while self.readers:
                        async for notice in heard.notifies(timeout=BEAT_SECONDS, stop_after=1):
                            self.pass_on(json.loads(notice.payload))
            except psycopg.OperationalError:
                await asyncio.sleep(1)

    def pass_on(self, announcement: dict[str, Any]) -> None:
        for queue in self.readers:
            if not queue.full():
                queue.put_nowait(announcement)


def _parameters() -> dict[str, Any]:
    settings = connection.settings_dict
    names = {"HOST": "host", "PORT": "port", "NAME": "dbname", "USER": "user", "PASSWORD": "password"}
    return {names[key]: settings[key] for key in names if settings[key]}


HUB = Hub()


async def stream(request: HttpRequest) -> HttpResponse:
    """GET /api/events: changes in the caller's packs; with ``?pack=SLUG`` also tells others who is looking at it."""
    user = await request.auser()
    if not user.is_authenticated:
        return HttpResponse('{"detail": "Please sign in first.", "code": "sign-in", "facts": {}}', status=401)
    from .packs.queries import packs_of

    mine = frozenset([slug async for slug in packs_of(user).values_list("slug", flat=True)])
    watched = request.GET.get("pack", "")
    response = StreamingHttpResponse(
        _events(user, mine, watched if watched in mine else ""), content_type="text/event-stream"
    )
    response["Cache-Control"] = "no-cache"
    response["X-Accel-Buffering"] = "no"
    return response


async def _events(user: Any, mine: frozenset[str], watched: str) -> AsyncIterator[str]:
    yield "retry: 1000\n\n"
    told = 0.0
    async for announcement in HUB.read():
        if watched and time.monotonic() - told > BEAT_SECONDS - 1:
            told = time.monotonic()
            await _present(watched, user)
        if announcement is None:
            yield ": still here\n\n"
        elif announcement["pack"] in mine or announcement.get("user") == user.pk or not announcement["pack"]:
            yield f"data: {json.dumps(announcement)}\n\n"


async def _present(pack: str, user: Any) -> None:
    from asgiref.sync import sync_to_async

    await sync_to_async(announce)("presence", pack, name=user.name, who=user.pk)
