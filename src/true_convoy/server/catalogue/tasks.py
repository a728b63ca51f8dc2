"""Background work on the catalogue."""

from procrastinate.contrib.django import app

from ..jobs.models import Job
from .actions import import_feed


@app.task(name="import-catalogue", queueing_lock="import-catalogue")
def import_catalogue(job: int, address: str) -> None:
    """Imports a feed and tells how far it is in the job."""
    import_feed(Job.objects.get(pk=job), address)
