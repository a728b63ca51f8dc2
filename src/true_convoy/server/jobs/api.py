"""Jobs of the caller."""

from datetime import datetime

import msgspec
from django.shortcuts import get_object_or_404
from rest_framework.request import Request

from ..access import Who
from ..events import announce
from ..frame import View, operation
from .models import Job


class JobInfo(msgspec.Struct, kw_only=True):
    """A job: ``state`` is waiting, running, done, failed or cancelled; ``total`` may not be known yet."""

    id: int
    title: str
    state: str
    done: int
    total: int | None
    unit: str
    message: str
    created: datetime
    ended: datetime | None


class JobList(msgspec.Struct, kw_only=True):
    """The caller's latest jobs, newest first."""

    jobs: list[JobInfo]


def info(job: Job) -> JobInfo:
    """A job as the interface shows it."""
    return JobInfo(**{field: getattr(job, field) for field in JobInfo.__struct_fields__})


class JobsView(View):
    """The caller's jobs."""

    @operation(Who.SIGNED_IN, gives=JobList)
    def get(self, request: Request) -> JobList:
        """The caller's latest jobs."""
        return JobList(jobs=[info(job) for job in Job.objects.filter(owner=request.user)[:20]])


class JobView(View):
    """One of the caller's jobs."""

    @operation(Who.SIGNED_IN, gives=JobInfo)
    def get(self, request: Request, job: int) -> JobInfo:
        """How far a job is."""
        return info(get_object_or_404(Job, pk=job, owner=request.user))

    @operation(Who.SIGNED_IN, gives=JobInfo)
    def delete(self, request: Request, job: int) -> JobInfo:
        """Asks a job to stop; what it has done stays."""
        found = get_object_or_404(Job, pk=job, owner=request.user)
        found.cancel_asked = True
        found.save(update_fields=["cancel_asked"])
        announce("jobs", user=request.user.pk)
        return info(found)
