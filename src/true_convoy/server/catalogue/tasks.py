"""Background work on the catalogue."""

from procrastinate.contrib.django import app

from ..jobs.models import Job
from .actions import import_feed, reground_in_background


@app.task(name="import-catalogue", queueing_lock="import-catalogue")
def import_catalogue(job: int, address: str) -> None:
    """Imports a feed and tells how far it is in the job."""
    import_feed(Job.objects.get(pk=job), address)


@app.task(name="reground-mods")
def reground_mods(job: int, game: str) -> None:
    """Works out which grounds the mods of a game are for, after its definition changed."""
    reground_in_background(Job.objects.get(pk=job), game)
