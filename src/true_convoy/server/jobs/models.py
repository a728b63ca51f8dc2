"""Background jobs as people see them: what is being done, how much of how much, how it ended."""

from typing import ClassVar

from django.conf import settings
from django.db import models


class Job(models.Model):
    """One piece of work in the background. ``done`` and ``total`` count ``unit``."""

    class State(models.TextChoices):
        """How far a job is."""

        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    title = models.CharField(max_length=200)
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(null=True)
    unit = models.CharField(max_length=30)
    message = models.TextField(blank=True, default="")
    cancel_asked = models.BooleanField(default=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, null=True)
    created = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering: ClassVar[list[str]] = ["-created"]

    def __str__(self) -> str:
        return f"{self.title} ({self.state})"
