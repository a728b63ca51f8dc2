"""Reading rigs and their states. States come from the core; here they are only put beside their rigs."""

from datetime import datetime
from typing import Any

import msgspec
from django.db.models import QuerySet
from django.utils import timezone

from true_convoy.core.codes import read_code
from true_convoy.core.state import Comparison, State, state_of

from ..access import Refusal, token_hash
from ..packs.models import Pack
from ..releases.models import Release
from ..releases.queries import latest
from .models import BoardingCode, Rig

NOTHING = Comparison(release=None, strayed=(), awaited=(), open_steps=())


def rig_by_token(token: str) -> Rig | None:
    """The rig with a token, if it still follows its pack."""
    return Rig.objects.select_related("pack", "user").filter(token_hash=token_hash(token), ended=None).first()


def rigs_of(pack: Pack) -> QuerySet[Rig]:
    """The rigs that follow a pack."""
    return pack.rigs.filter(ended=None).select_related("user", "release")


def target_of(rig: Rig) -> Release | None:
    """The release a rig should be on."""
    return rig.release or latest(rig.pack, rig.channel)


def comparison_of(rig: Rig) -> Comparison:
    """What the rig's latest inventory showed."""
    return msgspec.convert(rig.comparison, Comparison) if rig.comparison else NOTHING


class Milestone(msgspec.Struct, kw_only=True):
    """A release on the road; ``target`` marks the one the pack's steady rigs should be on."""

    version: str
    channel: str
    published: datetime
    target: bool


class RigOnRoad(msgspec.Struct, kw_only=True):
    """A rig: the version of the release it is on (empty before its first), its state, and what differs in words."""

    id: int
    name: str
    person: str
    side: str
    state: State
    at: str
    reported: datetime | None
    joined: datetime
    details: list[str]


class Road(msgspec.Struct, kw_only=True):
    """Releases, oldest first, and the rigs of a pack."""

    milestones: list[Milestone]
    rigs: list[RigOnRoad]


def road(pack: Pack) -> Road:
    """The road view of a pack."""
    releases = list(pack.releases.order_by("pk").defer("document"))
    steady, newest = latest(pack, "steady"), latest(pack)
    by_digest = {release.digest: release.version for release in releases}
    rigs = []
    for rig in rigs_of(pack):
        target = rig.release or (steady if rig.channel == "steady" else newest)
        rigs.append(_on_road(rig, target, by_digest))
    return Road(
        milestones=[
            Milestone(version=r.version, channel=r.channel, published=r.published, target=r == steady) for r in releases
        ],
        rigs=rigs,
    )


def _on_road(rig: Rig, target: Release | None, versions: dict[str, str]) -> RigOnRoad:
    comparison = comparison_of(rig)
    state = state_of(comparison, target.digest if target else None, rig.reported or rig.joined, timezone.now())
    return RigOnRoad(
        id=rig.pk,
        name=rig.name,
        person=rig.user.name if rig.user else "",
        side=rig.side,
        state=state,
        at=versions.get(comparison.release or "", ""),
        reported=rig.reported,
        joined=rig.joined,
        details=_details(comparison),
    )


def _details(comparison: Comparison) -> list[str]:
    words = {"missing": "is missing", "changed": "was altered", "extra": "is not in the release"}
    said = [f"{difference.path} {words[difference.kind]}" for difference in comparison.strayed]
    said += [f"{difference.path} must be fetched by a person" for difference in comparison.awaited]
    return said + [f"the step {step} is still to be done" for step in comparison.open_steps]


def usable_code(text: str) -> BoardingCode:
    """The boarding code a person typed. Raises Refusal or CodeError with a sentence if it takes nobody anywhere."""
    code = BoardingCode.objects.select_related("pack", "release", "person").filter(code=read_code(text)).first()
    if code is None:
        raise Refusal(404, "code-unknown", "No pack has this boarding code. Please check what was copied.")
    if code.revoked is not None:
        raise Refusal(410, "code-revoked", "This boarding code was revoked. Ask the pack's curator for a new one.")
    if code.expires is not None and code.expires < timezone.now():
        raise Refusal(410, "code-expired", "This boarding code has expired. Ask the pack's curator for a new one.")
    if code.used is not None:
        raise Refusal(410, "code-used", "This personal code was used already. Open the join page for another one.")
    return code


def facts_of_code(code: BoardingCode) -> tuple[Pack, Release | None]:
    """The pack a code leads to and the release a rig would get."""
    return code.pack, code.release or latest(code.pack, code.channel)


def rigs_by_person(user: Any) -> QuerySet[Rig]:
    """The rigs of a person, in all packs."""
    return Rig.objects.filter(user=user, ended=None).select_related("pack", "release")
