"""Releases. The database itself refuses to change or delete one (see the migration's trigger)."""

from typing import ClassVar

from django.conf import settings
from django.db import models

from ..packs.models import Pack


class Release(models.Model):
    """A frozen draft: its document as published, and the columns lists need."""

    pack = models.ForeignKey(Pack, models.PROTECT, related_name="releases")
    version = models.CharField(max_length=200)
    channel = models.CharField(max_length=20)
    digest = models.CharField(max_length=64, unique=True)
    document = models.TextField()
    notes = models.TextField(blank=True)
    entries = models.PositiveIntegerField()
    published = models.DateTimeField()
    published_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, null=True)

    class Meta:
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["pack", "version"], name="one_release_per_version")
        ]
        ordering: ClassVar[list[str]] = ["-pk"]

    def __str__(self) -> str:
        return f"{self.pack} {self.version}"
