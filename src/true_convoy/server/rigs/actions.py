"""Boarding, reporting and signing off."""

import secrets
from datetime import timedelta
from typing import Any

import msgspec
from django.db import transaction
from django.utils import timezone

from true_convoy.core import documents
from true_convoy.core.codes import make_code
from true_convoy.core.model import Inventory
from true_convoy.core.state import compare_inventory

from ..access import Refusal, token_hash
from ..events import announce
from ..packs.models import Membership, Pack
from ..releases.models import Release
from ..releases.queries import by_digest
from .models import BoardingCode, Rig
from .queries import usable_code

PERSONAL_CODE_LASTS = timedelta(days=2)


@transaction.atomic
def issue_code(
    pack: Pack, by: Any, *, channel: str = "steady", release: Release | None = None, days: int | None = None
) -> BoardingCode:
    """A new boarding code for a pack, valid for some days or until it is revoked."""
    expires = timezone.now() + timedelta(days=days) if days else None
    code = BoardingCode.objects.create(
        pack=pack, code=_free_code(), channel=channel, release=release, issued_by=by, expires=expires
    )
    announce("codes", pack.slug)
    return code


@transaction.atomic
def issue_personal_code(group: BoardingCode, person: Any) -> BoardingCode:
    """Puts a person on the roster and gives them a code of their own, so that their rig is known as theirs."""
    Membership.objects.get_or_create(pack=group.pack, user=person, defaults={"role": Membership.Role.MEMBER})
    code = BoardingCode.objects.create(
        pack=group.pack,
        code=_free_code(),
        channel=group.channel,
        release=group.release,
        person=person,
        issued_by=person,
        expires=timezone.now() + PERSONAL_CODE_LASTS,
    )
    announce("roster", group.pack.slug)
    announce("packs", user=person.pk)
    return code


def _free_code() -> str:
    while True:
        code = make_code(secrets.choice)
        if not BoardingCode.objects.filter(code=code).exists():
            return code


@transaction.atomic
def revoke_code(pack: Pack, code: str) -> None:
    """Makes a code useless from now on; rigs that boarded with it stay."""
    found = pack.codes.filter(code=code).first()
    if found is None:
        raise Refusal(404, "code-unknown", "This pack has no such boarding code.")
    if found.revoked is None:
        found.revoked = timezone.now()
        found.save(update_fields=["revoked"])
    announce("codes", pack.slug)


@transaction.atomic
def board(text: str, *, name: str, side: str) -> tuple[Rig, str]:
    """A new rig for a boarding code, and its token, which is shown this once."""
    code = usable_code(text)
    if code.person is not None:
        BoardingCode.objects.filter(pk=code.pk).update(used=timezone.now())
    token = secrets.token_urlsafe(32)
    rig = Rig.objects.create(
        pack=code.pack,
        user=code.person,
        name=name.strip()[:80] or "a rig",
        side=side,
        channel=code.channel,
        release=code.release,
        token_hash=token_hash(token),
    )
    announce("rigs", rig.pack.slug)
    return rig, token


@transaction.atomic
def report(rig: Rig, raw: Any) -> None:
    """Takes in a rig's inventory and compares it with the release it says it is on. Raises DocumentError."""
    inventory = documents.from_builtins(Inventory, raw)
    known = by_digest(inventory.release)
    rig.inventory = documents.to_builtins(inventory)
    rig.comparison = msgspec.to_builtins(compare_inventory(inventory, known))
    rig.reported = timezone.now()
    rig.save(update_fields=["inventory", "comparison", "reported"])
    announce("rigs", rig.pack.slug)


@transaction.atomic
def sign_off_person(pack: Pack, person: Any) -> None:
    """Ends all rigs of a person that follow a pack."""
    for rig in pack.rigs.filter(user=person, ended=None):
        sign_off(rig)


@transaction.atomic
def sign_off(rig: Rig) -> None:
    """Ends a rig: its token is worth nothing from now on."""
    Rig.objects.filter(pk=rig.pk, ended=None).update(ended=timezone.now())
    announce("rigs", rig.pack.slug)
