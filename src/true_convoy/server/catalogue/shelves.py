"""Mods of a team's own: making them from uploads, from recorded files and from pages, and who may see them."""

from typing import Annotated, Any, Literal

import msgspec
from django.db import transaction
from django.utils import timezone
from msgspec import Meta

from true_convoy.core.intake import slug_of
from true_convoy.core.model import (
    Build as BuildValue,
)
from true_convoy.core.model import (
    BuildFile,
    Digest,
    Game,
    Label,
    Mod,
    Reach,
    Redistribution,
    SaveEffect,
    Sides,
    Size,
    VersionText,
)
from true_convoy.core.paths import safe_path
from true_convoy.core.places import rewrapped

from ..access import Refusal
from ..events import announce
from ..files.actions import contents_of, discard, keep
from ..files.models import Upload
from ..packs.models import Pack
from .actions import take_in_mod
from .grounds import every_ground
from .models import Game as GameRow
from .models import Mod as ModRow
from .models import Shelf
from .queries import game_value, with_builds

Text = Annotated[str, Meta(max_length=20_000)]
Folder = Annotated[str, Meta(max_length=300)]


class OwnModRequest(msgspec.Struct, kw_only=True):
    """A mod of one's own with one build, or a further build of one.

    The file is an ``upload``, or only recorded by ``file_name``, ``size`` and ``sha256``; of one that may not be passed
    on, and of one that is only recorded, the file is not kept: members fetch it from ``page`` as ``instructions`` say.
    """

    name: Label
    version: VersionText
    mod: str = ""
    upload: str = ""
    file_name: Annotated[str, Meta(max_length=255)] = ""
    size: Size = 0
    sha256: Digest | None = None
    kind: str = "mod"
    summary: Annotated[str, Meta(max_length=300)] = ""
    description: Text = ""
    categories: Annotated[list[Annotated[str, Meta(min_length=1, max_length=60)]], Meta(max_length=12)] = []
    authors: Annotated[list[Annotated[str, Meta(min_length=1, max_length=100)]], Meta(max_length=20)] = []
    licence: Annotated[str, Meta(max_length=100)] = ""
    redistribution: Redistribution = Redistribution.LINK_ONLY
    sides: Sides = Sides()
    reach: Literal["own", "shared", "progress"] = "shared"
    save_effect: SaveEffect = SaveEffect.NONE
    page: Annotated[str, Meta(max_length=1000)] = ""
    instructions: Annotated[str, Meta(max_length=2000)] = ""
    game_versions: Annotated[list[str], Meta(max_length=200)] = []
    loaders: Annotated[list[str], Meta(max_length=20)] = []
    unwrap: Folder = ""
    wrap: Folder = ""
    changelog: Text = ""


def shelf_of(pack: Pack) -> Shelf:
    """The shelf of a pack's curators, made when it is first needed."""
    shelf, _ = Shelf.objects.get_or_create(pack=pack, defaults={"name": f"Own mods of {pack.name}"[:100]})
    return shelf


def on_team(shelf: Shelf, user: Any) -> bool:
    """Whether a person has a part in a shelf."""
    if shelf.pack_id is not None and shelf.pack is not None:
        return shelf.pack.memberships.filter(user=user, role__in=("owner", "curator")).exists()
    return shelf.people.filter(pk=user.pk).exists()


@transaction.atomic
def put_on_shelf(shelf: Shelf, game: str, by: Any, asked: OwnModRequest) -> tuple[ModRow, str]:
    """Makes a mod with a build on a shelf, or adds a build to one there; the mod and the version. Raises Refusal."""
    definition = game_value(game)
    row = GameRow.objects.get(slug=game)
    upload = _upload(asked, by, game)
    build = _build(asked, definition, upload)
    there = ModRow.objects.filter(game=row, slug=asked.mod, shelf=shelf).first() if asked.mod else None
    if asked.mod and there is None:
        raise Refusal(404, "no-mod", "This mod is not on the shelf any more.")
    slug = there.slug if there is not None else _free_slug(row, asked.name)
    before = with_builds(game, [slug]).get(slug)
    builds = before.builds if before is not None else ()
    if any(one.version == asked.version for one in builds):
        raise Refusal(
            409, "version", f"{asked.name} has a build {asked.version} already. Give this one another version."
        )
    if upload is not None and asked.redistribution is Redistribution.ALLOWED:
        kept = msgspec.structs.replace(build.file, url=keep(upload)) if build.file else None
        build = msgspec.structs.replace(build, file=kept)
    stated = there.stated_reach if there is not None else asked.reach
    checked = there is not None and there.reach_checked_by_id is not None
    # A reach that nobody else has checked does not show: until then the mod counts as felt by everybody.
    reach = Reach(stated) if checked else Reach.SHARED
    value = Mod(
        slug=slug,
        game=game,
        name=asked.name,
        kind=_kind(definition, asked.kind),
        summary=asked.summary,
        description=asked.description,
        authors=tuple(asked.authors),
        categories=tuple(asked.categories),
        licence=asked.licence.strip() or None,
        redistribution=asked.redistribution,
        sides=asked.sides,
        reach=reach,
        save_effect=asked.save_effect,
        page=_page(asked, build),
        instructions=asked.instructions,
        builds=(*builds, build),
    )
    more: dict[str, Any] = {"shelf": shelf}
    if there is None:
        more |= {"stated_reach": "" if asked.reach == Reach.SHARED else asked.reach, "stated_by": by}
    made = take_in_mod(value, row, definition, every_ground(definition), **more)
    if upload is not None:
        discard(upload)
    announce("catalogue")
    return made, asked.version


