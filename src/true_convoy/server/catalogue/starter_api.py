"""Starter collections: packs that staff offer to begin with."""

from typing import Annotated, Any

import msgspec
from django.shortcuts import get_object_or_404
from msgspec import Meta
from rest_framework.request import Request

from true_convoy.core import documents
from true_convoy.core.model import Pack as PackValue

from ..access import Refusal, Who
from ..frame import View, operation
from ..packs.queries import draft, is_at_least, pack_and_role
from . import queries
from .models import Game, Mod, Starter


class StarterInfo(msgspec.Struct, kw_only=True):
    """A starter collection: for which game, what it is, and the names of the mods it begins with."""

    id: int
    game: str
    name: str
    about: str
    mods: list[str]


class StarterList(msgspec.Struct, kw_only=True):
    """The starter collections, by name."""

    starters: list[StarterInfo]


class StarterRequest(msgspec.Struct, kw_only=True):
    """The draft of a pack the caller curates, or a pack document, to be offered as a starter collection."""

    name: Annotated[str, Meta(min_length=1, max_length=200)]
    about: Annotated[str, Meta(max_length=500)] = ""
    pack: str | None = None
    document: dict[str, Any] | None = None


class StartersView(View):
    """Starter collections."""

    @operation(Who.SIGNED_IN, gives=StarterList)
    def get(self, request: Request) -> StarterList:
        """All starter collections, by name."""
        return _starters()

    @operation(Who.STAFF, takes=StarterRequest, gives=StarterList, status=201)
    def post(self, request: Request, body: StarterRequest) -> StarterList:
        """Offers a starter collection; one of the same name is replaced. Mods of shelves are left out of it."""
        if body.pack is not None:
            pack, role = pack_and_role(body.pack, request.user)
            if not is_at_least(role, Who.CURATOR):
                raise Refusal(403, "role", f"Only a curator of {pack.name} may offer its draft to others.")
            value = draft(pack)[1]
        elif body.document is not None:
            value = documents.from_builtins(PackValue, body.document)
        else:
            raise Refusal(400, "nothing", "A starter collection is made of a pack or of a pack document.")
        game = get_object_or_404(Game, slug=value.game)
        named = [entry.mod for entry in value.entries if entry.chosen and entry.enabled]
        there = set(Mod.objects.filter(game=game, slug__in=named, shelf=None).values_list("slug", flat=True))
        if not there:
            raise Refusal(409, "empty", "It has no chosen mod that everybody can find, so nobody could begin with it.")
        entries = tuple(entry for entry in value.entries if entry.mod in there)
        kept = msgspec.structs.replace(value, entries=entries, files=(), accepted=())
        facts = {"about": body.about, "document": documents.to_builtins(kept)}
        Starter.objects.update_or_create(game=game, name=body.name, defaults=facts)
        return _starters()


class StarterView(View):
    """One starter collection."""

    @operation(Who.STAFF, gives=StarterList)
    def delete(self, request: Request, starter: int) -> StarterList:
        """Takes a starter collection back. Packs that began with it stay as they are."""
        get_object_or_404(Starter, pk=starter).delete()
        return _starters()


def _starters() -> StarterList:
    found = []
    for row in Starter.objects.select_related("game").order_by("name"):
        slugs = [entry["mod"] for entry in row.document["entries"] if entry.get("chosen", True)]
        named = queries.names(row.game.slug, slugs)
        about = {"id": row.pk, "game": row.game.slug, "name": row.name, "about": row.about}
        found.append(StarterInfo(**about, mods=[named.get(slug, slug) for slug in slugs]))
    return StarterList(starters=found)
