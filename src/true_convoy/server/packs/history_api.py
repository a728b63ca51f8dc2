"""The history of a draft: every revision in words, comparing any two, and going back to one."""

from datetime import datetime

import msgspec
from rest_framework.request import Request

from true_convoy.core.compare import Difference, compare

from ..access import Refusal, Who
from ..catalogue import queries as catalogue
from ..frame import View, operation
from . import actions
from .api import Made, made_info
from .models import Revision
from .queries import value_of

PER_PAGE = 200


class RevisionRow(msgspec.Struct, kw_only=True):
    """One line of the history."""

    number: int
    words: str
    by: str
    made: datetime


class History(msgspec.Struct, kw_only=True):
    """A page of revisions, newest first; ``more``: there are older ones."""

    revisions: list[RevisionRow]
    more: bool


class GoBackRequest(msgspec.Struct, kw_only=True):
    """The revision to go back to, and the one the caller sees."""

    base: int
    to: int


class HistoryView(View):
    """All revisions."""

    @operation(Who.MEMBER, gives=History, query={"before": "Only revisions older than this one."})
    def get(self, request: Request) -> History:
        """Two hundred revisions in words, newest first."""
        rows = request.pack.revisions.select_related("made_by").defer("value", "edit")
        before = request.query_params.get("before", "")
        if before.isdigit():
            rows = rows.filter(number__lt=int(before))
        page = list(rows[: PER_PAGE + 1])
        shown = [
            RevisionRow(number=r.number, words=r.words, by=r.made_by.name if r.made_by else "", made=r.made)
            for r in page[:PER_PAGE]
        ]
        return History(revisions=shown, more=len(page) > PER_PAGE)


def _revision(request: Request, number: str | int) -> Revision:
    found = request.pack.revisions.filter(number=int(number)).first() if str(number).isdigit() else None
    if found is None:
        raise Refusal(404, "no-revision", "There is no such revision of this draft.")
    return found


class RevisionsComparedView(View):
    """Two revisions side by side."""

    @operation(Who.MEMBER, gives=Difference, query={"one": "The older revision.", "two": "The newer one."})
    def get(self, request: Request) -> Difference:
        """What changed from one revision to another."""
        one, two = (value_of(request.pack, _revision(request, request.query_params.get(k, ""))) for k in ("one", "two"))
        slugs = {entry.mod for value in (one, two) for entry in value.entries}
        return compare(one, two, catalogue.schemes(one.game, slugs), catalogue.names(one.game, slugs))


class GoBackView(View):
    """Going back to an earlier revision."""

    @operation(Who.CURATOR, takes=GoBackRequest, gives=Made, status=201)
    def post(self, request: Request, body: GoBackRequest) -> Made:
        """Makes the draft what it was at a revision, as a new revision that can be undone."""
        return made_info(actions.go_back(request.pack, request.user, body.base, _revision(request, body.to)))