def _upload(asked: OwnModRequest, by: Any, game: str) -> Upload | None:
    if not asked.upload:
        return None
    found = next((u for u in Upload.objects.filter(owner=by, game=game) if str(u.pk) == asked.upload), None)
    if found is None or found.state != Upload.State.JUDGED:
        raise Refusal(409, "upload", "This file has not arrived, or was refused. Send it again.")
    return found


def _build(asked: OwnModRequest, game: Game, upload: Upload | None) -> BuildValue:
    if upload is not None:
        file = BuildFile(name=upload.name, size=upload.size, sha256=upload.sha256, url=None)
    elif asked.file_name:
        file = BuildFile(name=safe_path(asked.file_name.rpartition("/")[2]), size=asked.size, sha256=asked.sha256)
    else:
        raise Refusal(400, "file", "A build needs a file: send one, or say its name, size and checksum.")
    build = BuildValue(
        version=asked.version,
        published=timezone.now().replace(microsecond=0),
        game_versions=_versions(asked.game_versions, game),
        loaders=tuple(slug for slug in asked.loaders if game.loader(slug)),
        file=file,
        contents=contents_of(upload) if upload is not None else (),
        unwrap=_folder(asked.unwrap),
        wrap=_folder(asked.wrap),
        changelog=asked.changelog,
    )
    if build.contents and not rewrapped(build):
        raise Refusal(400, "unwrap", f'Nothing of the archive lies in "{asked.unwrap}". Nothing was added.')
    return build


def _folder(text: str) -> str:
    """A folder with its closing slash. Raises UnsafePath."""
    text = text.strip().strip("/")
    return f"{safe_path(text)}/" if text else ""


def _versions(labels: list[str], game: Game) -> str | None:
    known = [version.label for version in game.versions if version.label in labels]
    return f"vers:{game.version_scheme}/{'|'.join(known)}" if known else None


def _kind(game: Game, slug: str) -> str:
    if slug not in [kind.slug for kind in game.kinds]:
        raise Refusal(400, "kind", f"{game.name} has no such kind of content.")
    return slug


def _page(asked: OwnModRequest, build: BuildValue) -> str | None:
    page = asked.page.strip()
    if page and not page.startswith(("http://", "https://")):
        raise Refusal(400, "page", "The address of a page begins with http:// or https://. Nothing was added.")
    if build.file is not None and build.file.url is None and not page:
        raise Refusal(
            400,
            "page",
            "Members have to fetch this file themselves, so say on which page they find it. Nothing was added.",
        )
    return page or None


def _free_slug(game: GameRow, name: str) -> str:
    base = slug_of(name)
    slug, number = base, 2
    while ModRow.objects.filter(game=game, slug=slug).exists():
        slug, number = f"{base}-{number}", number + 1
    return slug


@transaction.atomic
def check_reach(row: ModRow, by: Any) -> ModRow:
    """A second curator confirms the reach that was stated; from then on the mod shows it. Raises Refusal."""
    if row.shelf is None or not on_team(row.shelf, by):
        raise Refusal(404, "no-mod", "There is no such mod on a shelf of yours.")
    if not row.stated_reach or row.reach_checked_by_id is not None:
        raise Refusal(409, "checked", "There is nothing to check: the reach of this mod is settled.")
    if row.stated_by_id == by.pk:
        raise Refusal(403, "second", "Somebody else than who stated the reach must check it.")
    row.reach_checked_by = by
    row.document["reach"] = row.stated_reach
    row.save(update_fields=["reach_checked_by", "document", "changed"])
    announce("catalogue")
    return row
