"""Packs, who may do what in them, and the revisions of their drafts."""

from typing import ClassVar

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models

from ..access import Who


class Pack(models.Model):
    """A pack. Its draft is the newest of its revisions; name and game are kept here for lists."""

    slug = models.CharField(max_length=100, unique=True)
    name = models.CharField(max_length=200)
    game = models.CharField(max_length=100)
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


class Membership(models.Model):
    """A person's role in a pack."""

    class Role(models.TextChoices):
        """What a person may do in a pack; each includes the ones after it."""

        OWNER = "owner"
        CURATOR = "curator"
        MEMBER = "member"

        @property
        def who(self) -> Who:
            """The same as a caller of endpoints."""
            return {"owner": Who.OWNER, "curator": Who.CURATOR, "member": Who.MEMBER}[self.value]

    pack = models.ForeignKey(Pack, models.CASCADE, related_name="memberships")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices)
    since = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["pack", "user"], name="one_role_per_person")
        ]

    def __str__(self) -> str:
        return f"{self.user}: {self.role} of {self.pack}"


class Revision(models.Model):
    """One step of a draft; never changed. An edit was made on ``base``; undo and redo carry no edit.

    ``same_as`` is the revision whose value this one has: itself for an edit, an earlier or undone one for undo and
    redo. ``before`` is what an undo leads back to; ``undone`` what a redo can bring back, latest first. ``value`` is
    kept every so often, so that a draft is read without replaying everything.
    """

    pack = models.ForeignKey(Pack, models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    base = models.PositiveIntegerField(null=True)
    edit = models.JSONField(null=True)
    words = models.TextField()
    value = models.JSONField(null=True)
    same_as = models.PositiveIntegerField()
    before = models.PositiveIntegerField(null=True)
    undone = ArrayField(models.PositiveIntegerField(), default=list)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, models.SET_NULL, null=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints: ClassVar[list[models.BaseConstraint]] = [
            models.UniqueConstraint(fields=["pack", "number"], name="one_revision_per_number")
        ]
        ordering: ClassVar[list[str]] = ["-number"]

    def __str__(self) -> str:
        return f"{self.pack} revision {self.number}"
