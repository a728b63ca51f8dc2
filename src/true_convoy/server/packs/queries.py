"""Reading packs and drafts."""

from functools import reduce
from typing import Any

from django.db.models import QuerySet
from django.http import Http404

from true_convoy.core import documents
from true_convoy.core.edits import apply, edit_from
from true_convoy.core.model import Pack as PackValue

from ..access import Who
from .models import Membership, Pack, Revision


def packs_of(user: Any) -> QuerySet[Pack]:
    """The packs a person has a role in, by name."""
    return Pack.objects.filter(memberships__user=user).order_by("name")


def pack_and_role(slug: str, user: Any) -> tuple[Pack, Membership.Role]:
    """A pack and the caller's role in it; to strangers a pack is not there at all."""
    membership = Membership.objects.select_related("pack").filter(pack__slug=slug, user=user).first()
    if membership is None:
        raise Http404
    return membership.pack, Membership.Role(membership.role)


def is_at_least(role: Membership.Role, who: Who) -> bool:
    """Whether a role includes another."""
    rank = [Who.MEMBER, Who.CURATOR, Who.OWNER]
    return rank.index(role.who) >= rank.index(who)


def head(pack: Pack) -> Revision:
    """The newest revision of a draft."""
    return pack.revisions.select_related("made_by").order_by("-number")[0]


def value_of(pack: Pack, revision: Revision) -> PackValue:
    """The pack value of a revision: the nearest kept value before it, and the edits since."""
    wanted = pack.revisions.get(number=revision.same_as) if revision.same_as != revision.number else revision
    if wanted.value is not None:
        return documents.from_builtins(PackValue, wanted.value)
    chain = [wanted]
    while chain[-1].value is None:
        chain.append(pack.revisions.get(number=chain[-1].before))
    start = documents.from_builtins(PackValue, chain.pop().value)
    return reduce(apply, (edit_from(step.edit) for step in reversed(chain)), start)


def draft(pack: Pack) -> tuple[Revision, PackValue]:
    """The newest revision and its value."""
    newest = head(pack)
    return newest, value_of(pack, newest)
