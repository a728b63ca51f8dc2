"""Shelves: mods of a team's own."""

from typing import Annotated

import msgspec
from django.contrib.auth import get_user_model
from django.http import Http404
from msgspec import Meta
from rest_framework.request import Request

from ..access import Refusal, Who
from ..events import announce
from ..frame import View, operation
from .models import Mod, Shelf
from .search import shelves_of
from .shelves import OwnModRequest, check_reach, on_team, put_on_shelf, shelf_of


class ShelfPerson(msgspec.Struct, kw_only=True):
    """A person who has a part in a shelf."""

    id: int
    name: str


class ShelfMod(msgspec.Struct, kw_only=True):
    """A mod on a shelf. ``reach_open`` is what its team states of its reach and nobody else has checked."""

    slug: str
    game: str
    name: str
    summary: str
    builds: int
    reach_open: str
    may_check_reach: bool


class ShelfInfo(msgspec.Struct, kw_only=True):
    """A shelf; that of a pack is its curators', whoever they are."""

    id: int
    name: str
    pack: str
    people: list[ShelfPerson]
    mods: list[ShelfMod]


class ShelfList(msgspec.Struct, kw_only=True):
    """The shelves the caller has a part in."""

    shelves: list[ShelfInfo]


class ShelfRequest(msgspec.Struct, kw_only=True):
    """A new shelf."""

    name: Annotated[str, Meta(min_length=1, max_length=100)]


class TeamRequest(msgspec.Struct, kw_only=True):
    """A person, by address."""

    email: str


class ShelfModRequest(OwnModRequest, kw_only=True):
    """A mod of one's own, for a game."""

    game: str


class OwnMod(msgspec.Struct, kw_only=True):
    """A mod on a shelf and the build that was added."""

    mod: str
    version: str


def _shelf(request: Request, shelf: int) -> Shelf:
    found = Shelf.objects.select_related("pack").filter(pk=shelf).first()
    if found is None or not on_team(found, request.user):
        raise Http404
    return found


def _info(shelf: Shelf, request: Request) -> ShelfInfo:
    if shelf.pack is not None:
        members = shelf.pack.memberships.filter(role__in=("owner", "curator")).select_related("user")
        people = [member.user for member in members]
    else:
        people = list(shelf.people.all())
    mods = Mod.objects.filter(shelf=shelf).select_related("game").prefetch_related("builds").defer("search")
    return ShelfInfo(
        id=shelf.pk,
        name=shelf.name,
        pack=shelf.pack.slug if shelf.pack else "",
        people=[ShelfPerson(id=user.pk, name=user.name) for user in sorted(people, key=lambda user: user.name)],
        mods=[
            ShelfMod(
                slug=mod.slug,
                game=mod.game.slug,
                name=mod.name,
                summary=mod.summary,
                builds=len(mod.builds.all()),
                reach_open=mod.stated_reach if mod.stated_reach and mod.reach_checked_by_id is None else "",
                may_check_reach=mod.stated_by_id != request.user.pk,
            )
            for mod in mods.order_by("name")
        ],
    )


def _mine(request: Request) -> ShelfList:
    rows = Shelf.objects.select_related("pack").filter(pk__in=shelves_of(request.user)).order_by("name")
    return ShelfList(shelves=[_info(shelf, request) for shelf in rows])


class ShelvesView(View):
    """The caller's shelves."""

    @operation(Who.SIGNED_IN, gives=ShelfList)
    def get(self, request: Request) -> ShelfList:
        """The shelves the caller has a part in, with their mods and people."""
        return _mine(request)

    @operation(Who.SIGNED_IN, takes=ShelfRequest, gives=ShelfInfo, status=201)
    def post(self, request: Request, body: ShelfRequest) -> ShelfInfo:
        """Makes a shelf with the caller on its team."""
        shelf = Shelf.objects.create(name=body.name.strip() or "Shelf")
        shelf.people.add(request.user)
        return _info(shelf, request)


class ShelfPeopleView(View):
    """The team of a shelf."""

    @operation(Who.SIGNED_IN, takes=TeamRequest, gives=ShelfInfo)
    def put(self, request: Request, shelf: int, body: TeamRequest) -> ShelfInfo:
        """Takes somebody onto the team."""
        found = _team(request, shelf)
        user = get_user_model().objects.filter(email=body.email.strip().lower()).first()
        if user is None:
            raise Refusal(
                404, "nobody", f"Nobody has an account with the address {body.email}. They must sign up first."
            )
        found.people.add(user)
        return _info(found, request)


class ShelfPersonView(View):
    """One person of a shelf's team."""

    @operation(Who.SIGNED_IN, gives=ShelfList)
    def delete(self, request: Request, shelf: int, person: int) -> ShelfList:
        """Takes somebody off the team; the last stays."""
        found = _team(request, shelf)
        if found.people.count() == 1:
            raise Refusal(409, "last", "A shelf needs somebody. Take another person onto it first.")
        found.people.remove(person)
        return _mine(request)


def _team(request: Request, shelf: int) -> Shelf:
    found = _shelf(request, shelf)
    if found.pack is not None:
        raise Refusal(409, "pack", "The team of this shelf are the curators of its pack. Change them at Roll out.")
    return found


class ShelfModsView(View):
    """Mods on a shelf."""

    @operation(Who.SIGNED_IN, takes=ShelfModRequest, gives=OwnMod, status=201)
    def post(self, request: Request, shelf: int, body: ShelfModRequest) -> OwnMod:
        """Puts a mod onto a shelf, or a further build of one."""
        row, version = put_on_shelf(_shelf(request, shelf), body.game, request.user, body)
        return OwnMod(mod=row.slug, version=version)


class PackModsView(View):
    """Mods that a pack's curators bring themselves."""

    @operation(Who.CURATOR, takes=OwnModRequest, gives=OwnMod, status=201)
    def post(self, request: Request, body: OwnModRequest) -> OwnMod:
        """Puts a mod onto the pack's shelf, or a further build of one; adding it to the draft is another step."""
        row, version = put_on_shelf(shelf_of(request.pack), request.pack.game, request.user, body)
        announce("catalogue", request.pack.slug)
        return OwnMod(mod=row.slug, version=version)


class ReachView(View):
    """Checking what a team states of a mod's reach."""

    @operation(Who.SIGNED_IN, gives=OwnMod)
    def post(self, request: Request, game: str, mod: str) -> OwnMod:
        """Confirms the stated reach; only somebody else of the team may."""
        row = Mod.objects.select_related("shelf", "shelf__pack").filter(game__slug=game, slug=mod).first()
        if row is None:
            raise Http404
        return OwnMod(mod=check_reach(row, request.user).slug, version="")
