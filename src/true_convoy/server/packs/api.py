"""Packs and their drafts."""

from datetime import datetime
from typing import Annotated, Any, Literal

import msgspec
from django.contrib.auth import get_user_model
from django.db import transaction
from msgspec import Meta
from rest_framework.request import Request

from true_convoy.core.assemble import Totals, totals
from true_convoy.core.compare import Difference
from true_convoy.core.edits import AddEntry, Edit, parts
from true_convoy.core.explain import Impossible
from true_convoy.core.fit import fits, newest_fitting
from true_convoy.core.model import Catalogue, Channel, Entry, Game, Label, LoaderChoice, Sides, VersionText
from true_convoy.core.model import Mod as ModValue
from true_convoy.core.model import Pack as PackValue
from true_convoy.core.order import load_order
from true_convoy.core.resolve import resolve

from ..access import Refusal, Who
from ..catalogue import queries as catalogue
from ..catalogue.search import refuse_hidden
from ..frame import View, operation
from ..releases.queries import latest, since_last
from ..releases.queries import value_of as release_value_of
from ..rigs.actions import sign_off_person
from ..rigs.queries import Road, road
from . import actions, starts
from .models import Membership, Pack, Revision
from .queries import draft, packs_of


class PackRow(msgspec.Struct, kw_only=True):
    """A pack in the list, with its road. ``emblem`` is the text its emblem is made of."""

    slug: str
    name: str
    label: str
    emblem: str
    picture: str | None
    game: str
    game_name: str
    role: str
    ground: str
    entries: int
    release: str
    road: Road


class PackList(msgspec.Struct, kw_only=True):
    """The caller's packs, by name."""

    packs: list[PackRow]


class StartRequest(msgspec.Struct, kw_only=True):
    """What a pack begins with: at most one of these, or nothing.

    ``starter`` is the number of a starter collection, ``document`` a pack document, ``text`` a list of any form,
    ``inventory`` an inventory document of a folder, ``pack`` another pack, of which ``parts`` come along.
    """

    starter: int | None = None
    document: dict[str, Any] | None = None
    text: str | None = None
    inventory: dict[str, Any] | None = None
    pack: str | None = None
    parts: list[Literal["settings", "files", "steps"]] = []


class NewPackRequest(msgspec.Struct, kw_only=True):
    """What a new pack stands on and begins with."""

    name: Label
    game: str
    game_version: VersionText
    loader: LoaderChoice | None = None
    purpose: str = "group"
    label: Annotated[str, Meta(max_length=60)] = ""
    emblem: Annotated[str, Meta(max_length=100)] = ""
    channel_floor: Channel = Channel.STABLE
    start: StartRequest = msgspec.field(default_factory=StartRequest)


class Created(msgspec.Struct, kw_only=True):
    """Where what was made is, and what could not be taken over into it."""

    slug: str
    notes: list[str]


class EntryRow(msgspec.Struct, kw_only=True):
    """One line of the waybill. ``newest`` is the newest fitting build; sizes in bytes; ``fits`` with its reason."""

    mod: str
    name: str
    summary: str
    version: str | None
    newest: str
    enabled: bool
    chosen: bool
    optional: bool
    by_default: bool
    one_of: str
    pin: str | None
    note: str
    keep: list[str]
    drop: list[str]
    order: int | None
    label: str
    sides: Sides
    own_sides: bool
    reach: str
    save_effect: str
    kind: str
    kind_name: str
    categories: list[str]
    authors: list[str]
    licence: str | None
    size: int
    sha256: str
    by_hand: bool
    fits: bool
    reason: str
    required_by: list[str]
    needs: list[str]


class Draft(msgspec.Struct, kw_only=True):
    """A draft as the waybill shows it. ``problems`` says why it does not fit together, if it does not.

    ``ordered``: the game goes by the load order, which is then ``load_order``.
    """

    slug: str
    name: str
    role: str
    game: str
    game_name: str
    game_version: str
    loader: LoaderChoice | None
    loader_name: str
    channel_floor: str
    purpose: str
    label: str
    emblem: str
    picture: str | None
    fair: bool
    ordered: bool
    load_order: list[str]
    revision: int
    last_words: str
    last_by: str
    undo: str | None
    redo: str | None
    entries: list[EntryRow]
    totals: Totals
    problems: list[str]
    release: str | None
    since: Difference | None


class EditRequest(msgspec.Struct, kw_only=True):
    """An edit, and the revision it was made on."""

    base: int
    edit: Edit


class BaseRequest(msgspec.Struct, kw_only=True):
    """The revision that the caller sees."""

    base: int


class Made(msgspec.Struct, kw_only=True):
    """The revision that came of a change."""

    revision: int
    words: str


class Person(msgspec.Struct, kw_only=True):
    """A person on the roster."""

    id: int
    name: str
    email: str
    role: str
    since: datetime


class Roster(msgspec.Struct, kw_only=True):
    """The people of a pack, owners first."""

    people: list[Person]


