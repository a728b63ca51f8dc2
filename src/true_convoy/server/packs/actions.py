"""Changing packs and drafts; each function is one transaction."""

import re
import secrets
import unicodedata
from typing import Any

from django.db import transaction
from msgspec.structs import replace

from true_convoy.core import documents
from true_convoy.core.edits import Edit, apply, clashing, edit_from, edit_to, in_words, touches
from true_convoy.core.model import Pack as PackValue

from ..access import Refusal
from ..catalogue.queries import game_value, names
from ..events import announce
from .models import Membership, Pack, Revision
from .queries import head, value_of

KEEP_VALUE_EVERY = 20


def slug_for(name: str) -> str:
    """A free slug made of a name."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    base = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:60] or "pack"
    slug = base
    while Pack.objects.filter(slug=slug).exists():
        slug = f"{base}-{secrets.token_hex(2)}"
    return slug


@transaction.atomic
def create_pack(owner: Any, value: PackValue) -> Pack:
    """A new pack with its first revision; the slug is made free if it is taken."""
    value = replace(value, slug=slug_for(value.slug or value.name))
    pack = Pack.objects.create(slug=value.slug, name=value.name, game=value.game)
    Membership.objects.create(pack=pack, user=owner, role=Membership.Role.OWNER)
    Revision.objects.create(
        pack=pack,
        number=1,
        words="began the draft",
        value=documents.to_builtins(value),
        same_as=1,
        made_by=owner,
    )
    announce("packs", user=owner.pk)
    return pack


def _locked(pack: Pack) -> Revision:
    """The newest revision, with the pack locked until the transaction ends."""
    Pack.objects.select_for_update().get(pk=pack.pk)
    return head(pack)


@transaction.atomic
def make_edit(pack: Pack, by: Any, base: int, edit: Edit) -> Revision:
    """Applies an edit made on revision ``base`` as the next revision.

    Edits made meanwhile are merged if they touch other things. Raises Refusal, with both sides, if they do not.
    """
    newest = _locked(pack)
    value = value_of(pack, newest)
    if base != newest.number:
        _refuse_clash(pack, base, newest, edit, in_words(edit, names_in(value.game, edit)))
    after = apply(value, edit)
    words = in_words(edit, names_in(value.game, edit))
    number = newest.number + 1
    depth = newest.number % KEEP_VALUE_EVERY == 0 or newest.same_as != newest.number
    made = Revision.objects.create(
        pack=pack,
        number=number,
        base=base,
        edit=edit_to(edit),
        words=words,
        value=documents.to_builtins(after) if depth else None,
        same_as=number,
        before=newest.same_as,
        made_by=by,
    )
    _describe(pack, after)
    announce("draft", pack.slug, revision=number)
    return made


def names_in(game: str, edit: Edit) -> dict[str, str]:
    """What people call the mods and loaders an edit is about."""
    about = touches(edit)
    loaders = {one.slug: one.name for one in game_value(game).loaders} if "ground" in about else {}
    return loaders | names(game, [one.removeprefix("entry:") for one in about])


def _refuse_clash(pack: Pack, base: int, newest: Revision, edit: Edit, words: str) -> None:
    later = list(pack.revisions.filter(number__gt=base, number__lte=newest.number).select_related("made_by"))
    if base > newest.number or len(later) > 500:
        raise Refusal(409, "too-old", "The draft has moved on a long way. Reload it and make the change again.")
    for other in later:
        # An undo or redo may have changed anything.
        both = clashing(edit, [edit_from(other.edit)]) if other.edit else {"draft"}
        if both:
            who = other.made_by.name if other.made_by else "Somebody"
            raise Refusal(
                409,
                "clash",
                f"{who} {other.words} while you {words}. Theirs stands; yours was not made. "
                "Look at it and make yours again if you still want it.",
                theirs=other.words,
                yours=words,
                by=who,
                about=sorted(both),
            )


def _describe(pack: Pack, value: PackValue) -> None:
    if pack.name != value.name:
        pack.name = value.name
        pack.save(update_fields=["name"])
        announce("packs", pack.slug)


@transaction.atomic
def undo(pack: Pack, by: Any, base: int) -> Revision:
    """Goes back to the value before the latest edit, as a new revision."""
    newest = _locked(pack)
    _on_newest(newest, base)
    now = pack.revisions.get(number=newest.same_as)
    if now.before is None:
        raise Refusal(409, "nothing", "There is nothing to undo.")
    return _go_to(pack, by, newest, now.before, [now.number, *newest.undone], f"undid: {now.words}")


@transaction.atomic
def redo(pack: Pack, by: Any, base: int) -> Revision:
    """Brings back what was undone last, as a new revision."""
    newest = _locked(pack)
    _on_newest(newest, base)
    if not newest.undone:
        raise Refusal(409, "nothing", "There is nothing to redo.")
    target, *rest = newest.undone
    words = pack.revisions.get(number=target).words
    return _go_to(pack, by, newest, target, rest, f"did again: {words}")


@transaction.atomic
def go_back(pack: Pack, by: Any, base: int, to: Revision) -> Revision:
    """Makes the draft what it was at a revision, as a new revision that can be undone like any other."""
    newest = _locked(pack)
    if base != newest.number:
        who = newest.made_by.name if newest.made_by else "somebody"
        raise Refusal(409, "moved", f"The draft has changed meanwhile: {who} {newest.words}. It was left as it is.")
    value = value_of(pack, to)
    made = Revision.objects.create(
        pack=pack,
        number=newest.number + 1,
        base=newest.number,
        words=f"went back to revision {to.number} ({to.words})"[:2000],
        value=documents.to_builtins(value),
        same_as=newest.number + 1,
        before=newest.same_as,
        made_by=by,
    )
    _describe(pack, value)
    announce("draft", pack.slug, revision=made.number)
    return made


def _on_newest(newest: Revision, base: int) -> None:
    if base != newest.number:
        who = newest.made_by.name if newest.made_by else "somebody"
        raise Refusal(409, "moved", f"The draft has changed meanwhile: {who} {newest.words}. Nothing was undone.")


def _go_to(pack: Pack, by: Any, newest: Revision, target: int, undone: list[int], words: str) -> Revision:
    made = Revision.objects.create(
        pack=pack,
        number=newest.number + 1,
        base=newest.number,
        words=words[:2000],
        same_as=target,
        before=None,
        undone=undone,
        made_by=by,
    )
    _describe(pack, value_of(pack, made))
    announce("draft", pack.slug, revision=made.number)
    return made


@transaction.atomic
def set_role(pack: Pack, user: Any, role: Membership.Role) -> Membership:
    """Gives a person a role. A pack always keeps an owner."""
    _keep_an_owner(pack, user, role)
    membership, _ = Membership.objects.update_or_create(pack=pack, user=user, defaults={"role": role})
    announce("roster", pack.slug)
    announce("packs", user=user.pk)
    return membership


@transaction.atomic
def remove_member(pack: Pack, user: Any) -> None:
    """Takes a person off the roster. Their rigs are another matter (see rigs.actions.sign_off_person)."""
    _keep_an_owner(pack, user, None)
    Membership.objects.filter(pack=pack, user=user).delete()
    announce("roster", pack.slug)
    announce("packs", user=user.pk)


def _keep_an_owner(pack: Pack, user: Any, role: Membership.Role | None) -> None:
    Pack.objects.select_for_update().get(pk=pack.pk)
    owners = set(pack.memberships.filter(role=Membership.Role.OWNER).values_list("user", flat=True))
    if owners == {user.pk} and role != Membership.Role.OWNER:
        raise Refusal(409, "last-owner", "A pack needs an owner. Make somebody else the owner first.")
