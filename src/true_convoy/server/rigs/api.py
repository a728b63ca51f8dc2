"""Boarding codes, rigs and their reports."""

from datetime import datetime
from typing import ClassVar

import msgspec
from django.conf import settings
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from rest_framework.request import Request

from true_convoy.core.model import Side

from ..access import Refusal, Who
from ..catalogue.queries import game_value
from ..frame import CodeThrottle, View, operation
from ..packs.models import Membership
from ..packs.queries import is_at_least
from ..releases.queries import value_of
from . import actions
from .models import BoardingCode, Rig
from .queries import Road, facts_of_code, rigs_by_person, road, target_of, usable_code


class CodeRow(msgspec.Struct, kw_only=True):
    """A boarding code a curator handed out. ``command`` is what a member pastes."""

    code: str
    channel: str
    release: str
    by: str
    created: datetime
    expires: datetime | None
    revoked: datetime | None
    page: str
    command: str


class CodeList(msgspec.Struct, kw_only=True):
    """The group codes of a pack, newest first."""

    codes: list[CodeRow]


class CodeRequest(msgspec.Struct, kw_only=True):
    """For a channel, or for one exact release; ``days`` until it expires, or None."""

    channel: str = "steady"
    release: str | None = None
    days: int | None = None


class Boarding(msgspec.Struct, kw_only=True):
    """What a boarding code leads to. Sizes in bytes. ``command`` boards without an account; ``install`` is for
    machines that do not have the command yet (empty where this server does not hand it out)."""

    code: str
    pack: str
    game: str
    game_version: str
    loader: str
    version: str
    channel: str
    entries: int
    size: int
    by_hand: int
    memory_mib: int
    runtime: int | None
    notes: str
    command: str
    install: str
    aboard: bool


class PersonalCode(msgspec.Struct, kw_only=True):
    """A code for the caller alone, and the one command to paste."""

    code: str
    command: str


class BoardRequest(msgspec.Struct, kw_only=True):
    """A rig that comes aboard."""

    name: str
    side: Side = Side.CLIENT


class Aboard(msgspec.Struct, kw_only=True):
    """A rig's token, shown this once, and the pack it follows."""

    token: str
    rig: int
    pack: str
    name: str
    version: str


class RigInfo(msgspec.Struct, kw_only=True):
    """A rig to itself: what it follows and what it should be on."""

    rig: int
    name: str
    pack: str
    pack_name: str
    side: str
    target: str | None
    version: str | None


class Done(msgspec.Struct, kw_only=True):
    """It was done."""

    done: bool = True


class MyRig(msgspec.Struct, kw_only=True):
    """One of the caller's rigs with the road of its pack cut down to it."""

    id: int
    pack_name: str
    road: Road


class MyRigs(msgspec.Struct, kw_only=True):
    """The caller's rigs."""

    rigs: list[MyRig]


def address(request: Request) -> str:
    """Where people reach this server."""
    return settings.PUBLIC_ADDRESS or f"{request.scheme}://{request.get_host()}"


def _command(request: Request, code: str) -> str:
    return f"convoy join {address(request)}/join/{code}"


def _install(request: Request) -> str:
    wheel = next(iter(sorted(settings.AGENT_DIST.glob("*.whl"))), None)
    return f"uv tool install {address(request)}/agent/{wheel.name}" if wheel else ""


def _code_row(request: Request, code: BoardingCode) -> CodeRow:
    return CodeRow(
        code=code.code,
        channel=code.channel,
        release=code.release.version if code.release else "",
        by=code.issued_by.name if code.issued_by else "",
        created=code.created,
        expires=code.expires,
        revoked=code.revoked,
        page=f"{address(request)}/join/{code.code}",
        command=_command(request, code.code),
    )


class CodesView(View):
    """The boarding codes of a pack."""

    @operation(Who.CURATOR, gives=CodeList)
    def get(self, request: Request) -> CodeList:
        """The group codes, newest first."""
        rows = request.pack.codes.filter(person=None).select_related("release", "issued_by").order_by("-pk")
        return CodeList(codes=[_code_row(request, code) for code in rows])

    @operation(Who.CURATOR, takes=CodeRequest, gives=CodeRow, status=201)
    def post(self, request: Request, body: CodeRequest) -> CodeRow:
        """Issues a boarding code."""
        release = request.pack.releases.filter(version=body.release).first() if body.release else None
        if body.release and release is None:
            raise Refusal(404, "no-release", f"There is no release {body.release}.")
        if body.channel not in ("steady", "trial"):
            raise Refusal(400, "channel", "A code leads to the steady or the trial channel.")
        if body.days is not None and not 1 <= body.days <= 3650:
            raise Refusal(400, "days", "A code lasts between 1 and 3,650 days.")
        code = actions.issue_code(request.pack, request.user, channel=body.channel, release=release, days=body.days)
        return _code_row(request, code)


class CodeView(View):
    """One boarding code of a pack."""

    @operation(Who.CURATOR, gives=Done)
    def delete(self, request: Request, code: str) -> Done:
        """Revokes a boarding code; rigs that boarded with it stay."""
        actions.revoke_code(request.pack, code)
        return Done()