class RoleRequest(msgspec.Struct, kw_only=True):
    """A person, by address, and the role to give."""

    email: str
    role: Literal["owner", "curator", "member"]


class PacksView(View):
    """The caller's packs."""

    @operation(Who.SIGNED_IN, gives=PackList)
    def get(self, request: Request) -> PackList:
        """The caller's packs with their roads."""
        roles = dict(Membership.objects.filter(user=request.user).values_list("pack", "role"))
        games = {game.slug: game for game in catalogue.games()}
        return PackList(packs=[_pack_row(pack, roles[pack.pk], games) for pack in packs_of(request.user)])

    @operation(Who.SIGNED_IN, takes=NewPackRequest, gives=Created, status=201)
    def post(self, request: Request, body: NewPackRequest) -> Created:
        """Begins a pack."""
        game = catalogue.game_value(body.game)
        name = body.name.strip()
        if not name:
            raise Refusal(400, "name", "A pack needs a name.")
        ground = PackValue(
            slug=actions.slug_for(name),
            name=name,
            game=body.game,
            game_version=body.game_version,
            loader=body.loader,
            purpose=body.purpose,
            label=body.label.strip(),
            emblem=body.emblem,
            channel_floor=body.channel_floor,
            entries=(),
        )
        start = _start(starts.on_ground(ground, game), body.start, request.user)
        value = starts.on_ground(start.value, catalogue.game_value(start.value.game))
        return Created(slug=actions.create_pack(request.user, value).slug, notes=list(start.notes))


def _start(ground: PackValue, asked: StartRequest, user: Any) -> starts.Start:
    if asked.starter is not None:
        return starts.from_starter(ground, asked.starter)
    if asked.document is not None:
        return starts.from_document(ground, asked.document, user)
    if asked.text is not None:
        return starts.from_text(ground, asked.text, user)
    if asked.inventory is not None:
        return starts.from_inventory(ground, asked.inventory, user)
    if asked.pack is not None:
        return starts.from_pack(ground, asked.pack, user, asked.parts)
    return starts.Start(value=ground)


def _pack_row(pack: Pack, role: str, games: dict[str, Game]) -> PackRow:
    value, last = draft(pack)[1], latest(pack)
    game = games.get(pack.game)
    loaders = {loader.slug: loader.name for loader in game.loaders} if game else {}
    loader = loaders.get(value.loader.slug, value.loader.slug) if value.loader else ""
    return PackRow(
        slug=pack.slug,
        name=pack.name,
        label=value.label,
        emblem=value.emblem or pack.slug,
        picture=value.picture,
        game=pack.game,
        game_name=game.name if game else pack.game,
        role=role,
        ground=f"{value.game_version}" + (f", {loader} {value.loader.version or ''}" if value.loader else ""),
        entries=sum(entry.enabled for entry in value.entries),
        release=last.version if last else "",
        road=road(pack),
    )


class DraftView(View):
    """A pack's draft."""

    @operation(Who.MEMBER, gives=Draft)
    def get(self, request: Request) -> Draft:
        """The draft with all the waybill shows."""
        newest, value = draft(request.pack)
        reached = catalogue.extract(value.game, [entry.mod for entry in value.entries])
        return _draft(request, newest, value, reached)


def _draft(request: Request, newest: Revision, value: PackValue, reached: Catalogue) -> Draft:
    mods, game = reached.by_slug(value.game), reached.games[0]
    resolved = resolve(value, reached)
    release, since = since_last(request.pack, value, reached)
    release_value = release_value_of(release) if release else None
    why = {} if isinstance(resolved, Impossible) else resolved.required_by
    loader = value.loader.slug if value.loader else ""
    needs: dict[str, list[str]] = {}
    for slug, callers in why.items():
        for caller in callers:
            needs.setdefault(caller, []).append(mods[slug].name)
    now = request.pack.revisions.get(number=newest.same_as)
    return Draft(
        slug=request.pack.slug,
        name=value.name,
        role=request.role,
        game=game.slug,
        game_name=game.name,
        game_version=value.game_version,
        loader=value.loader,
        loader_name=next((option.name for option in game.loaders if option.slug == loader), "no loader"),
        channel_floor=value.channel_floor,
        purpose=value.purpose,
        label=value.label,
        emblem=value.emblem or request.pack.slug,
        picture=value.picture,
        fair=value.fair,
        ordered=game.load_order,
        load_order=_load_order(value, mods) if game.load_order else [],
        revision=newest.number,
        last_words=newest.words,
        last_by=newest.made_by.name if newest.made_by else "",
        undo=now.words if now.before is not None else None,
        redo=request.pack.revisions.get(number=newest.undone[0]).words if newest.undone else None,
        entries=[_entry_row(entry, mods, value, why, needs, game) for entry in value.entries],
        totals=totals(value, reached, release_value),
        problems=list(resolved.explanation) if isinstance(resolved, Impossible) else [],
        release=release.version if release else None,
        since=since,
    )


def _load_order(value: PackValue, mods: dict[str, ModValue]) -> list[str]:
    builds = {entry.mod: mods[entry.mod].build(entry.version) for entry in value.entries if entry.mod in mods}
    return list(load_order(value.entries, builds).mods)


