"""Publishing."""

import re
from datetime import datetime
from typing import Any

from django.db import IntegrityError, transaction
from django.utils import timezone

from true_convoy.core import documents
from true_convoy.core.release import freeze

from ..access import Refusal
from ..catalogue.queries import extract
from ..events import announce
from ..packs.models import Pack
from ..packs.queries import draft
from .models import Release
from .queries import latest

_VERSION = re.compile(r"[0-9A-Za-z][0-9A-Za-z.+-]{0,59}")


def publish(
    pack: Pack, by: Any, *, revision: int, version: str, channel: str, notes: str, at: datetime | None = None
) -> Release:
    """Freezes the draft as it is at ``revision``. Raises Refusal or FreezeRefused; then nothing was published."""
    if not _VERSION.fullmatch(version):
        raise Refusal(400, "version", "A version number is made of digits, letters and dots, such as 1.4.0.")
    if channel not in ("steady", "trial"):
        raise Refusal(400, "channel", "A release goes to the steady or the trial channel.")
    with transaction.atomic():
        Pack.objects.select_for_update().get(pk=pack.pk)
        newest, value = draft(pack)
        if newest.number != revision:
            who = newest.made_by.name if newest.made_by else "somebody"
            raise Refusal(
                409,
                "moved",
                f"The draft has changed meanwhile: {who} {newest.words}. Nothing was published; look again.",
            )
        if not any(entry.enabled for entry in value.entries):
            raise Refusal(409, "empty", "The draft has no entries yet, so there is nothing to publish.")
        if pack.releases.filter(version=version).exists():
            raise _used(version)
        slugs = [entry.mod for entry in value.entries]
        last = latest(pack)
        release = freeze(
            value,
            extract(value.game, slugs, contents=True),
            version=version,
            published=at or timezone.now(),
            channel=channel,
            notes=notes,
            previous=last.digest if last else None,
        )
        try:
            with transaction.atomic():
                row = Release.objects.create(
                    pack=pack,
                    version=version,
                    channel=channel,
                    digest=release.digest,
                    document=documents.write(release).decode(),
                    notes=notes,
                    entries=len(release.entries),
                    published=release.published,
                    published_by=by,
                )
        except IntegrityError:
            raise _used(version) from None
        announce("releases", pack.slug, version=version)
    return row


def _used(version: str) -> Refusal:
    return Refusal(
        409, "version-used", f"{version} has been published already, and a release never changes. Take a higher number."
    )
