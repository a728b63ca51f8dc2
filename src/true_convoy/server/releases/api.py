"""Publishing and reading releases."""

from datetime import datetime

import msgspec
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from rest_framework.request import Request

from true_convoy.core.compare import Difference, as_markdown, next_version

from ..access import Who
from ..catalogue import queries as catalogue
from ..frame import View, operation
from ..packs.queries import draft
from . import actions
from .models import Release
from .queries import since_last


class ReleaseRow(msgspec.Struct, kw_only=True):
    """A release in a list."""

    version: str
    channel: str
    digest: str
    notes: str
    entries: int
    published: datetime
    by: str


class ReleaseList(msgspec.Struct, kw_only=True):
    """A pack's releases, newest first."""

    releases: list[ReleaseRow]


class Proposal(msgspec.Struct, kw_only=True):
    """What publishing now would release: the difference, a number by its size, and notes to start from."""

    revision: int
    last: str | None
    version: str
    notes: str
    entries: int
    difference: Difference | None


class PublishRequest(msgspec.Struct, kw_only=True):
    """Publishes the draft as it is at ``revision``."""

    revision: int
    version: str
    channel: str = "steady"
    notes: str = ""


def row(release: Release) -> ReleaseRow:
    """A release as lists show it."""
    by = release.published_by.name if release.published_by else ""
    facts = {field: getattr(release, field) for field in ReleaseRow.__struct_fields__ if field != "by"}
    return ReleaseRow(**facts, by=by)


class ReleasesView(View):
    """A pack's releases."""

    @operation(Who.MEMBER, gives=ReleaseList)
    def get(self, request: Request) -> ReleaseList:
        """All releases, newest first."""
        rows = request.pack.releases.select_related("published_by").defer("document")
        return ReleaseList(releases=[row(release) for release in rows])

    @operation(Who.CURATOR, takes=PublishRequest, gives=ReleaseRow, status=201)
    def post(self, request: Request, body: PublishRequest) -> ReleaseRow:
        """Publishes the draft."""
        return row(actions.publish(request.pack, request.user, **msgspec.structs.asdict(body)))


class ProposalView(View):
    """What publishing now would release."""

    @operation(Who.CURATOR, gives=Proposal)
    def get(self, request: Request) -> Proposal:
        """The difference to the last release and the version number it calls for."""
        newest, value = draft(request.pack)
        reached = catalogue.extract(value.game, [entry.mod for entry in value.entries])
        last, difference = since_last(request.pack, value, reached)
        return Proposal(
            revision=newest.number,
            last=last.version if last else None,
            version=next_version(last.version if last else None, difference),
            notes=as_markdown(difference) if difference and difference.count else "",
            entries=sum(entry.enabled for entry in value.entries),
            difference=difference,
        )


class ReleaseDocumentView(View):
    """A release's document."""

    @operation(Who.MEMBER, gives=None)
    def get(self, request: Request, version: str) -> HttpResponse:
        """The release document, as published."""
        release = get_object_or_404(Release, pack=request.pack, version=version)
        response = HttpResponse(release.document, content_type="application/json")
        response["Content-Disposition"] = f'attachment; filename="{request.pack.slug}-{version}.release.json"'
        return response