def _entry_row(
    entry: Entry,
    mods: dict[str, ModValue],
    pack: PackValue,
    why: dict[str, tuple[str, ...]],
    needs: dict[str, list[str]],
    game: Game,
) -> EntryRow:
    mod = mods.get(entry.mod)
    if mod is None:
        mod = ModValue(slug=entry.mod, game=pack.game, name=entry.mod, builds=())
    build, best = mod.build(entry.version), newest_fitting(mod, pack)
    fit = fits(build, pack, game) if build else None
    return EntryRow(
        mod=entry.mod,
        name=mod.name,
        summary=mod.summary,
        version=entry.version,
        newest=best.version if best else "",
        enabled=entry.enabled,
        chosen=entry.chosen,
        optional=entry.optional,
        by_default=entry.by_default,
        one_of=entry.one_of,
        keep=list(entry.keep),
        drop=list(entry.drop),
        order=entry.order,
        label=entry.label,
        own_sides=entry.sides is not None,
        pin=entry.pin.reason if entry.pin else None,
        note=entry.note,
        sides=entry.sides or mod.sides,
        reach=mod.reach,
        save_effect=mod.save_effect,
        kind=mod.kind,
        kind_name=game.kind(mod.kind).name,
        categories=list(mod.categories),
        authors=list(mod.authors),
        licence=mod.licence,
        size=build.file.size if build and build.file else 0,
        sha256=(build.file.sha256 or "") if build and build.file else "",
        by_hand=build is not None and (build.file is None or build.file.url is None),
        fits=bool(fit) if fit is not None else entry.version is None and best is not None,
        reason=fit.reason if fit is not None else "is not in the catalogue" if not mod.builds else "",
        required_by=[mods[slug].name for slug in why.get(entry.mod, ())],
        needs=needs.get(entry.mod, []),
    )


class EditsView(View):
    """Changing a draft."""

    @operation(Who.CURATOR, takes=EditRequest, gives=Made, status=201)
    def post(self, request: Request, body: EditRequest) -> Made:
        """Makes an edit; merged with edits made meanwhile if they touch other things."""
        added = [edit.mod for edit in parts(body.edit) if isinstance(edit, AddEntry)]
        if added:
            refuse_hidden(request.user, request.pack.game, added)
        return made_info(actions.make_edit(request.pack, request.user, body.base, body.edit))


class UndoView(View):
    """Taking the latest edit back."""

    @operation(Who.CURATOR, takes=BaseRequest, gives=Made, status=201)
    def post(self, request: Request, body: BaseRequest) -> Made:
        """Undoes the latest edit."""
        return made_info(actions.undo(request.pack, request.user, body.base))


class RedoView(View):
    """Bringing back what was undone."""

    @operation(Who.CURATOR, takes=BaseRequest, gives=Made, status=201)
    def post(self, request: Request, body: BaseRequest) -> Made:
        """Brings back what was undone last."""
        return made_info(actions.redo(request.pack, request.user, body.base))


def made_info(revision: Revision) -> Made:
    """A revision as the answer to a change."""
    return Made(revision=revision.number, words=revision.words)


class RosterView(View):
    """The people of a pack."""

    @operation(Who.MEMBER, gives=Roster)
    def get(self, request: Request) -> Roster:
        """Who is on the roster. Addresses are shown to curators only."""
        return _roster(request)

    @operation(Who.OWNER, takes=RoleRequest, gives=Person)
    def put(self, request: Request, body: RoleRequest) -> Person:
        """Gives a person a role in the pack."""
        return _person(actions.set_role(request.pack, _account(body.email), Membership.Role(body.role)), True)


class RosterPersonView(View):
    """One person of a pack."""

    @operation(Who.OWNER, gives=Roster)
    def delete(self, request: Request, person: int) -> Roster:
        """Takes a person off the roster and signs their rigs off."""
        membership = request.pack.memberships.select_related("user").filter(user=person).first()
        if membership is None:
            raise Refusal(404, "nobody", "This person is not on the roster.")
        with transaction.atomic():
            actions.remove_member(request.pack, membership.user)
            sign_off_person(request.pack, membership.user)
        return _roster(request)


def _roster(request: Request) -> Roster:
    rank = {"owner": 0, "curator": 1, "member": 2}
    rows = sorted(request.pack.memberships.select_related("user"), key=lambda m: (rank[m.role], m.user.name))
    curator = request.role != Membership.Role.MEMBER
    return Roster(people=[_person(membership, curator) for membership in rows])


def _person(membership: Membership, with_address: bool) -> Person:
    user = membership.user
    email = user.email if with_address else ""
    return Person(id=user.pk, name=user.name, email=email, role=membership.role, since=membership.since)


def _account(email: str) -> Any:
    user = get_user_model().objects.filter(email=email.strip().lower()).first()
    if user is None:
        raise Refusal(404, "nobody", f"Nobody has an account with the address {email}. They must sign up first.")
    return user
