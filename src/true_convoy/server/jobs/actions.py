"""Telling people how far a job is."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.utils import timezone

from true_convoy.core.errors import ConvoyError

from ..events import announce
from .models import Job


class Cancelled(ConvoyError):
    """Somebody asked for the job to stop."""


def progress(job: Job, done: int, total: int | None) -> None:
    """Writes down how far a job is. Raises Cancelled if somebody asked for it to stop."""
    job.refresh_from_db(fields=["cancel_asked"])
    if job.cancel_asked:
        raise Cancelled("It was cancelled. What had been taken in by then was kept.")
    job.done, job.total = done, total
    job.save(update_fields=["done", "total"])
    announce("jobs", user=job.owner_id)


@contextmanager
def running(job: Job) -> Iterator[None]:
    """Marks a job as running, and says how it ended, with a sentence in every case."""
    job.state = Job.State.RUNNING
    job.save(update_fields=["state"])
    announce("jobs", user=job.owner_id)
    try:
        yield
        job.state = Job.State.DONE
    except Cancelled as asked:
        job.state, job.message = Job.State.CANCELLED, str(asked)
    except ConvoyError as error:
        job.state, job.message = Job.State.FAILED, str(error)
    except Exception:
        job.state = Job.State.FAILED
        job.message = "Something went wrong that was not foreseen. What had been taken in by then was kept."
        raise
    finally:
        job.ended = timezone.now()
        job.save()
        announce("jobs", user=job.owner_id)
