"""Boarding codes, and the rigs that came aboard with them."""

from typing import ClassVar

from django.conf import settings
from django.db import models

from ..packs.models import Pack
from ..releases.models import Release


class BoardingCode(models.Model):
    """Takes a member to a pack's channel, or to one exact release. A personal code boards one person's rig, once."""

    pack = models.ForeignKey(Pack, models.CASCADE, related_name="codes")
    code = models.CharField(max_length=11, unique=True)
    channel = models.CharField(max_length=20, default="steady")
    release = models.ForeignKey(Release, models.CASCADE, null=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, null=True, related_name="+")
    issued_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    expires = models.DateTimeField(null=True)
    revoked = models.DateTimeField(null=True)
    used = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"code for {self.pack}"


class Rig(models.Model):
    """One game folder on one machine that follows a pack. Only the hash of its token is kept."""

    class Side(models.TextChoices):
        """What the rig runs."""

        CLIENT = "client"
        SERVER = "server"

    pack = models.ForeignKey(Pack, models.CASCADE, related_name="rigs")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True, related_name="rigs")
    name = models.CharField(max_length=80)
    side = models.CharField(max_length=10, choices=Side.choices, default=Side.CLIENT)
    channel = models.CharField(max_length=20, default="steady")
    release = models.ForeignKey(Release, models.SET_NULL, null=True)
    token_hash = models.CharField(max_length=64, unique=True)
    joined = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)
    reported = models.DateTimeField(null=True)
    inventory = models.JSONField(null=True)
    comparison = models.JSONField(null=True)

    class Meta:
        ordering: ClassVar[list[str]] = ["name", "pk"]

    def __str__(self) -> str:
        return self.name