class RoadView(View):
    """The road of a pack."""

    @operation(Who.MEMBER, gives=Road)
    def get(self, request: Request) -> Road:
        """Releases as milestones, and every rig with its state."""
        return road(request.pack)


class PackRigView(View):
    """One rig of a pack."""

    @operation(Who.MEMBER, gives=Done)
    def delete(self, request: Request, rig: int) -> Done:
        """Signs a rig off. Curators may sign off any rig, members their own."""
        found = get_object_or_404(Rig, pack=request.pack, pk=rig, ended=None)
        if found.user_id != request.user.pk and not is_at_least(request.role, Who.CURATOR):
            raise Refusal(403, "role", "Only a curator may sign off the rigs of others.")
        actions.sign_off(found)
        return Done()


class BoardingView(View):
    """What a boarding code leads to."""

    throttle_classes: ClassVar[list[type]] = [CodeThrottle]

    @operation(Who.ANYONE, gives=Boarding)
    def get(self, request: Request, code: str) -> Boarding:
        """The pack behind a code, for the join page."""
        found = usable_code(code)
        pack, row = facts_of_code(found)
        release = value_of(row) if row else None
        game = game_value(pack.game)
        entries = [entry for entry in release.entries if entry.sides.on(Side.CLIENT)] if release else []
        loader = release.loader if release else None
        name = next((option.name for option in game.loaders if loader and option.slug == loader.slug), "")
        return Boarding(
            code=found.code,
            pack=pack.name,
            game=game.name,
            game_version=release.game_version if release else "",
            loader=f"{name} {loader.version or ''}".strip() if loader else "",
            version=row.version if row else "",
            channel=found.channel,
            entries=len(entries),
            size=sum(entry.file.size for entry in entries),
            by_hand=sum(entry.file.url is None for entry in entries),
            memory_mib=game.memory.base_mib + game.memory.per_mod_mib * len(entries),
            runtime=release.runtime.runtime_major if release else None,
            notes=row.notes if row else "",
            command=_command(request, found.code),
            install=_install(request),
            aboard=request.user.is_authenticated
            and Membership.objects.filter(pack=pack, user=request.user.pk).exists(),
        )

    @operation(Who.ANYONE, takes=BoardRequest, gives=Aboard, status=201)
    def post(self, request: Request, code: str, body: BoardRequest) -> Aboard:
        """Brings a rig aboard; called by the convoy command."""
        rig, token = actions.board(code, name=body.name, side=body.side)
        target = target_of(rig)
        version = target.version if target else ""
        return Aboard(token=token, rig=rig.pk, pack=rig.pack.slug, name=rig.pack.name, version=version)


class PersonalCodeView(View):
    """A code for the caller alone."""

    throttle_classes: ClassVar[list[type]] = [CodeThrottle]

    @operation(Who.SIGNED_IN, gives=PersonalCode, status=201)
    def post(self, request: Request, code: str) -> PersonalCode:
        """Puts the caller on the roster and gives them a code for a rig of their own."""
        made = actions.issue_personal_code(usable_code(code), request.user)
        return PersonalCode(code=made.code, command=_command(request, made.code))


class RigView(View):
    """A rig to itself."""

    @operation(Who.RIG, gives=RigInfo)
    def get(self, request: Request) -> RigInfo:
        """What the rig follows."""
        rig: Rig = request.auth
        target = target_of(rig)
        return RigInfo(
            rig=rig.pk,
            name=rig.name,
            pack=rig.pack.slug,
            pack_name=rig.pack.name,
            side=rig.side,
            target=target.digest if target else None,
            version=target.version if target else None,
        )

    @operation(Who.RIG, gives=Done)
    def delete(self, request: Request) -> Done:
        """The rig leaves."""
        actions.sign_off(request.auth)
        return Done()


class RigReleaseView(View):
    """The release a rig should be on."""

    @operation(Who.RIG, gives=None)
    def get(self, request: Request) -> HttpResponse:
        """The release document; 304 if the rig has it already (ETag is the digest)."""
        target = target_of(request.auth)
        if target is None:
            raise Refusal(404, "no-release", "This pack has no release yet. Ask its curator when there will be one.")
        tag = f'"{target.digest}"'
        if tag in [part.strip() for part in request.headers.get("If-None-Match", "").split(",")]:
            response = HttpResponse(status=304)
        else:
            response = HttpResponse(target.document, content_type="application/json")
        response["ETag"] = tag
        return response


class RigInventoryView(View):
    """What a rig reports."""

    @operation(Who.RIG, takes=dict, gives=Done)
    def put(self, request: Request, body: dict[str, object]) -> Done:
        """Takes in an inventory document."""
        actions.report(request.auth, body)
        return Done()


class MyRigsView(View):
    """The caller's rigs."""

    @operation(Who.SIGNED_IN, gives=MyRigs)
    def get(self, request: Request) -> MyRigs:
        """Each rig of the caller with its pack's road."""
        found = []
        for rig in rigs_by_person(request.user):
            whole = road(rig.pack)
            mine = [one for one in whole.rigs if one.id == rig.pk]
            found.append(MyRig(id=rig.pk, pack_name=rig.pack.name, road=Road(milestones=whole.milestones, rigs=mine)))
        return MyRigs(rigs=found)
