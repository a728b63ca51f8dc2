"""Files that people bring: uploads as they come in, and the blobs that are kept and handed out."""

import uuid
from typing import ClassVar

from django.conf import settings
from django.db import models

from ..jobs.models import Job


class Blob(models.Model):
    """A kept file, named by its checksum; its bytes are in the storage ``blobs`` under the same name."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    size = models.BigIntegerField()
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.sha256


class Upload(models.Model):
    """A file on its way in. ``received`` bytes lie in the upload folder; ``report`` says what it was found to be.

    ``mark`` is a checksum of how the file begins and ends, by which one that had not arrived whole is known again.
    """

    class State(models.TextChoices):
        """How far an upload is."""

        RECEIVING = "receiving"
        LOOKING = "looking"
        JUDGED = "judged"
        REFUSED = "refused"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="uploads")
    game = models.CharField(max_length=100)
    name = models.CharField(max_length=255)
    size = models.BigIntegerField()
    mark = models.CharField(max_length=64, blank=True, default="")
    received = models.BigIntegerField(default=0)
    state = models.CharField(max_length=10, choices=State.choices, default=State.RECEIVING)
    sha256 = models.CharField(max_length=64, blank=True, default="")
    report = models.JSONField(default=dict)
    contents = models.JSONField(default=list)
    message = models.TextField(blank=True, default="")
    job = models.ForeignKey(Job, models.SET_NULL, null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering: ClassVar[list[str]] = ["-created"]

    def __str__(self) -> str:
        return self.name
